/** How long pieces last: the share still whole over time, and loads that stood on them over log time. */
import { Chart } from "../../parts/Chart";
import type { Schemas } from "../../api/client";
import { span } from "../../parts/units";
import { useUnits } from "../../parts/units";
import { useWidth } from "../../parts/useWidth";

type View = Schemas["CompareView"];
type Lasting = Schemas["Lasting"];

const HEIGHT = 280;
const LEFT = 52;
const RIGHT = 24;
const BOTTOM = 34;
const DASHES = ["", "7 3", "2 3", "9 3 2 3", "4 4"];
const TITLES: Readonly<Record<string, string>> = {
  looks: "Still whole at the looks on the way",
  load: "Still whole under a standing load",
};

interface Props {
  view: View;
  onOpen: (code: string) => void;
}

export function LastingPicture({ view, onOpen }: Props) {
  return (
    <figure className="sheet space-y-3 px-3 py-2">
      {view.lasting.map((l) => (
        <div key={l.kind}>
          <h3 className="head">{TITLES[l.kind]}</h3>
          <Steps view={view} l={l} />
          {l.kind === "load" && <Loads l={l} view={view} onOpen={onOpen} />}
          <ul className="text-sm">
            {l.text.map((text) => (
              <li key={text}>{text}</li>
            ))}
          </ul>
        </div>
      ))}
      <figcaption className="border-t border-rule pt-1 text-sm text-faded">
        Steps by Kaplan and Meier; a small upright: a piece that was still whole when it was looked at last.
      </figcaption>
    </figure>
  );
}

/** Whether times span so much that their logarithms are shown. */
const isWide = (times: readonly number[]) => {
  const positive = times.filter((t) => t > 0);
  return positive.length > 1 && Math.max(...positive) / Math.min(...positive) > 12;
};

function timeAxis(times: readonly number[], width: number) {
  const positive = times.filter((t) => t > 0);
  const log = isWide(times);
  const most = Math.max(1, ...positive);
  const least = log ? Math.min(...positive) / 1.5 : 0;
  const x = (t: number) => {
    const place = log
      ? Math.log(Math.max(t, least) / least) / Math.log((most * 1.1) / least)
      : t / (most * 1.05);
    return LEFT + (width - LEFT - RIGHT) * place;
  };
  const ticks = log
    ? [...new Set(positive)].filter((_, i, all) => i === 0 || i === all.length - 1 || all.length < 7)
    : [0, most / 2, most];
  return { x, ticks: ticks.toSorted((a, b) => a - b), log };
}

function Frame({ x, ticks, width, log }: ReturnType<typeof timeAxis> & { width: number }) {
  return (
    <>
      <path d={`M${LEFT} 8V${HEIGHT - BOTTOM}H${width - RIGHT}`} className="fill-none stroke-strong-rule" />
      {ticks.map((t) => (
        <text key={t} x={x(t)} y={HEIGHT - 16} textAnchor="middle" className="fill-faded text-[12px]">
          {t === 0 ? "0" : span(t)}
        </text>
      ))}
      {log && (
        <text x={width - RIGHT} y={HEIGHT - 2} textAnchor="end" className="fill-faded text-[11px]">
          time, log axis
        </text>
      )}
    </>
  );
}

function Steps({ view, l }: { view: View; l: Lasting }) {
  const [holder, width] = useWidth(640);
  const axis = timeAxis(
    l.pieces.map((p) => p.time_s),
    width,
  );
  const y = (v: number) => 8 + (HEIGHT - BOTTOM - 8) * (1 - v);
  const letters = Object.keys(l.steps);
  const label = new Map(view.treatments.map((t) => [t.letter, t.label]));
  return (
    <div ref={holder} className="w-full overflow-hidden">
      <Chart width={width} height={HEIGHT} label={`${TITLES[l.kind]}. ${l.text.join(" ")}`}>
        <Frame {...axis} width={width} />
        {[0, 0.5, 1].map((v) => (
          <g key={v}>
            <path d={`M${LEFT} ${y(v)}H${width - RIGHT}`} className="stroke-rule" />
            <text x={LEFT - 6} y={y(v) + 4} textAnchor="end" className="fill-faded text-[12px]">
              {100 * v} %
            </text>
          </g>
        ))}
        {letters.map((letter, i) => {
          const own = l.pieces.filter((p) => p.letter === letter);
          const last = Math.max(...own.map((p) => p.time_s));
          const steps = l.steps[letter] ?? [];
          const d = steps.map((s) => `H${axis.x(s.time_s)}V${y(s.whole)}`).join("");
          const end = steps.at(-1)?.whole ?? 1;
          return (
            <g key={letter}>
              <path
                d={`M${LEFT} ${y(1)}${d}H${axis.x(last)}`}
                className="fill-none stroke-spruce"
                strokeWidth="2"
                strokeDasharray={DASHES[i % 5]}
              />
              {own
                .filter((p) => !p.failed)
                .map((p) => (
                  <path key={p.code} d={`M${axis.x(p.time_s)} ${y(end) - 5}v10`} className="stroke-ink" />
                ))}
              <text x={axis.x(last) + 3} y={y(end) - 4 - 12 * (i % 2)} className="fill-ink text-[12px]">
                {letter}
              </text>
            </g>
          );
        })}
      </Chart>
      <p className="flex flex-wrap gap-x-4 text-sm text-faded">
        {letters.map((letter, i) => (
          <span key={letter}>
            <svg width="28" height="8" aria-hidden className="mr-1 inline">
              <path d="M0 4h28" className="stroke-spruce" strokeWidth="2" strokeDasharray={DASHES[i % 5]} />
            </svg>
            {letter} {label.get(letter)}
          </span>
        ))}
      </p>
    </div>
  );
}

/** Each load that stood on a piece, as a share of what its kind bears at once, over the time it stood. */
function Loads({ l, view, onOpen }: Props & { l: Lasting }) {
  const [holder, width] = useWidth(640);
  const units = useUnits();
  const shared = l.pieces.every((p) => p.share !== null);
  const value = (p: Schemas["Lasted"]) => (shared ? (p.share ?? 0) : (p.load_n ?? 0));
  const most = 1.08 * Math.max(1e-9, ...l.pieces.map(value));
  const axis = timeAxis(
    l.pieces.map((p) => p.time_s),
    width,
  );
  const y = (v: number) => 8 + (HEIGHT - BOTTOM - 8) * (1 - v / most);
  const shown = (v: number) => (shared ? `${(100 * v).toFixed(0)} %` : units.text(v, "force"));
  const label = new Map(view.treatments.map((t) => [t.letter, t.label]));
  return (
    <div ref={holder} className="w-full overflow-hidden">
      <p className="text-sm text-faded">
        {shared ? "The load as a share of what such pieces bear at once" : "The load"}, over the time it
        stood; an arrow: it still stood.
      </p>
      <Chart width={width} height={HEIGHT} label="Standing loads over time">
        <Frame {...axis} width={width} />
        {[0, most / 2, most / 1.08].map((v) => (
          <text key={v} x={LEFT - 6} y={y(v) + 4} textAnchor="end" className="fill-faded text-[12px]">
            {shown(v)}
          </text>
        ))}
        {l.pieces.map((p) => (
          <g
            key={p.code}
            transform={`translate(${axis.x(p.time_s)} ${y(value(p))})`}
            className="cursor-pointer"
            onClick={() => onOpen(p.code)}
          >
            <circle r="4" className={p.failed ? "fill-wood" : "fill-sheet stroke-ink"} />
            {!p.failed && <path d="M5 0h10m-3-3 3 3-3 3" className="fill-none stroke-ink" />}
            <text x={6} y={-6} className="fill-faded text-[11px]">
              {p.letter}
              <title>{`${p.code}: ${label.get(p.letter) ?? ""}`}</title>
            </text>
          </g>
        ))}
      </Chart>
    </div>
  );
}
