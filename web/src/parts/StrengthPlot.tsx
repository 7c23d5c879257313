/**
 * One row a treatment, one mark a specimen on a shared axis. The shape says how it failed; an arrow says
 * "at least", a bar "between". A band is the 95 % interval of the mean, the solid reference an upright
 * band behind all rows, the rig's limit a wall.
 */
import { Chart } from "./Chart";
import type { Schemas } from "../api/client";
import { Mark, MarkIcon, MARK_NAMES } from "./marks";
import { useUnits, type Units } from "./units";
import { inWords } from "./figures";
import { arranged } from "./arranged";
import { niceTicks } from "./ticks";
import { useWidth } from "./useWidth";
import { Word } from "./Word";

type Treatment = Schemas["TreatmentResult"];
const NARROW = 600;
const RIGHT = 26;
const TOP = 10;

interface Props {
  view: Schemas["CompareView"];
  /** Treatments of other studies: below all others, and dashed. */
  brought?: readonly Schemas["Brought"][];
  /** A pressed mark opens its piece; by key they are opened from the list of pieces. */
  onOpen?: (code: string) => void;
  /** Boxes of the quartiles with the least and the most, beside the interval. */
  boxes?: boolean;
  /** The factor by whose levels treatments stand together, and whether the highest comes first. */
  by?: string;
  bySize?: boolean;
}

const HEADING = 26;

export function StrengthPlot({ view, brought = [], onOpen, boxes = false, by = "", bySize = false }: Props) {
  const [holder, width] = useWidth(900);
  const units = useUnits();
  const dimension = view.dimension;

  // On a narrow screen the name stands above its row, not beside it.
  const narrow = width < NARROW;
  const left = narrow ? 14 : 230;
  const ROW = narrow ? 88 : 58;
  const lines = [
    ...arranged(view, by, bySize).map((line) => ({ ...line, dashed: false })),
    ...brought.map((b, i) => ({
      t: b.result,
      label: b.label,
      heading: b.study === brought[i - 1]?.study ? "" : `From ${b.study}`,
      dashed: true,
    })),
  ];
  const rows = lines.map((line) => line.t);
  // Where each row begins, below the headings of groups so far.
  const tops = lines.map(
    (_, i) => TOP + i * ROW + HEADING * lines.slice(0, i + 1).filter((line) => line.heading).length,
  );
  const inside = rows.length * ROW + HEADING * lines.filter((line) => line.heading).length;
  const solid = rows.find((t) => t.role === "solid" && t.mean !== null);
  const marks = Math.max(0, ...rows.flatMap((t) => t.marks.map((m) => m.high ?? m.low)));
  const intervals = Math.max(0, ...rows.map((t) => t.ci_high ?? 0));
  // An interval far beyond every piece runs off the picture rather than squeezing it.
  const top = Math.max(marks * 1.08, Math.min(intervals * 1.02, marks * 1.35)) || 1;
  const limits = view.good_enough.limits.filter((x) => x.shown && x.value <= top * 1.15);
  const walls = view.limits.filter((limit) => limit <= top * 1.15);
  const most = Math.max(top, ...walls) * (walls.length ? 1.02 : 1);
  const x = (v: number) => left + ((width - left - RIGHT) * v) / most;
  const height = TOP + inside + 40;
  const ticks = niceTicks(units.convert(most, dimension)).map((t) => ({
    shown: t,
    at: t / units.convert(1, dimension),
  }));

  return (
    <figure className="sheet px-3 py-2">
      <div ref={holder} className="w-full overflow-hidden">
        <Chart width={width} height={height} label={summary(view, rows, units)}>
          {solid && solid.ci_low !== null && solid.ci_high !== null && (
            <rect
              x={x(Math.max(0, solid.ci_low))}
              y={TOP}
              width={Math.max(1, x(Math.min(most, solid.ci_high)) - x(Math.max(0, solid.ci_low)))}
              height={inside}
              className="fill-wood-pale/55"
            />
          )}
          {ticks.map((t) => (
            <g key={t.shown}>
              <path d={`M${x(t.at)} ${TOP}V${TOP + inside}`} className="stroke-rule" />
              <text x={x(t.at)} y={height - 22} textAnchor="middle" className="fill-faded text-[13px]">
                {t.shown}
              </text>
            </g>
          ))}
          <text
            x={(left + width - RIGHT) / 2}
            y={height - 4}
            textAnchor="middle"
            className="fill-faded text-[13px]"
          >
            {view.figure_name}, {units.symbol(dimension)}
          </text>
          {solid && solid.mean !== null && (
            <path
              d={`M${x(solid.mean)} ${TOP}v${inside}`}
              className="stroke-wood"
              strokeWidth="1.5"
              strokeDasharray="7 3"
            />
          )}
          {lines.map(({ t, label, heading, dashed }, i) => (
            <TreatmentRow
              key={t.letter}
              t={t}
              label={label}
              heading={heading}
              dashed={dashed}
              y={tops[i] ?? 0}
              height={ROW}
              x={x}
              narrow={narrow}
              end={width - RIGHT}
              school={view.school}
              boxes={boxes}
              onOpen={onOpen}
            />
          ))}
          {limits.map((x0, i) => (
            <g key={x0.name}>
              <path
                d={`M${x(x0.value)} ${TOP}v${inside}`}
                className="stroke-notice"
                strokeWidth="1.8"
                strokeDasharray="2 4"
              />
              <text x={x(x0.value) + 4} y={TOP + 11 + i * 13} className="fill-notice text-[12px]">
                {x0.name}
              </text>
            </g>
          ))}
          {walls.map((wall) => (
            <g key={wall}>
              <path d={`M${x(wall)} ${TOP}v${inside}`} className="stroke-alarm" strokeWidth="3" />
              <text x={x(wall) - 5} y={TOP + 12} textAnchor="end" className="fill-alarm text-[12px]">
                the rig ended here
              </text>
            </g>
          ))}
        </Chart>
      </div>
      <Legend view={view} solid={Boolean(solid)} boxes={boxes} brought={brought} />
    </figure>
  );
}

interface RowProps {
  t: Treatment;
  label: string;
  heading: string;
  /** Of another study. */
  dashed: boolean;
  y: number;
  height: number;
  x: (v: number) => number;
  narrow: boolean;
  end: number;
  /** By which school of averaging the bar stands; empty for the mean. */
  school: string;
  boxes: boolean;
  onOpen: Props["onOpen"];
}

function TreatmentRow(props: RowProps) {
  const { t, label, heading, dashed, y, height, x, narrow, end, school, boxes, onOpen } = props;
  const middle = y + (narrow ? 60 : height / 2);
  const name = narrow ? y + 17 : middle - 3;
  const short = narrow ? 22 : 26;
  const own = school ? (t.estimate?.value ?? null) : null;
  return (
    <g>
      <path d={`M0 ${y + height}H${end}`} className="stroke-rule" />
      {heading && (
        <text x={2} y={y - 7} className="fill-ink text-[14px] font-semibold">
          {heading}
        </text>
      )}
      <text x={2} y={name} className="fill-ink font-mono text-[15px] font-semibold">
        {t.letter}
      </text>
      <text x={24} y={name} className="fill-ink text-[15px]">
        {label.length > short ? `${label.slice(0, short - 1)}…` : label}
        <title>{t.label}</title>
      </text>
      <text
        x={narrow ? end : 24}
        y={narrow ? name : middle + 15}
        textAnchor={narrow ? "end" : undefined}
        className={`text-[13px] ${t.flags.length ? "fill-notice" : "fill-faded"}`}
      >
        {note(t)}
      </text>
      {!own && t.ci_low !== null && t.ci_high !== null && (
        <rect
          x={x(Math.max(0, t.ci_low))}
          y={middle - 17}
          width={Math.max(1, Math.min(end, x(t.ci_high)) - x(Math.max(0, t.ci_low)))}
          height={34}
          rx="2"
          className={dashed ? "fill-none stroke-spruce" : "fill-spruce/15 stroke-spruce/50"}
          strokeDasharray={dashed ? "6 4" : undefined}
        />
      )}
      {boxes && <Box t={t} x={x} y={middle} />}
      {(own ?? t.mean) !== null && (
        <path
          d={`M${x(own ?? t.mean ?? 0)} ${middle - 21}v42`}
          className="stroke-spruce"
          strokeWidth="3"
          strokeDasharray={dashed ? "6 4" : undefined}
        />
      )}
      {t.bounded && t.mean_low !== null && (
        <path
          d={
            t.mean_high === null
              ? `M${x(t.mean_low)} ${middle - 21}v42m0-21h18m-5-4 5 4-5 4`
              : `M${x(t.mean_low)} ${middle - 21}v42m0-21H${x(t.mean_high)}m0-21v42`
          }
          className="fill-none stroke-spruce"
          strokeWidth="2.2"
        />
      )}
      {t.marks.map((m, i) => (
        <PieceMark
          key={m.code}
          m={m}
          x={x}
          y={middle + ((i * 37) % 23) - 11}
          onOpen={dashed ? undefined : onOpen}
        />
      ))}
    </g>
  );
}

interface PieceMarkProps {
  m: Schemas["Mark"];
  x: (v: number) => number;
  y: number;
  onOpen: Props["onOpen"];
}

/** Quartiles (type 7) of the exact figures as a box, the least and the most as a line. */
function Box({ t, x, y }: { t: Treatment; x: (v: number) => number; y: number }) {
  const own = t.marks
    .filter((m) => !m.hollow && m.high === m.low)
    .map((m) => m.low)
    .sort((a, b) => a - b);
  if (own.length < 3) return null;
  const quantile = (share: number) => {
    const at = (own.length - 1) * share;
    const low = own[Math.floor(at)] ?? 0;
    return low + (at % 1) * ((own[Math.ceil(at)] ?? low) - low);
  };
  const [least, q1, middle, q3, most] = [0, 0.25, 0.5, 0.75, 1].map((s) => x(quantile(s))) as [
    number,
    number,
    number,
    number,
    number,
  ];
  return (
    <g className="fill-none stroke-ink" strokeWidth="1.2">
      <path d={`M${least} ${y}H${q1}M${q3} ${y}H${most}M${least} ${y - 6}v12M${most} ${y - 6}v12`} />
      <path d={`M${q1} ${y - 12}H${q3}v24H${q1}zM${middle} ${y - 12}v24`} />
    </g>
  );
}

/** One piece: where it lies or between what, how it failed; hollow where it does not count. */
function PieceMark({ m, x, y, onOpen }: PieceMarkProps) {
  const isRange = m.high !== null && m.high !== m.low;
  const at = isRange ? (m.low + (m.high ?? m.low)) / 2 : m.low;
  const words = [
    MARK_NAMES[m.failure_mode ?? ""] ?? "",
    m.wood_failure_pct === null ? "" : `wood failure ${m.wood_failure_pct} %`,
    m.hollow ? `does not count: ${m.reason}` : "",
    ...m.flags,
  ];
  return (
    <g
      transform={`translate(${x(at)} ${y})`}
      opacity={m.hollow ? 0.55 : 1}
      className={onOpen ? "cursor-pointer" : ""}
      onClick={() => onOpen?.(m.code)}
    >
      {isRange && (
        <path
          d={`M${x(m.low) - x(at)} 0H${x(m.high ?? m.low) - x(at)}`}
          className="stroke-ink"
          strokeWidth="1.6"
        />
      )}
      {m.high === null && (
        <path d="M4 0h14m-4-4 4 4-4 4" className="fill-none stroke-ink" strokeWidth="1.6" />
      )}
      {m.hollow ? (
        <circle r="5" className="fill-none stroke-faded" strokeWidth="1.4" strokeDasharray="2 2" />
      ) : (
        <Mark mode={m.failure_mode} />
      )}
      {m.flags.length > 0 && <path d="M-5 8h10" className="stroke-notice" strokeWidth="2.5" />}
      <title>{`${m.code}: ${words.filter(Boolean).join(", ")}`}</title>
    </g>
  );
}

function note(t: Treatment): string {
  const parts = [t.is_control ? "control" : "", `n ${t.n}`];
  if (t.fell_apart) parts.push(`${t.fell_apart} fell apart`);
  if (t.flags.length) parts.push("to mind");
  if (t.left_out) parts.push(`${t.left_out} not run`);
  if (t.void) parts.push(`${t.void} void`);
  if (t.unbroken) parts.push(`${t.unbroken} to break`);
  return parts.filter(Boolean).join(", ");
}

function summary(view: Schemas["CompareView"], rows: readonly Treatment[], units: Units): string {
  const told = rows.map((t) => inWords(units, view, t));
  return `Strength plot. ${told.join("; ")}. The table below has all numbers.`;
}

interface LegendProps {
  view: Schemas["CompareView"];
  solid: boolean;
  boxes: boolean;
  brought: readonly Schemas["Brought"][];
}

function Legend({ view, solid, boxes, brought }: LegendProps) {
  const marks = [...view.treatments, ...brought.map((b) => b.result)].flatMap((t) => t.marks);
  const used = new Set(marks.map((m) => m.failure_mode ?? ""));
  return (
    <figcaption className="flex flex-wrap gap-x-5 gap-y-1 border-t border-rule pt-2 text-sm text-faded">
      {[...used].sort().map((mode) => (
        <span key={mode} className="inline-flex items-center gap-1.5">
          <MarkIcon mode={mode} /> {MARK_NAMES[mode]}
        </span>
      ))}
      <span>
        {view.school ? (
          `Bar: ${view.schools?.schools.find((s) => s.key === view.school)?.name ?? view.school}`
        ) : (
          <>
            Bar: mean, with its 95 % <Word of="interval" />
          </>
        )}
      </span>
      {boxes && <span>Box: middle half with the median; line: least to most</span>}
      <span>Arrow: at least</span>
      {marks.some((m) => m.hollow) && <span>Hollow, dashed: does not count</span>}
      {marks.some((m) => m.flags.length) && <span>Underlined: something to mind</span>}
      {brought.length > 0 && <span>Dashed bar: of another study</span>}
      {solid && <span>Dashed: solid wood</span>}
    </figcaption>
  );
}
