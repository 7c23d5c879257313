/** Treatments that share boards or panels, held against each other within them. */
import type { Schemas } from "../../api/client";
import { counted, useUnits } from "../../parts/units";
import { SCROLLS } from "../../parts/faces";
import { doubtOf } from "../../parts/figures";
import { p } from "./Table";

type View = Schemas["CompareView"];

export const WithinBlocks = ({ view }: { view: View }) => (
  <>
    {view.within.map((found) => (
      <OneSet key={found.reference} view={view} found={found} />
    ))}
  </>
);

/** The treatments that share blocks with each other. */
function OneSet({ view, found }: { view: View; found: Schemas["Within"] }) {
  const units = useUnits();
  const num = (v: number | null) => (v === null ? "" : units.number(v, view.dimension, doubtOf(view)));
  const unit = units.symbol(view.dimension);
  const heads = [
    "Treatment",
    `balanced mean in ${unit}`,
    `against ${found.reference}, ${unit}`,
    "interval",
    "p",
  ];
  return (
    <section aria-label={`Within each ${found.name}, against ${found.reference}`}>
      <h3 className="head mb-1">Within each {found.name}</h3>
      <p className="max-w-3xl">
        The {counted(found.blocks, found.name)} took out {Math.max(0, found.taken_out_pct).toFixed(0)} % of
        the scatter (p = {p(found.p)}). Held against each other on the same {found.name}:
      </p>
      <div
        className="sheet mt-2 overflow-x-auto"
        tabIndex={SCROLLS}
        role="region"
        aria-label="Within blocks in figures"
      >
        <table className="w-full min-w-xl text-right" data-testid="within">
          <thead className="border-b border-strong-rule">
            <tr>
              {heads.map((h, i) => (
                <th key={h} scope="col" className={`head px-3 py-2 ${i === 0 ? "text-left" : ""}`}>
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {found.rows.map((r) => (
              <tr key={r.letter} className="border-b border-rule last:border-b-0">
                <th scope="row" className="px-3 py-1 text-left font-normal wrap-anywhere">
                  <span className="mr-2 font-mono font-semibold">{r.letter}</span>
                  {r.label}
                </th>
                <td className="px-3 font-semibold">{num(r.mean)}</td>
                <td className="px-3">{num(r.diff)}</td>
                <td className="px-3 whitespace-nowrap">
                  {r.ci_low === null ? "" : `${num(r.ci_low)} to ${num(r.ci_high)}`}
                </td>
                <td className="px-3">{r.p === null ? "" : p(r.p)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="mt-1 text-sm text-faded">
        Means as if every {found.name} carried every treatment; intervals hold for all pairs at once (95 %,
        Tukey).
      </p>
    </section>
  );
}
