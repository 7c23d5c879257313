/** The bench sheet: printed with its targets and blanks, and typed back in the same order. */
import { useState } from "react";
import { Link, useParams } from "react-router";
import { Problem, type Schemas } from "../../api/client";
import { today } from "../../api/deskClock";
import { useBenchSheet, useGlue, useWrite, writes } from "../../api/queries";
import { ChoiceField } from "../../parts/ChoiceField";
import { Button, Code, ProblemNote, Waiting } from "../../parts/controls";
import { SCROLLS } from "../../parts/faces";
import { QuantityField } from "../../parts/QuantityField";
import { clock, useUnits } from "../../parts/units";

type Cells = Record<Blank, string>;
type Blank = "spread" | "closed" | "off" | "force" | "note";
const BLANKS: readonly (readonly [Blank, string, string])[] = [
  ["spread", "spread at", "w-16"],
  ["closed", "closed at", "w-16"],
  ["off", "clamps off", "w-16"],
  ["force", "force read", "w-20"],
  ["note", "note", "w-40"],
];
const EMPTY: Cells = { spread: "", closed: "", off: "", force: "", note: "" };

export default function BenchSheet() {
  const batch = Number(useParams().id);
  const { data, error } = useBenchSheet(batch);
  const { data: glue } = useGlue(batch);
  const units = useUnits();
  const [run, setRun] = useState<number | null>(null);
  const [day, setDay] = useState(today);
  const [bottle, setBottle] = useState("");
  const [air, setAir] = useState<number | null>(null);
  const [damp, setDamp] = useState<number | null>(null);
  const [cells, setCells] = useState<Record<string, Cells>>({});
  const save = useWrite((body: Schemas["BenchSheetIn"]) => writes.benchSheet(batch, body), batch);
  if (error && !data)
    return <ProblemNote problem={error instanceof Problem ? error : new Problem(0, String(error))} />;
  if (!data) return <Waiting what="the bench sheet" />;
  const runs = [...new Set(data.rows.map((r) => r.run))];
  const rows = data.rows.filter((r) => run === null || r.run === run);
  const own = (code: string) => cells[code] ?? EMPTY;
  const send = () =>
    save.mutate(
      {
        day,
        bottle,
        air_c: air,
        humidity_pct: damp,
        rows: rows.map((r) => ({ code: r.code, run: r.run, ...own(r.code) })),
      },
      { onSuccess: () => setCells({}) },
    );
  const wrong = (i: number, key: Blank) => save.error?.of(`rows.${i}.${key}`);
  return (
    <section aria-label="Bench sheet" className="space-y-3">
      <div className="flex flex-wrap items-baseline gap-x-6 gap-y-2">
        <h1 className="text-2xl font-bold wrap-anywhere">{data.name}: bench sheet</h1>
        <span className="no-print flex flex-wrap items-baseline gap-x-4">
          <Button onClick={() => window.print()}>Print</Button>
          <Link className="text-spruce underline underline-offset-4" to={`/batch/${batch}/glue`}>
            Back to the gluing
          </Link>
        </span>
      </div>
      {data.rows.length === 0 ? (
        <p className="sheet px-4 py-6 text-xl">Every joint is glued.</p>
      ) : (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            send();
          }}
          className="space-y-3"
        >
          <p className="leading-10">
            {runs.length > 1 && (
              <>
                <select
                  aria-label="Run"
                  className="written no-print"
                  value={run ?? ""}
                  onChange={(e) => setRun(e.target.value === "" ? null : Number(e.target.value))}
                >
                  <option value="">all runs</option>
                  {runs.map((n) => (
                    <option key={n} value={n}>
                      {n ? `run ${n}` : "without a run"}
                    </option>
                  ))}
                </select>{" "}
              </>
            )}
            Begun on{" "}
            <input
              type="date"
              aria-label="Day"
              className="written"
              value={day}
              onChange={(e) => setDay(e.target.value)}
            />{" "}
            from{" "}
            <ChoiceField
              label="Bottle"
              className="w-40"
              value={bottle}
              placeholder="bottle"
              freeText
              choices={(glue?.bottles ?? []).map(
                ([label, , holds]) => [label, `${label}: ${holds}`] as const,
              )}
              onChange={setBottle}
            />{" "}
            at{" "}
            <QuantityField
              label="Air temperature"
              dimension="temperature"
              className="w-20"
              placeholder={units.symbol("temperature")}
              value={air}
              onChange={setAir}
            />{" "}
            and{" "}
            <QuantityField
              label="Humidity"
              dimension="share"
              className="w-20"
              placeholder="%"
              value={damp}
              onChange={setDamp}
            />{" "}
            humidity.
          </p>
          <div className="overflow-x-auto" tabIndex={SCROLLS} role="region" aria-label="Joints to glue">
            <table className="w-full text-left">
              <thead className="head">
                <tr>
                  {["Run", "Joint", "Treatment", "wanted", ...BLANKS.map(([, name]) => name)].map((h) => (
                    <th key={h} scope="col" className="pr-2">
                      {h}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {rows.map((r, i) => (
                  <tr key={r.code} className="border-t border-rule">
                    <td className="pr-2 text-sm whitespace-nowrap text-faded">
                      {r.run > 0 && `${r.run}, ${r.begins_at ? clock(r.begins_at) : ""}`}
                    </td>
                    <td className="pr-2">
                      <Code>{r.code}</Code>
                    </td>
                    <td className="max-w-56 pr-2 text-sm wrap-anywhere">
                      <span className="font-mono">{r.treatment}</span> {r.label}
                    </td>
                    <td className="pr-2 whitespace-nowrap">{r.wanted}</td>
                    {BLANKS.map(([key, name, width]) => (
                      <td key={key} className="py-1 pr-2">
                        <input
                          aria-label={`${name} ${r.code}`}
                          aria-invalid={wrong(i, key) ? true : undefined}
                          className={`written ${width}`}
                          value={own(r.code)[key]}
                          onChange={(e) =>
                            setCells({ ...cells, [r.code]: { ...own(r.code), [key]: e.target.value } })
                          }
                        />
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <ProblemNote problem={save.error} />
          <p className="no-print flex flex-wrap items-baseline gap-x-4">
            <Button type="submit" look="main" disabled={save.isPending}>
              Write down what was glued
            </Button>
            <span className="text-sm text-faded">
              Times as on the clock, 17:42; after midnight they go on. A row without a closing time is left
              out.
            </span>
          </p>
        </form>
      )}
    </section>
  );
}
