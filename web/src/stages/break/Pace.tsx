/** How quickly the load rises, against what the plan wants. */
import type { Schemas } from "../../api/client";
import { useUnits } from "../../parts/units";
import type { Signal } from "../../parts/useLive";

const OVER_S = 1;

/** Mean rise over the last second, N/s; nothing without two samples. */
function risePerSecond(points: readonly (readonly [number, number])[]): number | null {
  const last = points.at(-1);
  if (!last) return null;
  let first = last;
  for (let i = points.length - 1; i >= 0; i--) {
    const p = points[i];
    if (!p || last[0] - p[0] > OVER_S) break;
    first = p;
  }
  return last[0] > first[0] ? (last[1] - first[1]) / (last[0] - first[0]) : null;
}

export function Pace({ signal, pace }: { signal: Signal; pace: Schemas["Pace"] | null }) {
  const units = useUnits();
  const underLoad = signal.live?.pull?.under_load_s ?? null;
  if (underLoad === null) return null;
  const moving = signal.live?.pull?.travel_rate_mm_s ?? null;
  const rise = risePerSecond(signal.points.current);
  const text = (n: number) => units.text(n, "force");
  const travel = (mm: number) => units.text(mm, "length");
  const force = rise === null ? "" : `${text(Math.round(rise))}/s`;
  const rate = pace?.kind === "travel" && moving !== null ? `${travel(moving)}/s` : force;
  if (!pace)
    return (
      <p className="text-lg tabular-nums" aria-label="Pace of loading">
        {underLoad.toFixed(0)} s under load, {rate}
      </p>
    );
  const value = { time: underLoad, force: rise, travel: moving }[pace.kind] ?? null;
  const slow = pace.kind === "time" ? underLoad > pace.high : value !== null && value < pace.low;
  const fast = pace.kind !== "time" && value !== null && value > pace.high;
  const wanted = {
    time: `to break after ${pace.low} to ${pace.high} s`,
    force: `${text(pace.low)} to ${text(pace.high)} a second`,
    travel: `${travel(pace.low)} to ${travel(pace.high)} a second`,
  }[pace.kind];
  return (
    <p className={`text-lg tabular-nums ${slow || fast ? "text-alarm" : ""}`} aria-label="Pace of loading">
      {underLoad.toFixed(0)} s under load, {rate}
      <span className="text-faded">
        {" "}
        · planned {wanted}
        {slow && ": too slow"}
        {fast && ": too fast"}
      </span>
    </p>
  );
}
