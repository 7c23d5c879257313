/** What is kept after conditioning: each against its own dry half, as a share with its interval. */
import { Chart } from "../../parts/Chart";
import type { Schemas } from "../../api/client";
import { useWidth } from "../../parts/useWidth";

type View = Schemas["CompareView"];

const ROW = 34;
const HEAD = 28;
export const CONDITIONING = "conditioning";

/** The families that hold something conditioned against the same in its usual state. */
export const keptOf = (view: View) => view.families.filter((f) => f.of === CONDITIONING && !f.every_pair);

interface Row {
  key: string;
  /** What it went through: its rows stand together, under this. */
  group: string;
  name: string;
  ratio: number | null;
  low: number | null;
  high: number | null;
  told: string;
  over: boolean;
}

function rowsOf(view: View): Row[] {
  const label = new Map(view.treatments.map((t) => [t.letter, t.label]));
  const levels = view.factors.find((f) => f.key === CONDITIONING)?.levels ?? [];
  /** Where there are several strata: what a treatment went through. */
  const group = (c: View["families"][number]["comparisons"][number]) =>
    (c.stratum && levels.find((l) => l.id === view.cells[c.first]?.[CONDITIONING])?.name) || "";
  const rows = keptOf(view).flatMap((f): Row[] => [
    ...f.comparisons.map((c) => ({
      ...c,
      key: c.first + c.second,
      group: group(c),
      name: (group(c) ? c.stratum : label.get(c.first)) ?? "",
      told: c.outcome,
      over: false,
    })),
    ...f.pooled.map((o) => ({
      ...o,
      key: o.name,
      group: o.first,
      name: `over all ${o.strata}`,
      told: o.outcome,
      over: true,
    })),
  ]);
  const groups = [...new Set(rows.map((r) => r.group))];
  return groups.flatMap((name) => rows.filter((r) => r.group === name));
}

export function Kept({ view }: { view: View }) {
  const [holder, width] = useWidth(700);
  const rows = rowsOf(view);
  const begins = rows.map((r, i) => r.group !== "" && r.group !== rows[i - 1]?.group);
  const left = width < 560 ? 12 : 240;
  const high = 1.05 * Math.max(1.1, ...rows.map((r) => Math.min(r.high ?? r.ratio ?? 0, 2)));
  const x = (v: number) => left + ((width - left - 64) * Math.min(v, high)) / high;
  const step = width < 560 ? ROW + 14 : ROW;
  const top = rows.map((_, i) => i * step + HEAD * begins.slice(0, i + 1).filter(Boolean).length);
  const foot = rows.length * step + HEAD * begins.filter(Boolean).length;
  return (
    <figure className="sheet px-3 py-2">
      <div ref={holder} className="w-full overflow-hidden">
        <Chart width={width} height={foot + 26} label="What is kept, in percent">
          {[0, 0.25, 0.5, 0.75, 1]
            .filter((v) => v <= high)
            .map((v) => (
              <g key={v}>
                <path d={`M${x(v)} 0v${foot}`} className={v === 1 ? "stroke-ink" : "stroke-rule"} />
                <text x={x(v)} y={foot + 18} textAnchor="middle" className="fill-faded text-[12px]">
                  {100 * v} %
                </text>
              </g>
            ))}
          {rows.map((r, i) => {
            const y = (top[i] ?? 0) + (step > ROW ? 30 : ROW / 2);
            return (
              <g key={r.key}>
                {begins[i] && (
                  <text x={2} y={(top[i] ?? 0) - 7} className="fill-faded text-[14px] font-semibold">
                    {r.group}
                  </text>
                )}
                <text
                  x={r.group ? 14 : 2}
                  y={step > ROW ? y - 13 : y + 5}
                  className={`fill-ink text-[14px] ${r.over ? "font-semibold" : ""}`}
                >
                  {r.name.length > 30 ? `${r.name.slice(0, 29)}…` : r.name}
                  <title>{r.name}</title>
                </text>
                {r.low !== null && (
                  <rect
                    x={x(r.low)}
                    y={y - (r.over ? 8 : 6)}
                    width={Math.max(1, x(r.high ?? high) - x(r.low))}
                    height={r.over ? 16 : 12}
                    className="fill-spruce/15 stroke-spruce/60"
                  />
                )}
                {r.ratio !== null && (
                  <>
                    <path d={`M${x(r.ratio)} ${y - 10}v20`} className="stroke-spruce" strokeWidth="3" />
                    <text x={width - 2} y={y + 5} textAnchor="end" className="fill-ink text-[14px]">
                      {(100 * r.ratio).toFixed(0)} %
                    </text>
                  </>
                )}
                {r.ratio === null && (
                  <text x={x(0) + 6} y={y + 5} className="fill-faded text-[13px]">
                    {r.told}
                  </text>
                )}
              </g>
            );
          })}
        </Chart>
      </div>
      <figcaption className="border-t border-rule pt-1 text-sm text-faded">
        Kept: conditioned as a share of the same treatment in its usual state, with its interval. The line at
        100 % is: nothing lost.
      </figcaption>
    </figure>
  );
}
