/**
 * A numeric factor as an axis to scale: pieces, means with their intervals, the fitted curve with its
 * band, the plateau.
 */
import { Chart } from "../../parts/Chart";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { niceTicks } from "../../parts/ticks";
import { Word } from "../../parts/Word";
import { useWidth } from "../../parts/useWidth";
import { useUnits, type Units } from "../../parts/units";
import type { Look } from "./linked";

type View = Schemas["CompareView"];
type Axis = Schemas["Axis"];

const HEIGHT = 330;
const LEFT = 58;
const RIGHT = 30;
const BOTTOM = 44;
/** Dashes beside colour: lines are told apart in print too. */
const DASHES = ["", "7 3", "2 3", "9 3 2 3", "4 4"];

interface AxisProps {
  view: View;
  onOpen: (code: string) => void;
}

export function AxisPlot({ view, onOpen, look }: AxisProps & { look: Look }) {
  const units = useUnits();
  const [share, setShare] = useState(look.get("reach") ? String(100 * Number(look.get("reach"))) : "90");
  const [which, setWhich] = useState(0);
  const axis = view.axes[Math.min(which, view.axes.length - 1)];
  if (!axis) return null;
  return (
    <figure className="sheet px-3 py-2">
      {view.axes.length > 1 && (
        <label className="text-sm no-print">
          along{" "}
          <select className="written" value={which} onChange={(e) => setWhich(Number(e.target.value))}>
            {view.axes.map((a, i) => (
              <option key={a.factor} value={i}>
                {a.name}
              </option>
            ))}
          </select>
        </label>
      )}
      <Plot view={view} axis={axis} onOpen={onOpen} />
      <figcaption className="space-y-0.5 border-t border-rule pt-1 text-sm text-faded">
        {axis.series.map((s, i) => (
          <p key={s.stratum}>
            {axis.series.length > 1 && (
              <svg width="30" height="8" aria-hidden className="mr-2 inline">
                <path d="M0 4h30" className="stroke-spruce" strokeWidth="2" strokeDasharray={DASHES[i % 5]} />
              </svg>
            )}
            {s.stratum && <strong>{s.stratum}: </strong>}
            {s.text} {slopeOf(units, view, axis, s)}
          </p>
        ))}
        <p className="text-ink">
          Where does it cross{" "}
          <input
            className="written w-12 no-print"
            aria-label="Share of the reference in percent"
            inputMode="decimal"
            value={share}
            onChange={(e) => setShare(e.target.value)}
            onBlur={() => {
              const part = Number(share.replace(",", ".")) / 100;
              look.set("reach", part > 0 && part <= 2 && part !== 0.9 ? String(part) : "");
            }}
          />{" "}
          % of its reference?{" "}
          {view.reached
            .filter((r) => r.factor === axis.factor)
            .map((r) => (r.stratum ? `${r.stratum}: ${r.text}` : r.text))
            .join(" ")}
        </p>
        <p>
          Points: pieces. Bars: mean with its 95 % <Word of="interval" />.
          {view.answers.some((a) => a.kind === "how_much_is_enough" && a.of === axis.factor) &&
            " Ringed: enough, by the answer above."}
        </p>
      </figcaption>
    </figure>
  );
}

/** The straight line in words: by how much for one unit, and whether the levels lie off it. */
function slopeOf(units: Units, view: View, axis: Axis, s: Schemas["Series"]): string {
  if (!s.slope) return "";
  const number = (v: number) => units.text(v, view.dimension, Math.abs(v) / 100);
  const lack = s.slope.lack_p;
  const fits =
    lack === null ? "" : lack < 0.05 ? "; the levels lie off a straight line" : "; no lack of fit is shown";
  return (
    `Straight line: ${number(s.slope.by)} for 1 ${axis.unit || "step"} ` +
    `(${number(s.slope.low)} to ${number(s.slope.high)})${fits}.`
  );
}

function Plot({ view, axis, onOpen }: AxisProps & { axis: Axis }) {
  const [holder, width] = useWidth(640);
  const units = useUnits();
  const points = axis.series.flatMap((s) => s.points);
  const asked = view.answers.find((a) => a.kind === "how_much_is_enough" && a.of === axis.factor);
  const enough = new Set(asked?.table.filter((r) => r.standing === "enough").flatMap((r) => r.letters));
  const xs = points.map((p) => p.x);
  const [first, last] = [Math.min(...xs), Math.max(...xs)];
  // Levels that span more than a decade stand on a log axis; 0 has no logarithm and stands apart at its left.
  const positive = xs.filter((v) => v > 0);
  const log = positive.length > 1 && Math.max(...positive) / Math.min(...positive) > 12;
  const zero = log && first <= 0;
  const low = log ? Math.log(Math.min(...positive)) : Math.min(0, first);
  const high = log ? Math.log(last) : last;
  const start = LEFT + (zero ? 46 : 14);
  const inner = width - start - RIGHT;
  const x = (v: number) =>
    zero && v <= 0 ? LEFT + 14 : start + (inner * ((log ? Math.log(v) : v) - low)) / (high - low || 1);
  const of = new Map(view.treatments.map((t) => [t.letter, t]));
  const most =
    1.05 *
    Math.max(
      1e-9,
      ...points.flatMap((p) => of.get(p.letter)?.marks.map((m) => m.high ?? m.low) ?? []),
      ...axis.series.flatMap((s) => s.curve.map((c) => c.value)),
    );
  const y = (v: number) => 8 + (HEIGHT - BOTTOM - 8) * (1 - Math.max(0, Math.min(most, v)) / most);
  const names = [...new Map(points.map((p) => [p.x, p.level]))].sort((a, b) => a[0] - b[0]);
  const ticks = niceTicks(units.convert(most, view.dimension)).map(
    (t) => [t, t / units.convert(1, view.dimension)] as const,
  );
  return (
    <div ref={holder} className="w-full overflow-hidden">
      <Chart
        width={width}
        height={HEIGHT}
        label={`${view.figure_name} along ${axis.name}. ${axis.series.map((s) => s.text).join(" ")}`}
      >
        {ticks.map(([shown, t]) => (
          <g key={shown}>
            <path d={`M${LEFT} ${y(t)}H${width - RIGHT}`} className="stroke-rule" />
            <text x={LEFT - 6} y={y(t) + 4} textAnchor="end" className="fill-faded text-[12px]">
              {shown}
            </text>
          </g>
        ))}
        {view.good_enough.limits
          .filter((l) => l.shown && l.value <= most)
          .map((l) => (
            <g key={l.name}>
              <path
                d={`M${LEFT} ${y(l.value)}H${width - RIGHT}`}
                className="stroke-notice"
                strokeDasharray="2 4"
              />
              <text x={LEFT + 4} y={y(l.value) - 4} className="fill-notice text-[12px]">
                {l.name}
              </text>
            </g>
          ))}
        {names.map(([v, name], i) => (
          <g key={v}>
            <path d={`M${x(v)} ${HEIGHT - BOTTOM}v5`} className="stroke-strong-rule" />
            <text
              x={x(v)}
              y={HEIGHT - BOTTOM + (i % 2 && names.length > 6 ? 30 : 18)}
              textAnchor="middle"
              className="fill-faded text-[12px]"
            >
              {name}
            </text>
          </g>
        ))}
        <text x={width - RIGHT} y={HEIGHT - 2} textAnchor="end" className="fill-faded text-[12px]">
          {axis.name}
          {log && ", log axis"}; {units.symbol(view.dimension)}
        </text>
        {axis.series.map((s, i) => (
          <g key={s.stratum}>
            <Curve s={s} x={x} y={y} dash={DASHES[i % 5] ?? ""} />
            {s.curve.length === 0 && (
              <path
                d={s.points
                  .flatMap((p) => {
                    const e = of.get(p.letter)?.estimate;
                    return e ? [`${x(p.x)} ${y(e.value)}`] : [];
                  })
                  .map((at, j) => `${j ? "L" : "M"}${at}`)
                  .join("")}
                className="fill-none stroke-spruce/70"
                strokeWidth="1.5"
                strokeDasharray={DASHES[i % 5]}
              />
            )}
            {s.points.map((p) => {
              const t = of.get(p.letter);
              const e = t?.estimate;
              const at = x(p.x) + (i - (axis.series.length - 1) / 2) * 7;
              return (
                <g key={p.letter}>
                  {t?.marks.map((m, j) => (
                    <g
                      key={m.code}
                      opacity={m.hollow ? 0.4 : 0.8}
                      className="cursor-pointer"
                      onClick={() => onOpen(m.code)}
                    >
                      <circle
                        cx={at + ((j * 5) % 9) - 4}
                        cy={y(m.low)}
                        r="2.4"
                        className={m.hollow ? "fill-none stroke-faded" : "fill-wood"}
                      >
                        <title>{m.code}</title>
                      </circle>
                      {m.high === null && (
                        <path
                          d={`M${at + ((j * 5) % 9) - 4} ${y(m.low) - 3}v-9m-3 4 3-4 3 4`}
                          className="fill-none stroke-ink"
                        />
                      )}
                    </g>
                  ))}
                  {e && e.low !== null && e.high !== null && (
                    <path d={`M${at} ${y(e.low)}V${y(e.high)}`} className="stroke-spruce" strokeWidth="2" />
                  )}
                  {e && (
                    <path d={`M${at - 6} ${y(e.value)}h12`} className="stroke-spruce-deep" strokeWidth="3">
                      <title>{t?.label}</title>
                    </path>
                  )}
                  {e && enough.has(p.letter) && (
                    <circle cx={at} cy={y(e.value)} r="10" className="fill-none stroke-spruce" />
                  )}
                </g>
              );
            })}
          </g>
        ))}
      </Chart>
    </div>
  );
}

interface CurveProps {
  s: Schemas["Series"];
  x: (v: number) => number;
  y: (v: number) => number;
  dash: string;
}

function Curve({ s, x, y, dash }: CurveProps) {
  if (!s.curve.length) return null;
  const line = s.curve.map((c, i) => `${i ? "L" : "M"}${x(c.x)} ${y(c.value)}`).join("");
  const banded = s.curve.filter((c) => c.low !== null && c.high !== null);
  const band = [
    ...banded.map((c, i) => `${i ? "L" : "M"}${x(c.x)} ${y(c.high ?? c.value)}`),
    ...banded.toReversed().map((c) => `L${x(c.x)} ${y(c.low ?? c.value)}`),
  ].join("");
  return (
    <>
      <path d={`${band}Z`} className="fill-spruce/12" />
      <path d={line} className="fill-none stroke-spruce" strokeWidth="2" strokeDasharray={dash} />
    </>
  );
}
