/** Places within each condition, and over those ticked, all weighing alike; equal figures share one. */
import type { Schemas } from "../../api/client";
import { SCROLLS } from "../../parts/faces";
import { doubtOf } from "../../parts/figures";
import { useUnits } from "../../parts/units";
import type { Look } from "./linked";

type View = Schemas["CompareView"];

/** Places from the highest down; figures that are shown alike share one. */
function placesOf(values: ReadonlyMap<string, number>): Map<string, number> {
  const all = [...values.values()];
  return new Map([...values].map(([k, v]) => [k, 1 + all.filter((o) => o > v).length]));
}

export function Ranks({ view, look }: { view: View; look: Look }) {
  const units = useUnits();
  const factors = view.factors.filter((f) => f.levels.length > 1);
  const across = factors.find((f) => f.key === look.get("across")) ?? factors[1];
  if (!across || factors.length < 2) return null;
  const rest = factors.filter((f) => f !== across);
  const off = look.all("unranked");
  const figure = (v: number) => Number(units.number(v, view.dimension, doubtOf(view)).replace(/\s/g, ""));
  const names = new Map<string, string>();
  const within = across.levels.map((level) => {
    const values = new Map<string, number>();
    for (const t of view.treatments) {
      const cell = view.cells[t.letter];
      if (cell?.[across.key] !== level.id || !t.estimate) continue;
      const key = rest.map((f) => cell[f.key]).join(" ");
      names.set(key, rest.map((f) => f.levels.find((l) => l.id === cell[f.key])?.name ?? "").join(" · "));
      values.set(key, figure(t.estimate.value));
    }
    return { level, values, places: placesOf(values) };
  });
  const used = within.filter((w) => !off.includes(w.level.id));
  const overall = new Map<string, number>();
  for (const key of names.keys()) {
    const own = used.flatMap((w) => w.places.get(key) ?? []);
    // Whoever lacks a condition has no place over all of them.
    if (used.length && own.length === used.length) {
      overall.set(key, -own.reduce((a, b) => a + b, 0) / own.length);
    }
  }
  const last = placesOf(overall);
  const rows = [...names].sort((a, b) => (last.get(a[0]) ?? 1e9) - (last.get(b[0]) ?? 1e9));
  return (
    <details>
      <summary className="cursor-pointer text-lg font-bold">Places by {across.name.toLowerCase()}</summary>
      <p className="my-1 max-w-3xl text-sm text-faded">
        By the {view.school ? "school chosen" : "figures shown"}, from the highest down; overall by the mean
        place, each ticked column weighing alike. A place says nothing of how sure it is: see the comparisons.
      </p>
      <div
        className="sheet overflow-x-auto"
        tabIndex={SCROLLS}
        role="region"
        aria-label="Places by condition"
      >
        <table className="w-full min-w-xl text-right text-sm" data-testid="ranks">
          <thead className="border-b border-strong-rule">
            <tr>
              <th scope="col" className="head px-3 py-1 text-left">
                {rest.map((f) => f.name).join(" · ")}
              </th>
              {within.map(({ level }) => (
                <th key={level.id} scope="col" className="head px-3 py-1">
                  <label className="inline-flex items-center gap-1">
                    <input
                      type="checkbox"
                      className="size-4 no-print"
                      checked={!off.includes(level.id)}
                      onChange={(e) =>
                        look.set(
                          "unranked",
                          e.target.checked ? off.filter((x) => x !== level.id) : [...off, level.id],
                        )
                      }
                    />
                    {level.name}
                  </label>
                </th>
              ))}
              <th scope="col" className="head px-3 py-1">
                overall
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map(([key, name]) => (
              <tr key={key} className="border-b border-rule last:border-b-0">
                <th scope="row" className="px-3 py-1 text-left font-normal">
                  {name}
                </th>
                {within.map((w) => (
                  <td key={w.level.id} className={`px-3 ${off.includes(w.level.id) ? "text-faded" : ""}`}>
                    {w.places.get(key) !== undefined && `${w.places.get(key)}.`}
                  </td>
                ))}
                <td className="px-3 font-semibold">
                  {last.has(key) ? `${last.get(key)}. (${(-(overall.get(key) ?? 0)).toFixed(1)})` : "–"}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </details>
  );
}
