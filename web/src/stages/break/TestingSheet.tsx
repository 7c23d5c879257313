/** The testing sheet: printed with its targets and blanks, and typed back in the same order. */
import { useState } from "react";
import { Link, useParams } from "react-router";
import { Problem, type Schemas } from "../../api/client";
import { today } from "../../api/deskClock";
import { useWrite } from "../../api/queries";
import { typeBack, useTestingSheet } from "../../api/testing";
import { Button, Code, DoubtNote, ProblemNote, Waiting } from "../../parts/controls";
import { SCROLLS } from "../../parts/faces";
import { counted, useUnits } from "../../parts/units";
import { useDevice } from "../../parts/useDevice";
import { BLIND } from "./Offered";

type Blank = "at" | "load" | "mode" | "wood" | "note";
type Cells = Record<Blank, string>;
const EMPTY: Cells = { at: "", load: "", mode: "", wood: "", note: "" };

export default function TestingSheet() {
  const batch = Number(useParams().id);
  const { data, error } = useTestingSheet(batch);
  const units = useUnits();
  const [blind, setBlind] = useDevice(BLIND);
  const [day, setDay] = useState(today);
  const [cells, setCells] = useState<Record<string, Cells>>({});
  const save = useWrite((body: Schemas["TestingSheetIn"]) => typeBack(batch, body), batch);
  if (error && !data)
    return <ProblemNote problem={error instanceof Problem ? error : new Problem(0, String(error))} />;
  if (!data) return <Waiting what="the testing sheet" />;
  const blanks = (
    [
      ["at", "broken at", "w-16"],
      ["load", `load, ${units.symbol("force")}`, "w-28"],
      ["mode", "gave way", "w-16"],
      ["wood", "wood, %", "w-14"],
      ["note", "note", "w-40"],
    ] as const
  ).filter(([key]) => key !== "load" || !data.loadless);
  const own = (code: string) => cells[code] ?? EMPTY;
  const send = (confirmed: string[]) =>
    save.mutate(
      { day, confirmed, rows: data.rows.map((r) => ({ code: r.code, ...own(r.code) })) },
      { onSuccess: () => setCells({}) },
    );
  return (
    <section aria-label="Testing sheet" className="space-y-3">
      <div className="flex flex-wrap items-baseline gap-x-6 gap-y-2">
        <h1 className="text-2xl font-bold wrap-anywhere">{data.name}: testing sheet</h1>
        <span className="no-print flex flex-wrap items-baseline gap-x-4">
          <Button onClick={() => window.print()}>Print</Button>
          <label className="flex items-center gap-1.5">
            <input
              type="checkbox"
              className="size-5"
              checked={blind === true}
              onChange={(e) => setBlind(e.target.checked)}
            />
            blind
          </label>
          <Link className="text-spruce underline underline-offset-4" to={`/batch/${batch}/break`}>
            Back to the rig
          </Link>
        </span>
      </div>
      {save.isSuccess && <p role="status">Written down: {counted(save.data.pieces, "piece")}.</p>}
      {data.rows.length === 0 ? (
        <p className="sheet px-4 py-6 text-xl">Every piece is broken.</p>
      ) : (
        <form
          className="space-y-3"
          onSubmit={(e) => {
            e.preventDefault();
            send([]);
          }}
        >
          <p className="leading-10">
            Begun on{" "}
            <input
              type="date"
              aria-label="Day"
              className="written"
              value={day}
              onChange={(e) => setDay(e.target.value)}
            />
            . It gave way: {data.modes.map(([, name = ""], i) => `${i + 1} ${name}`).join(", ")}.
            {!data.loadless && " Loads: 3200, held >3000, between 2000-2200, or apart."}
          </p>
          <div className="overflow-x-auto" tabIndex={SCROLLS} role="region" aria-label="Pieces to break">
            <table className="w-full text-left">
              <thead className="head">
                <tr>
                  {["No.", "Piece", ...(blind ? [] : ["Treatment"]), "Area"].map((h) => (
                    <th key={h} scope="col" className="pr-2">
                      {h}
                    </th>
                  ))}
                  {!data.loadless && !blind && (
                    <th scope="col" className="pr-2">
                      expected
                    </th>
                  )}
                  {blanks.map(([key, name]) => (
                    <th key={key} scope="col" className="pr-2">
                      {name}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {data.rows.map((r, i) => (
                  <tr key={r.code} className="border-t border-rule">
                    <td className="pr-2 text-faded">{r.order}</td>
                    <td className="pr-2">
                      <Code>{r.code}</Code>
                      {r.waits && <span className="block text-sm text-faded">{r.waits}</span>}
                    </td>
                    {!blind && (
                      <td className="max-w-56 pr-2 text-sm wrap-anywhere">
                        <span className="font-mono">{r.treatment}</span> {r.label}
                      </td>
                    )}
                    <td className="pr-2 text-sm whitespace-nowrap">{units.text(r.area_mm2, "area")}</td>
                    {!data.loadless && !blind && (
                      <td className="pr-2 text-sm whitespace-nowrap">{r.expected}</td>
                    )}
                    {blanks.map(([key, name, width]) => (
                      <td key={key} className="py-1 pr-2">
                        <input
                          aria-label={`${name} ${r.code}`}
                          aria-invalid={save.error?.of(`rows.${i}.${key}`) ? true : undefined}
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
          <DoubtNote
            problem={save.error}
            busy={save.isPending}
            act="Save them"
            agreed={save.variables?.confirmed}
            onConfirm={send}
          />
          <p className="no-print flex flex-wrap items-baseline gap-x-4">
            <Button type="submit" look="main" disabled={save.isPending}>
              Write down what was broken
            </Button>
            <span className="text-sm text-faded">
              Times as on the clock, 17:42; after midnight they go on, and a row without one is of now. A row
              without a load is left out.
            </span>
          </p>
        </form>
      )}
    </section>
  );
}
