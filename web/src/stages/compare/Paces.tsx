/** How long the pieces took to their peak, against what the plan wanted. */
import type { Schemas } from "../../api/client";

const BINS = 10;
const [WIDE, HIGH] = [320, 70];

export function Paces({ view }: { view: Schemas["CompareView"] }) {
  const times = view.times_to_peak;
  if (times.length < 2) return null;
  const wanted = view.pace?.kind === "time" ? view.pace : null;
  const most = Math.max(...times, wanted?.high ?? 0) * 1.02;
  const counts = Array.from({ length: BINS }, () => 0);
  for (const t of times) {
    const bin = Math.min(BINS - 1, Math.floor((BINS * t) / most));
    counts[bin] = (counts[bin] ?? 0) + 1;
  }
  const tall = Math.max(...counts);
  const within = wanted ? times.filter((t) => t >= wanted.low && t <= wanted.high).length : 0;
  const x = (t: number) => (WIDE * t) / most;
  return (
    <section aria-label="Times to the peak" className="text-sm">
      <h3 className="head mb-1">Times to the peak</h3>
      <p>
        {times[0]?.toFixed(1)} s to {times.at(-1)?.toFixed(1)} s over {times.length} curves
        {wanted && `; ${within} within the ${wanted.low} to ${wanted.high} s that were planned`}.
      </p>
      <svg
        viewBox={`0 0 ${WIDE} ${HIGH + 16}`}
        className="w-80 max-w-full"
        role="img"
        aria-label={counts.map((n, i) => `${((most * i) / BINS).toFixed(0)} s: ${n}`).join(", ")}
      >
        {wanted && (
          <rect
            x={x(wanted.low)}
            width={x(wanted.high) - x(wanted.low)}
            height={HIGH}
            className="fill-spruce-pale"
          />
        )}
        {counts.map((n, i) => (
          <rect
            key={i}
            x={(WIDE / BINS) * i + 1}
            width={WIDE / BINS - 2}
            y={HIGH - (HIGH * n) / tall}
            height={(HIGH * n) / tall}
            className="fill-spruce"
          />
        ))}
        <path d={`M0 ${HIGH}H${WIDE}`} className="stroke-strong-rule" />
        <text x="0" y={HIGH + 13} className="fill-faded text-[11px]">
          0 s
        </text>
        <text x={WIDE} y={HIGH + 13} textAnchor="end" className="fill-faded text-[11px]">
          {most.toFixed(0)} s
        </text>
      </svg>
    </section>
  );
}
