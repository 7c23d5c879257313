/** Two crossed factors as lines: side by side, the one does the same on each level of the other. */
import { Chart } from "../../parts/Chart";
import type { Schemas } from "../../api/client";
import { niceTicks } from "../../parts/ticks";
import { useUnits } from "../../parts/units";
import { useWidth } from "../../parts/useWidth";
import type { Look } from "./linked";

type View = Schemas["CompareView"];

const HEIGHT = 320;
const LEFT = 52;
const BOTTOM = 40;
const DASHES = ["", "7 3", "2 3", "9 3 2 3", "4 4"];

export function Lines({ view, look }: { view: View; look: Look }) {
  const [holder, width] = useWidth(700);
  const units = useUnits();
  const factors = view.factors.filter((f) => f.levels.length > 1);
  const across = factors.find((f) => f.key === look.get("across")) ?? factors[1];
  const of = factors.find((f) => f !== across);
  if (!across || !of) return null;
  const others = factors.filter((f) => f !== across && f !== of);
  const groups = new Map<string, Schemas["TreatmentResult"][]>();
  for (const t of view.treatments) {
    const cell = view.cells[t.letter];
    if (!cell || !t.estimate) continue;
    const name = [of, ...others]
      .map((f) => f.levels.find((l) => l.id === cell[f.key])?.name ?? "")
      .join(" · ");
    groups.set(name, [...(groups.get(name) ?? []), t]);
  }
  const lines = [...groups];
  const right = width < 560 ? 16 : 170;
  const step = (width - LEFT - right) / Math.max(1, across.levels.length);
  const x = (id: string, i: number) =>
    LEFT + step * (across.levels.findIndex((l) => l.id === id) + 0.5) + (i - (lines.length - 1) / 2) * 5;
  const all = lines.flatMap(([, own]) => own.flatMap((t) => (t.estimate ? [t.estimate] : [])));
  const most = 1.05 * Math.max(1e-9, ...all.map((e) => e.high ?? e.value));
  const y = (v: number) => 8 + (HEIGHT - BOTTOM - 8) * (1 - Math.max(0, v) / most);
  const scale = units.convert(1, view.dimension);
  return (
    <figure className="sheet px-3 py-2">
      <div ref={holder} className="w-full overflow-hidden">
        <Chart width={width} height={HEIGHT} label={`${view.figure_name} by ${across.name}`}>
          {niceTicks(most * scale).map((tick) => (
            <g key={tick}>
              <path d={`M${LEFT} ${y(tick / scale)}H${width - right}`} className="stroke-rule" />
              <text x={LEFT - 6} y={y(tick / scale) + 4} textAnchor="end" className="fill-faded text-[12px]">
                {tick}
              </text>
            </g>
          ))}
          {across.levels.map((l) => (
            <text
              key={l.id}
              x={x(l.id, (lines.length - 1) / 2)}
              y={HEIGHT - 22}
              textAnchor="middle"
              className="fill-ink text-[13px]"
            >
              {l.name}
            </text>
          ))}
          <text x={width - right} y={HEIGHT - 4} textAnchor="end" className="fill-faded text-[12px]">
            {across.name}; {units.symbol(view.dimension)}
          </text>
          {lines.map(([name, own], i) => (
            <Line
              key={name}
              name={width < 560 ? "" : name}
              dash={DASHES[i % DASHES.length] ?? ""}
              points={own
                .map((t) => ({
                  at: x(view.cells[t.letter]?.[across.key] ?? "", i),
                  value: y(t.estimate?.value ?? 0),
                  ends: [t.estimate?.low, t.estimate?.high].map((e) => (e == null ? null : y(e))),
                  letter: t.letter,
                }))
                .toSorted((a, b) => a.at - b.at)}
            />
          ))}
        </Chart>
      </div>
      <figcaption className="space-y-0.5 border-t border-rule pt-1 text-sm text-faded">
        <p className="flex flex-wrap gap-x-4">
          {lines.map(([name], i) => (
            <span key={name}>
              <svg width="28" height="8" aria-hidden className="mr-1 inline">
                <path d="M0 4h28" className="stroke-spruce" strokeWidth="2" strokeDasharray={DASHES[i % 5]} />
              </svg>
              {name}
            </span>
          ))}
        </p>
        {view.answers
          .filter((a) => a.kind === "does_it_depend" && a.text)
          .map((a) => (
            <p key={a.id}>{a.text}</p>
          ))}
      </figcaption>
    </figure>
  );
}

interface LineProps {
  name: string;
  dash: string;
  points: readonly { at: number; value: number; ends: (number | null)[]; letter: string }[];
}

function Line({ name, dash, points }: LineProps) {
  const last = points.at(-1);
  return (
    <g>
      <path
        d={points.map((p, i) => `${i ? "L" : "M"}${p.at} ${p.value}`).join("")}
        className="fill-none stroke-spruce"
        strokeWidth="2"
        strokeDasharray={dash}
      />
      {points.map((p) => (
        <g key={p.letter}>
          {p.ends[0] != null && p.ends[1] != null && (
            <path d={`M${p.at} ${p.ends[0]}V${p.ends[1]}`} className="stroke-spruce/60" strokeWidth="2" />
          )}
          <circle cx={p.at} cy={p.value} r="4" className="fill-spruce-deep" />
        </g>
      ))}
      {last && name && (
        <text x={last.at + 10} y={last.value + 4} className="fill-ink text-[13px]">
          {name.length > 22 ? `${name.slice(0, 21)}…` : name}
        </text>
      )}
    </g>
  );
}
