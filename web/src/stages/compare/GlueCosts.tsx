/** What the glue of a joint costs, and what strength a unit of money buys. */
import type { Schemas } from "../../api/client";
import { useCurrency, useUnits } from "../../parts/units";

export function GlueCosts({ view }: { view: Schemas["CompareView"] }) {
  const units = useUnits();
  const money = useCurrency();
  if (!view.glue_costs.length) return null;
  const label = new Map(view.treatments.map((t) => [t.letter, t.label]));
  const shown = (v: number) => Number(v.toPrecision(2)).toString();
  const guessed = view.glue_costs.some((c) => !c.weighed);
  return (
    <details>
      <summary className="cursor-pointer text-lg font-bold">What the glue costs</summary>
      <table className="mt-2 text-right">
        <thead className="head">
          <tr>
            <th scope="col" className="pr-4 text-left">
              Treatment
            </th>
            <th scope="col" className="px-3">
              glue a joint, g
            </th>
            <th scope="col" className="px-3">
              cost a joint{money && `, ${money}`}
            </th>
            <th scope="col" className="px-3">
              {units.symbol(view.dimension)} for 1 {money || "of money"}
            </th>
          </tr>
        </thead>
        <tbody>
          {view.glue_costs.map((c) => (
            <tr key={c.letter} className="border-t border-rule">
              <th scope="row" className="pr-4 text-left font-normal">
                <span className="mr-2 font-mono font-semibold">{c.letter}</span>
                {label.get(c.letter)}
              </th>
              <td className="px-3">{shown(c.glue_g)}</td>
              <td className="px-3">{shown(c.money)}</td>
              <td className="px-3">
                {c.per_money === null ? "" : shown(units.convert(c.per_money, view.dimension))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="text-sm text-faded">
        Price of the pack, glued area and spread.
        {guessed && " Where the spread was not measured, that of the plan stands in."}
      </p>
    </details>
  );
}
