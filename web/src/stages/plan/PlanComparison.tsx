/**
 * The plan beside others: kept as a file or a template, begun again, or held against another batch's
 * plan.
 */
import { useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { useAgainst, useWrite, writes } from "../../api/queries";
import { Button, ProblemNote } from "../../parts/controls";
import { SCROLLS } from "../../parts/faces";

export function PlanComparison({ view, name }: { view: Schemas["PlanView"]; name: string }) {
  const go = useNavigate();
  const copy = useWrite((title: string) => writes.copyBatch(view.batch_id, title), view.batch_id);
  const keep = useWrite((title: string) => writes.keepTemplate(view.batch_id, title), view.batch_id);
  const [other, setOther] = useState<number | null>(null);
  return (
    <div className="no-print mt-2">
      <p className="flex flex-wrap items-baseline gap-x-5 gap-y-1">
        <a
          className="text-spruce underline underline-offset-4"
          href={`/api/batches/${view.batch_id}/plan.json`}
        >
          Save the plan as a file
        </a>
        <Button
          look="quiet"
          className="py-0"
          disabled={copy.isPending}
          onClick={() =>
            copy.mutate(`${name}, again`, { onSuccess: (made) => void go(`/batch/${made.id}/plan`) })
          }
        >
          Plan another like it
        </Button>
        <Button look="quiet" className="py-0" disabled={keep.isPending} onClick={() => keep.mutate(name)}>
          Keep as a template
        </Button>
        {view.others.length > 0 && (
          <label>
            Differs from{" "}
            <select
              aria-label="Plan to hold against"
              className="written max-w-56"
              value={other ?? ""}
              onChange={(e) => setOther(e.target.value ? Number(e.target.value) : null)}
            >
              <option value="">another plan …</option>
              {view.others.map(([id, title]) => (
                <option key={id} value={id}>
                  {title}
                </option>
              ))}
            </select>
          </label>
        )}
        {keep.isSuccess && (
          <span role="status" className="text-sm text-faded">
            Kept: the next draft can start from it.
          </span>
        )}
      </p>
      <ProblemNote problem={copy.error ?? keep.error} />
      {other !== null && <Differences batch={view.batch_id} other={other} />}
    </div>
  );
}

function Differences({ batch, other }: { batch: number; other: number }) {
  const { data } = useAgainst(batch, other);
  if (!data) return null;
  if (!data.differences.length) return <p role="status">The two plans are the same in everything.</p>;
  const weighty = data.differences.filter((d) => d.weighs).length;
  return (
    <div
      className="mt-2 overflow-x-auto"
      role="region"
      aria-label="Differences of the plans"
      tabIndex={SCROLLS}
    >
      <p className={weighty ? "text-notice" : "text-faded"}>
        {weighty
          ? `${weighty} of these keep the results from being put together as they are (◆).`
          : "None of these keeps the results from being put side by side."}
      </p>
      <table className="w-full min-w-120 text-left">
        <thead className="head">
          <tr>
            <th scope="col">What</th>
            <th scope="col">{data.name}</th>
            <th scope="col">{data.other}</th>
          </tr>
        </thead>
        <tbody>
          {data.differences.map((d) => (
            <tr key={d.what} className="border-t border-rule align-top">
              <th scope="row" className="py-1 pr-3 font-normal">
                {d.weighs && <span aria-label="weighs">◆ </span>}
                {d.what}
              </th>
              <td className="py-1 pr-3 wrap-anywhere">{d.first}</td>
              <td className="py-1 wrap-anywhere">{d.second}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
