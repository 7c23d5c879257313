/** Bond and wood as competing risks, by both shapes, and with mixed failures on either side. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useBonds } from "../../api/pieces";
import { Waiting } from "../../parts/controls";
import { SCROLLS } from "../../parts/faces";
import { useUnits } from "../../parts/units";

type View = Schemas["CompareView"];
type Side = Schemas["Side"];

const SHAPES: Readonly<Record<string, string>> = { lognormal: "lognormal", weibull: "Weibull" };

export function Bonds({ batch, view }: { batch: number; view: View }) {
  const [open, setOpen] = useState(false);
  if (view.loadless || !(view.bounded_by_wood || view.treatments.some((t) => t.bounded))) return null;
  return (
    <details onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="cursor-pointer text-lg font-bold">Bond and wood, each on its own</summary>
      {open && <Told batch={batch} view={view} />}
    </details>
  );
}

function Told({ batch, view }: { batch: number; view: View }) {
  const { data } = useBonds(batch);
  const units = useUnits();
  if (!data) return <Waiting what="bond and wood" />;
  const number = (v: number) => units.number(v, data.dimension, null);
  const label = new Map(view.treatments.map((t) => [t.letter, t.label]));
  const mixed = data.rows.some((r) => r.mixed > 0);
  const heads = ["n", "bond: median", "95 % interval", "5 % stay below", "other shape", "wood: median"];
  return (
    <>
      <p className="my-1 max-w-3xl text-sm text-faded">
        Each piece broke at the weaker of its bond and its wood, taken as independent: a failure of the one
        says that the other bore at least as much. Strength in {units.symbol(data.dimension)}, fitted as
        lognormal and as Weibull, the better one (by AICc) first. A mixed failure counts as one of the wood
        from {data.mixed_at_pct} % of wood on.
      </p>
      <div className="sheet overflow-x-auto" tabIndex={SCROLLS} role="region" aria-label="Bond and wood">
        <table className="w-full min-w-3xl text-right text-sm" data-testid="bonds">
          <thead className="border-b border-strong-rule">
            <tr>
              {["Treatment", ...heads, ...(mixed ? ["mixed: all glue / all wood"] : [])].map((h, i) => (
                <th key={h} scope="col" className={`head px-3 py-1 ${i ? "" : "text-left"}`}>
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {data.rows.map((r) => {
              const [first, second] = r.bond.shapes;
              return (
                <tr key={r.letter} className="border-b border-rule last:border-b-0">
                  <th scope="row" className="px-3 py-1 text-left font-normal">
                    {label.get(r.letter)}
                  </th>
                  <td className="px-3">
                    {r.n}, {r.bond.failures} of the bond
                  </td>
                  <td className="px-3">{medianOf(r.bond, number)}</td>
                  <td className="px-3 whitespace-nowrap">
                    {first?.low != null &&
                      (first.high === null
                        ? `${number(first.low)} or more`
                        : `${number(first.low)} to ${number(first.high)}`)}
                  </td>
                  <td className="px-3">{first ? number(first.q05) : ""}</td>
                  <td className={`px-3 ${r.bond.disagree ? "text-notice" : ""}`}>
                    {second ? `${number(second.median)} ${SHAPES[second.shape]}` : ""}
                    {r.bond.disagree && ", they disagree"}
                  </td>
                  <td className="px-3">{medianOf(r.wood, number)}</td>
                  {mixed && (
                    <td className="px-3">
                      {r.mixed > 0 &&
                        `${r.if_glue === null ? "none" : number(r.if_glue)} / ${
                          r.if_wood === null ? "none" : number(r.if_wood)
                        }`}
                    </td>
                  )}
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
    </>
  );
}

function medianOf(s: Side, number: (v: number) => string): string {
  const best = s.shapes[0];
  if (best) return `${number(best.median)} ${SHAPES[best.shape] ?? ""}`;
  return s.at_least === null ? s.reason : `at least ${number(s.at_least)}`;
}
