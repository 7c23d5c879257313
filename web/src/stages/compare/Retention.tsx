/** What is kept: the rows of the answer, each as a share of its own counterpart, with its interval. */
import { Chart } from "../../parts/Chart";
import type { Schemas } from "../../api/client";
import { useWidth } from "../../parts/useWidth";
import { pct, STANDINGS } from "./standings";

type View = Schemas["CompareView"];

const ROW = 34;
const HEAD = 28;
const KINDS: readonly string[] = ["what_is_left", "does_it_last"];

interface Row {
  key: string;
  /** What it went through: its rows stand together, under this. */
  group: string;
  name: string;
  ratio: number | null;
  low: number | null;
  high: number | null;
  told: string;
}

/** The answer to what is left, or to what lasts. */
const keptOf = (view: View) => view.answers.find((a) => KINDS.includes(a.kind) && a.table.length > 1);

export const hasKept = (view: View): boolean => keptOf(view) !== undefined;

function rowsOf(view: View): Row[] {
  const rows = (keptOf(view)?.table ?? [])
    .filter((r) => r.standing !== "base")
    .map((r) => ({
      key: `${r.name} ${r.within}`,
      group: r.within,
      name: r.name,
      ratio: r.share,
      low: r.low,
      high: r.high,
      told: STANDINGS[r.standing] ?? r.standing,
    }));
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
                <text x={r.group ? 14 : 2} y={step > ROW ? y - 13 : y + 5} className="fill-ink text-[14px]">
                  {r.name.length > 30 ? `${r.name.slice(0, 29)}…` : r.name}
                  <title>{r.name}</title>
                </text>
                {r.low !== null && (
                  <rect
                    x={x(r.low)}
                    y={y - 6}
                    width={Math.max(1, x(r.high ?? high) - x(r.low))}
                    height={12}
                    className="fill-spruce/15 stroke-spruce/60"
                  />
                )}
                {r.ratio !== null && (
                  <>
                    <path d={`M${x(r.ratio)} ${y - 10}v20`} className="stroke-spruce" strokeWidth="3" />
                    <text x={width - 2} y={y + 5} textAnchor="end" className="fill-ink text-[14px]">
                      {pct(r.ratio)} %
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
        Each as a share of itself before, with its interval. At the line of 100 % nothing is lost.
      </figcaption>
    </figure>
  );
}
