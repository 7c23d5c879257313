/** Which pieces are good enough, what reaches the user's own limits, and the column of a formula. */
import type { Schemas } from "../../api/client";
import { SCROLLS } from "../../parts/faces";
import { doubtOf } from "../../parts/figures";
import { useUnits } from "../../parts/units";

type View = Schemas["CompareView"];

interface TableProps {
  name: string;
  heads: readonly string[];
  rows: readonly (readonly [string, readonly string[]])[];
}

function Figures({ name, heads, rows }: TableProps) {
  return (
    <div className="sheet mt-1 overflow-x-auto" tabIndex={SCROLLS} role="region" aria-label={name}>
      <table className="w-full min-w-lg text-right text-sm">
        <thead className="border-b border-strong-rule">
          <tr>
            {["Treatment", ...heads].map((h, i) => (
              <th key={h} scope="col" className={`head px-3 py-1 ${i ? "" : "text-left"}`}>
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map(([label, cells]) => (
            <tr key={label} className="border-b border-rule last:border-b-0">
              <th scope="row" className="px-3 py-1 text-left font-normal wrap-anywhere">
                {label}
              </th>
              {cells.map((c, i) => (
                <td key={heads[i]} className="px-3">
                  {c}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

export function GoodEnough({ view }: { view: View }) {
  const units = useUnits();
  const g = view.good_enough;
  const label = new Map(view.treatments.map((t) => [t.letter, t.label]));
  const nameOf = (letter: string) => label.get(letter) ?? letter;
  const figure = (v: number | null, dimension: string) =>
    v === null ? "" : units.number(v, dimension, dimension === view.dimension ? doubtOf(view) : null);
  return (
    <>
      {g.rule && (
        <section aria-label="Good enough">
          <h3 className="font-semibold">Good enough: {g.rule}</h3>
          <Figures
            name="Good enough, in figures"
            heads={["pass", "of", "share", "95 % interval", "left open", "p against control"]}
            rows={g.rows.map((r) => [
              r.label,
              [
                String(r.passed),
                String(r.told),
                r.told ? `${((100 * r.passed) / r.told).toFixed(0)} %` : "",
                r.told ? `${r.low_pct.toFixed(0)} to ${r.high_pct.toFixed(0)} %` : "",
                r.open ? String(r.open) : "",
                r.p === null ? "" : r.p < 0.001 ? "< 0.001" : r.p.toFixed(3),
              ],
            ])}
          />
        </section>
      )}
      {g.limits.map((x) => (
        <section key={x.name} aria-label={`Limit: ${x.name}`}>
          <h3 className="font-semibold">
            {x.name}: {units.text(x.value, x.figure === "load" ? "force" : strengthOf(view))}
            {x.usable && ", the usable limit of the control"}
            {x.source && <span className="font-normal text-faded"> (from {x.source})</span>}
          </h3>
          <Figures
            name={`Limit ${x.name}, in figures`}
            heads={["reach it", "of", "left open", "mean, % of it"]}
            rows={x.rows.map((r) => [
              nameOf(r.letter),
              [
                String(r.reached),
                String(r.told),
                r.open ? String(r.open) : "",
                r.mean_pct === null ? "" : r.mean_pct.toFixed(1),
              ],
            ])}
          />
        </section>
      ))}
      {g.formula && (
        <section aria-label={g.formula.name}>
          <h3 className="font-semibold">
            {g.formula.name} <span className="font-normal text-faded">= {g.formula.text}</span>
          </h3>
          <Figures
            name={`${g.formula.name}, in figures`}
            heads={[
              "n",
              `raw mean, ${units.symbol(view.dimension)}`,
              `by the formula, ${units.symbol(g.formula.dimension)}`,
              "SD",
            ]}
            rows={g.formula.rows.map((r) => [
              nameOf(r.letter),
              [
                String(r.n),
                figure(r.raw, view.dimension),
                figure(r.adjusted, g.formula?.dimension ?? ""),
                figure(r.sd, g.formula?.dimension ?? ""),
              ],
            ])}
          />
        </section>
      )}
    </>
  );
}

/** What a strength measures here, whichever figure is shown. */
const strengthOf = (view: View) => (view.figure === "strength" ? view.dimension : view.strength_dimension);
