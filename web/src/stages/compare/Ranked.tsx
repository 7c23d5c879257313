/** Many treatments in one list, the highest first, each with its interval on a shared axis. */
import type { Schemas } from "../../api/client";
import { SCROLLS } from "../../parts/faces";
import { doubtOf } from "../../parts/figures";
import { useUnits } from "../../parts/units";

type View = Schemas["CompareView"];

export function Ranked({ view }: { view: View }) {
  const units = useUnits();
  const rows = view.treatments
    .flatMap((t) => (t.estimate ? [{ t, e: t.estimate }] : []))
    .sort((a, b) => b.e.value - a.e.value);
  const most = Math.max(1e-9, ...rows.map(({ e }) => e.high ?? e.value)) * 1.02;
  const x = (v: number) => `${(100 * Math.min(v, most)) / most}%`;
  const number = (v: number) => units.number(v, view.dimension, doubtOf(view));
  const without = view.treatments.filter((t) => !t.estimate);
  return (
    <div className="sheet overflow-x-auto" tabIndex={SCROLLS} role="region" aria-label="Ranked list">
      <table className="w-full min-w-xl text-sm" data-testid="ranked">
        <thead className="border-b border-strong-rule">
          <tr>
            <th scope="col" className="head px-3 py-1 text-left">
              Treatment
            </th>
            <th scope="col" className="head px-3 text-right">
              {units.symbol(view.dimension)}
            </th>
            <th scope="col" className="head px-3 text-right">
              n
            </th>
            <th scope="col" className="head w-1/2 px-3 text-left">
              with its 95 % interval
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map(({ t, e }) => (
            <tr key={t.letter} className="border-b border-rule last:border-b-0">
              <th scope="row" className="px-3 py-1 text-left font-normal">
                <span className="mr-2 font-mono font-semibold">{t.letter}</span>
                {t.label}
                {t.role === "solid" && <span className="text-faded"> (solid)</span>}
                {t.is_control && <span className="text-spruce"> control</span>}
              </th>
              <td className="px-3 text-right font-semibold whitespace-nowrap">
                {e.of === "at least" && "≥ "}
                {number(e.value)}
                {e.of === "median" && <span className="text-faded"> median</span>}
              </td>
              <td className="px-3 text-right">{t.n}</td>
              <td className="px-3">
                <div className="relative h-5" aria-hidden>
                  {e.low !== null && e.high !== null && (
                    <span
                      className="absolute top-1 h-3 rounded-sm border border-spruce/50 bg-spruce/15"
                      style={{
                        left: x(Math.max(0, e.low)),
                        width: `calc(${x(e.high)} - ${x(Math.max(0, e.low))})`,
                      }}
                    />
                  )}
                  <span
                    className="absolute top-0 h-5 border-l-3 border-spruce"
                    style={{ left: x(e.value) }}
                  />
                  {e.of === "at least" && (
                    <span className="absolute -top-0.5 pl-1 text-spruce" style={{ left: x(e.value) }}>
                      →
                    </span>
                  )}
                </div>
                <span className="sr-only">
                  {e.low !== null && e.high !== null
                    ? `${number(e.low)} to ${number(e.high)}`
                    : "no interval"}
                </span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {without.length > 0 && (
        <p className="px-3 py-1 text-sm text-faded">
          Without a figure: {without.map((t) => `${t.label} (${t.standing})`).join(", ")}
        </p>
      )}
    </div>
  );
}
