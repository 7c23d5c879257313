/** A batch in store: when pieces are taken, what is left of each group, missed dates, empty places. */
import type { Schemas } from "../../api/client";
import { useCatalogue, usePlan, useWithdrawals, useWrite, writes } from "../../api/queries";
import { Button, ProblemNote } from "../../parts/controls";
import { SCROLLS } from "../../parts/faces";
import { clock, counted } from "../../parts/units";
import { levelOf } from "../plan/draft";

type Calendar = Schemas["WithdrawalsView"];

/** More groups than this stand together in one column. */
const COLUMNS = 6;

export function Withdrawals({ batch }: { batch: number }) {
  const { data } = useWithdrawals(batch);
  if (!data?.dates.length) return null;
  const now = data.dates.filter((d) => d.state === "due" || d.state === "missed");
  const said = [
    counted(data.left, "piece") + " in store",
    `${counted(data.dates_left, "date")} to come`,
    ...now.map((d) => `${d.age} ${d.state === "missed" ? "missed" : "due now"}`),
  ];
  return (
    <details className="sheet px-4 py-2" open={now.length > 0}>
      <summary className="cursor-pointer">
        <strong>Taken from store</strong>: {said.join("; ")}
      </summary>
      <DatesTable batch={batch} data={data} />
      {data.maps.length > 0 && <Places data={data} />}
    </details>
  );
}

function DatesTable({ batch, data }: { batch: number; data: Calendar }) {
  const apart = data.groups.length <= COLUMNS ? data.groups : ["left of all groups"];
  const sums = (own: number[]) => (apart === data.groups ? own : [own.reduce((a, b) => a + b, 0)]);
  return (
    <div className="relative overflow-x-auto" tabIndex={SCROLLS} role="region" aria-label="Dates">
      <table className="w-full min-w-xl text-right" data-testid="withdrawals">
        <thead className="border-b border-strong-rule">
          <tr>
            <th scope="col" className="head px-2 py-1 text-left">
              Age
            </th>
            <th scope="col" className="head px-2 text-left">
              on
            </th>
            <th scope="col" className="head px-2 text-left">
              state
            </th>
            {apart.map((g) => (
              <th key={g} scope="col" className="head px-2">
                {g}
              </th>
            ))}
            <th scope="col" className="head px-2">
              <span className="sr-only">Fresh reference</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {data.dates.map((d) => (
            <tr key={d.age_s} className="border-b border-rule last:border-b-0">
              <th scope="row" className="px-2 py-1 text-left font-semibold">
                {d.age}
              </th>
              <td className="px-2 text-left">{d.due_from ? clock(d.due_from) : "not glued"}</td>
              <td className={`px-2 text-left ${d.state === "missed" || d.off ? "text-alarm" : ""}`}>
                {[d.state, d.late].filter(Boolean).join(", ")}
              </td>
              {sums(d.left).map((n, i) => (
                <td key={i} className="px-2 tabular-nums">
                  {n}/{sums(d.planned)[i]}
                </td>
              ))}
              <td className="px-2">{d.state !== "done" && <Fresh batch={batch} date={d} />}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** A fresh reference for a date: like the control, glued anew, lest a drifting rig be taken for age. */
function Fresh({ batch, date }: { batch: number; date: Schemas["Withdrawal"] }) {
  const { data: plan } = usePlan(batch);
  const { data: catalogue } = useCatalogue();
  const save = useWrite((body: Schemas["TreatmentIn"]) => writes.treatment(batch, body), batch);
  if (!plan || !catalogue || plan.kind === "draft") return null;
  const document = plan.document as unknown as Schemas["PlanDocument"];
  const ages = document.factors.find((f) => f.key === "cure_s")?.levels ?? [];
  const first = ages
    .filter((l) => typeof l.value === "number")
    .sort((a, b) => Number(a.value) - Number(b.value))[0];
  if (date.fresh_made || !first)
    return date.fresh_made ? <span className="text-sm text-faded">fresh one made</span> : null;
  return (
    <>
      <Button
        look="quiet"
        className="text-sm"
        disabled={save.isPending}
        aria-label={`Fresh reference beside ${date.age}`}
        onClick={() =>
          save.mutate({
            treatment: {
              label: date.fresh,
              changes: { cure_s: levelOf(first.value, first.unit) },
              replicates: document.replicates,
              control: null,
              late: 0,
              id: "",
            },
            reason: "a fresh reference at each date",
          })
        }
      >
        fresh reference
      </Button>
      <ProblemNote problem={save.error} />
    </>
  );
}

function Places({ data }: { data: Calendar }) {
  return (
    <div className="mt-2">
      <h3 className="head">Places still filled</h3>
      {data.maps.map((m) => (
        <p key={m.parent} className="flex flex-wrap items-center gap-1 text-sm">
          <span className="w-32">{m.parent}</span>
          {m.places.map((x) => (
            <span
              key={x.code}
              className={`border px-1 font-mono ${
                x.filled
                  ? "border-strong-rule bg-spruce-pale"
                  : "border-dashed border-rule text-faded line-through"
              }`}
            >
              {x.code}
              {!x.filled && <span className="sr-only"> taken</span>}
            </span>
          ))}
        </p>
      ))}
    </div>
  );
}
