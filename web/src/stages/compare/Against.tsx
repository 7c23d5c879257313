/** The treatments on an axis of something else: a property, the price, the age; what runs with strength. */
import { Chart } from "../../parts/Chart";
import type { Schemas } from "../../api/client";
import { niceTicks } from "../../parts/ticks";
import { useCurrency, useUnits } from "../../parts/units";
import { useWidth } from "../../parts/useWidth";
import type { Look } from "./linked";

type View = Schemas["CompareView"];
type Quantity = Schemas["Quantity"];

const HEIGHT = 320;
const LEFT = 52;
const RIGHT = 60;
const BOTTOM = 40;

/** A quantity by its name and unit. */
export function titled(q: Quantity, money: string): string {
  const unit = q.unit === "money" ? money : q.unit;
  return q.grades.length ? `${q.name} (1 ${q.grades[0]} …)` : [q.name, unit].filter(Boolean).join(", ");
}

export function Against({ view, look }: { view: View; look: Look }) {
  const [holder, width] = useWidth(700);
  const units = useUnits();
  const money = useCurrency();
  const q = view.quantities.find((x) => x.key === look.get("beside")) ?? view.quantities[0];
  if (!q) return null;
  const points = view.treatments.flatMap((t) => {
    const x = q.means[t.letter];
    return x === undefined || !t.estimate ? [] : [{ t, at: x, e: t.estimate }];
  });
  const xs = points.map((p) => p.at);
  const [low, high] = [Math.min(...xs), Math.max(...xs)];
  const pad = (high - low || 1) * 0.08;
  const x = (v: number) => LEFT + ((width - LEFT - RIGHT) * (v - low + pad)) / (high - low + 2 * pad || 1);
  const most = 1.05 * Math.max(1e-9, ...points.map((p) => p.e.high ?? p.e.value));
  const y = (v: number) => 8 + (HEIGHT - BOTTOM - 8) * (1 - Math.max(0, v) / most);
  const scale = units.convert(1, view.dimension);
  return (
    <figure className="sheet px-3 py-2">
      <label className="text-sm no-print">
        against{" "}
        <select
          className="written"
          aria-label="Quantity beside strength"
          value={q.key}
          onChange={(e) => look.set("beside", e.target.value)}
        >
          {view.quantities.map((one) => (
            <option key={one.key} value={one.key}>
              {titled(one, money)}
            </option>
          ))}
        </select>
      </label>
      <div ref={holder} className="w-full overflow-hidden">
        <Chart width={width} height={HEIGHT} label={`${view.figure_name} against ${q.name}`}>
          {niceTicks(most * scale).map((tick) => (
            <g key={tick}>
              <path d={`M${LEFT} ${y(tick / scale)}H${width - RIGHT}`} className="stroke-rule" />
              <text x={LEFT - 6} y={y(tick / scale) + 4} textAnchor="end" className="fill-faded text-[12px]">
                {tick}
              </text>
            </g>
          ))}
          {[low, high].map((v) => (
            <text key={v} x={x(v)} y={HEIGHT - 22} textAnchor="middle" className="fill-faded text-[12px]">
              {Number(v.toPrecision(3))}
            </text>
          ))}
          <text x={width - 4} y={HEIGHT - 4} textAnchor="end" className="fill-faded text-[12px]">
            {titled(q, money)}; {units.symbol(view.dimension)}
          </text>
          {points.map(({ t, at, e }) => (
            <g key={t.letter}>
              {e.low !== null && e.high !== null && (
                <path d={`M${x(at)} ${y(e.low)}V${y(e.high)}`} className="stroke-spruce/60" strokeWidth="2" />
              )}
              <circle cx={x(at)} cy={y(e.value)} r="5" className="fill-spruce-deep" />
              <text x={x(at) + 8} y={y(e.value) + 4} className="fill-ink text-[13px]">
                {t.letter}
                <title>{t.label}</title>
              </text>
            </g>
          ))}
        </Chart>
      </div>
      <figcaption className="border-t border-rule pt-1 text-sm text-faded">
        <p className="flex flex-wrap gap-x-4">
          {points.map(({ t, at }) => (
            <span key={t.letter}>
              {t.letter} {t.label}: {Number(at.toPrecision(3))}
            </span>
          ))}
        </p>
        {q.within && <p className="text-ink">{q.within}</p>}
      </figcaption>
    </figure>
  );
}
