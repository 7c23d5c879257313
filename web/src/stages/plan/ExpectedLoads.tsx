/** What loads to expect of each treatment, against what the rig is used to: known before the first cut. */
import type { Schemas } from "../../api/client";
import { useUnits } from "../../parts/units";

const WIDTH = 460;
const ROW = 24;
const LEFT = 30;

export function ExpectedLoads({ view }: { view: Schemas["PlanView"] }) {
  const units = useUnits();
  const { loads, limit_n: limit, weights_n: weights } = view.forecast;
  const rows = loads.slice(0, MOST);
  const most = 1.08 * Math.max(limit ?? 0, ...rows.map((e) => e.high_n));
  const x = (load: number) => LEFT + ((WIDTH - LEFT - 8) * load) / most;
  const height = rows.length * ROW + 22;
  const unknown = [...new Set(loads.flatMap((e) => e.unknown))];
  const forecast = new Set(loads.map((e) => e.letter));
  const without = view.forecast.treatments.filter((t) => !forecast.has(t.letter));
  const sources = [...new Set(loads.map((e) => e.source))];
  // A forecast has two digits.
  const text = (n: number) => units.text(n, "force", n / 10);
  const words = rows.map((e) => `${e.letter} ${text(e.low_n)} to ${text(e.high_n)}`);
  if (limit !== null) words.push(`the rig is used to ${text(limit)}`);
  if (!rows.length)
    return (
      <div>
        <h2 className="mb-1 text-lg font-bold">What to expect at the rig</h2>
        <p className="text-sm text-faded">
          No forecast: nothing is known yet of what these pieces will carry. Break a trial piece first to see
          whether the rig is strong enough.
        </p>
      </div>
    );
  const rough = loads.some((e) => e.rough);
  return (
    <div>
      <h2 className="mb-1 text-lg font-bold">What to expect at the rig</h2>
      <svg
        viewBox={`0 0 ${WIDTH} ${height}`}
        className="w-full max-w-xl"
        role="img"
        aria-label={["Expected loads", ...words].join("; ")}
      >
        {rows.map((e, i) => {
          const y = i * ROW + ROW / 2;
          const over = limit !== null && e.high_n > limit;
          return (
            <g key={e.letter}>
              <text x="2" y={y + 5} className="fill-ink font-mono text-[14px] font-semibold">
                {e.letter}
              </text>
              <path
                d={`M${x(e.low_n)} ${y}H${x(e.high_n)}`}
                className={over ? "stroke-notice" : "stroke-spruce"}
                strokeWidth="7"
                strokeLinecap="round"
                opacity="0.45"
              />
              <path d={`M${x(e.load_n)} ${y - 8}v16`} className="stroke-ink" strokeWidth="2.5" />
              <text x={Math.min(x(e.load_n) + 5, WIDTH - 60)} y={y - 3} className="fill-ink text-[11px]">
                {text(e.load_n)}
              </text>
            </g>
          );
        })}
        {weights !== null && weights < most && (
          <g>
            <path
              d={`M${x(weights)} 0v${rows.length * ROW}`}
              className="stroke-ink"
              strokeWidth="1.5"
              strokeDasharray="5 4"
            />
            <text x={x(weights) + 4} y={height - 6} className="fill-faded text-[12px]">
              all weights: {text(weights)}
            </text>
          </g>
        )}
        {limit !== null && (
          <g>
            <path d={`M${x(limit)} 0v${rows.length * ROW}`} className="stroke-alarm" strokeWidth="3" />
            <text
              x={Math.min(x(limit) + 2, WIDTH - 4)}
              y={height - 6}
              textAnchor="end"
              className="fill-alarm text-[12px]"
            >
              the rig is used to {text(limit)}
            </text>
          </g>
        )}
      </svg>
      <p className="text-sm text-faded">
        Line: typical load; bar:{" "}
        {rough ? "a rough guess, which may be off by a factor of 3" : "nine pieces in ten"}. From{" "}
        {sources.slice(0, 3).join("; ")}.
        {unknown.length > 0 && ` It takes no account of ${unknown.join(", ")}.`}
        {without.length > 0 &&
          ` No forecast for ${without
            .slice(0, 8)
            .map((t) => t.letter)
            .join(", ")}${
            without.length > 8 ? ` and ${without.length - 8} more` : ""
          }: nothing is known of the wood or the glue.`}
        {loads.length > MOST && ` The first ${MOST} of ${loads.length} treatments are drawn.`}
      </p>
    </div>
  );
}

const MOST = 16;
