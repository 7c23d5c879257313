/** What the rig shows: the load now, and the curve, live or as it was recorded. */
import { lazy, Suspense, type ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { Notice } from "../../parts/controls";
import { useUnits } from "../../parts/units";
import { useBeep } from "../../parts/useSound";
import type { Signal } from "../../parts/useLive";

const Curve = lazy(() => import("../../parts/Curve"));
import { Pace } from "./Pace";

type View = Schemas["BreakView"];

export function Scope({
  signal,
  view,
  pulling,
  recorded,
}: {
  signal: Signal;
  view: View;
  pulling: boolean;
  /** The curve that was recorded, in place of the live one. */
  recorded: ReactNode;
}) {
  const units = useUnits();
  const { live, points, away } = signal;
  const load = live?.force_n ?? null;
  const limit = view.limit_n;
  const over = load !== null && limit !== null && load >= limit;
  const near = !over && load !== null && limit !== null && load > 0.8 * limit;
  useBeep(over);
  const force = (n: number) => units.text(n, "force", view.resolution_n);
  return (
    <section aria-label="Load" className="sheet flex min-w-0 flex-col px-4 pt-3 pb-2">
      <div className="flex items-end justify-between gap-4">
        <p className={`text-5xl font-semibold ${near || over ? "text-alarm" : ""}`} aria-label="Load now">
          {load === null ? "—" : force(load)}
        </p>
        <p className="pb-1 text-right text-sm text-faded">
          {pulling && live?.pull ? `peak ${force(live.pull.peak_n)}${live.pull.broke ? ", broken" : ""}` : ""}
          <span className="block">
            {view.rig}
            {view.fixture && `, ${view.fixture}`}
          </span>
        </p>
      </div>
      <Suspense fallback={<div style={{ height: 300 }} />}>
        {recorded ?? <Curve key="live" points={points} tick={live?.sequence ?? 0} window={12} height={300} />}
      </Suspense>
      <p role="status" className={`text-sm ${live && live.status !== "live" ? "text-alarm" : "text-faded"}`}>
        {away
          ? "Adhaero does not answer. What was received is kept; this goes on when it is back."
          : (live?.message ?? "…")}
      </p>
      {pulling && live?.pull?.gap && (
        <Notice>
          No signal: what happens now is not seen. If it breaks, the load so far is a lower bound.
        </Notice>
      )}
      {pulling && <Pace signal={signal} pace={view.pace} />}
      {over && (
        <p role="alert" className="bg-alarm px-4 py-3 text-2xl font-bold text-paper">
          Stop. {force(limit)} is all that {view.weakest || "this rig"} is to bear. Take the load off, and
          look the rig over; “at least” is a result too.
        </p>
      )}
      {near && (
        <Notice>
          Near the end of what this rig is used for: go on slowly, or stop; “at least” is a result too.
        </Notice>
      )}
    </section>
  );
}
