/** How the pieces gave way: shares of each kind by treatment, and the figure of each piece by its kind. */
import { Chart } from "../../parts/Chart";
import type { Schemas } from "../../api/client";
import { niceTicks } from "../../parts/ticks";
import { Mark, MarkIcon, MARK_NAMES } from "../../parts/marks";
import { useUnits } from "../../parts/units";
import { useWidth } from "../../parts/useWidth";

type View = Schemas["CompareView"];
type Treatment = Schemas["TreatmentResult"];

const KINDS = Object.keys(MARK_NAMES);
/** The icon in each part says what it is; the tint only parts neighbours. */
const TINT: Readonly<Record<string, string>> = {
  "wood-deep": "bg-wood-pale",
  "wood-at-line": "bg-wood-pale/60",
  "in-glue": "bg-spruce/25",
  interface: "bg-spruce/10",
};

interface Props {
  view: View;
  onOpen: (code: string) => void;
}

export function Failures({ view, onOpen }: Props) {
  const rows = view.treatments.filter((t) => t.marks.length || t.fell_apart || Object.keys(t.modes).length);
  return (
    <figure className="sheet space-y-3 px-3 py-2">
      <ul className="space-y-1">
        {rows.map((t) => (
          <li key={t.letter} className="grid items-center gap-x-3 sm:grid-cols-[13rem_1fr]">
            <span className="text-sm leading-tight wrap-anywhere">
              <span className="mr-2 font-mono font-semibold">{t.letter}</span>
              {t.label}
            </span>
            <Stack t={t} />
          </li>
        ))}
      </ul>
      {!view.loadless && <ByKind view={view} rows={rows} onOpen={onOpen} />}
      <figcaption className="flex flex-wrap gap-x-4 border-t border-rule pt-1 text-sm text-faded">
        {KINDS.filter((k) => rows.some((t) => t.modes[k])).map((k) => (
          <span key={k} className="inline-flex items-center gap-1">
            <MarkIcon mode={k} />
            {MARK_NAMES[k]}
          </span>
        ))}
        {view.forms.length > 1 && (
          <strong className="w-full font-normal text-notice">
            {view.forms.join(", ")}: kinds of failure of different joint forms are not alike.
          </strong>
        )}
      </figcaption>
    </figure>
  );
}

function Stack({ t }: { t: Treatment }) {
  const parts = KINDS.flatMap((k) => (t.modes[k] ? [[k, t.modes[k]] as const] : []));
  const seen = parts.reduce((sum, [, n]) => sum + n, 0);
  const unknown = Math.max(0, t.pieces - t.fell_apart - seen);
  const width = (n: number) => ({ flexGrow: n, flexBasis: 0 });
  return (
    <div className="flex h-7 border border-strong-rule text-sm" role="img" aria-label={told(t, parts)}>
      {parts.map(([k, n]) => (
        <span
          key={k}
          style={width(n)}
          className={`flex items-center justify-center gap-1 overflow-hidden border-r border-strong-rule
            last:border-r-0 ${TINT[k] ?? ""}`}
        >
          <MarkIcon mode={k} />
          {n}
        </span>
      ))}
      {t.fell_apart > 0 && (
        <span style={width(t.fell_apart)} className="flex items-center justify-center overflow-hidden px-1">
          {t.fell_apart} apart
        </span>
      )}
      {unknown > 0 && (
        <span
          style={width(unknown)}
          className="flex items-center justify-center overflow-hidden px-1 text-faded"
        >
          {unknown} not judged
        </span>
      )}
    </div>
  );
}

const told = (t: Treatment, parts: readonly (readonly [string, number])[]) =>
  [
    ...parts.map(([k, n]) => `${n} ${MARK_NAMES[k]?.toLowerCase() ?? k}`),
    t.fell_apart ? `${t.fell_apart} fell apart` : "",
  ]
    .filter(Boolean)
    .join(", ");

const ROW = 22;
const LEFT = 215;

/** Within each treatment a row for every kind of failure, its pieces on the axis. */
function ByKind({ view, rows, onOpen }: Props & { rows: readonly Treatment[] }) {
  const [holder, width] = useWidth(700);
  const units = useUnits();
  const lines = rows.flatMap((t) =>
    KINDS.flatMap((kind) => {
      const marks = t.marks.filter((m) => !m.hollow && (m.failure_mode ?? "") === kind);
      return marks.length ? [{ t, kind, marks }] : [];
    }),
  );
  if (!lines.length) return null;
  const left = width < 560 ? 150 : LEFT;
  const most = 1.05 * Math.max(1e-9, ...lines.flatMap((l) => l.marks.map((m) => m.high ?? m.low)));
  const x = (v: number) => left + ((width - left - 20) * v) / most;
  const scale = units.convert(1, view.dimension);
  const height = lines.length * ROW + 36;
  return (
    <div ref={holder} className="w-full overflow-hidden">
      <Chart
        width={width}
        height={height}
        label={`${view.figure_name} by kind of failure within each treatment`}
      >
        {niceTicks(most * scale).map((tick) => (
          <g key={tick}>
            <path d={`M${x(tick / scale)} 0v${lines.length * ROW}`} className="stroke-rule" />
            <text x={x(tick / scale)} y={height - 20} textAnchor="middle" className="fill-faded text-[12px]">
              {tick}
            </text>
          </g>
        ))}
        <text x={width - 20} y={height - 3} textAnchor="end" className="fill-faded text-[12px]">
          {view.figure_name}, {units.symbol(view.dimension)}
        </text>
        {lines.map(({ t, kind, marks }, i) => (
          <g key={t.letter + kind} transform={`translate(0 ${i * ROW + ROW / 2})`}>
            {lines[i - 1]?.t !== t && (
              <>
                <path d={`M0 ${-ROW / 2}H${width}`} className="stroke-rule" />
                <text x={2} y={5} className="fill-ink font-mono text-[14px] font-semibold">
                  {t.letter}
                </text>
              </>
            )}
            <text x={left - 10} y={4} textAnchor="end" className="fill-faded text-[12px]">
              {MARK_NAMES[kind]}
            </text>
            {marks.map((m) => (
              <g
                key={m.code}
                transform={`translate(${x(m.low)} 0)`}
                className="cursor-pointer"
                onClick={() => onOpen(m.code)}
              >
                <Mark mode={kind} />
                {m.high === null && <path d="M4 0h12m-4-3 4 3-4 3" className="fill-none stroke-ink" />}
              </g>
            ))}
          </g>
        ))}
      </Chart>
    </div>
  );
}
