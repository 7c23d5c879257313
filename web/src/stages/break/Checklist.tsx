/** What is looked at before the first pull of a session: a tick each, or all at once. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useWrite } from "../../api/queries";
import { tick } from "../../api/session";
import { Button, Notice, ProblemNote } from "../../parts/controls";
import { useUnits } from "../../parts/units";
import type { Signal } from "../../parts/useLive";

interface Props {
  batch: number;
  points: readonly Schemas["Point"][];
  view: Schemas["BreakView"];
  signal: Signal;
}

/** Whether the rig reaches what is expected of the pieces that are left. */
function Capacity({ view }: { view: Schemas["BreakView"] }) {
  const units = useUnits();
  const { expected_most_n: most, limit_n: limit } = view;
  if (most === null || limit === null) return null;
  const said = `up to ${units.text(most, "force", most / 20)}`;
  return most > limit ? (
    <Notice>
      Pieces are expected to bear {said}; {view.weakest || "this rig"} is used up to{" "}
      {units.text(limit, "force")}. Some may hold: &ldquo;at least&rdquo; is a result, a smaller section
      another way.
    </Notice>
  ) : (
    <span className="text-sm text-faded">Expected {said}: within the rig.</span>
  );
}

const TRIED_S = 4;

/** Press on the empty rig: the peak is caught, the lines come evenly, and it goes back to nothing. */
function Capture({ signal }: { signal: Signal }) {
  const units = useUnits();
  const [state, setState] = useState<
    "" | "on" | readonly [peak: number, rest: number, rate: number, gap: number]
  >("");
  const begin = () => {
    const from = signal.points.current.at(-1)?.[0] ?? 0;
    setState("on");
    setTimeout(() => {
      const seen = signal.points.current.filter(([t]) => t > from);
      const steps = seen.slice(1).map(([t], i) => t - (seen[i]?.[0] ?? t));
      const rest = seen.slice(-5).map(([, f]) => f);
      setState([
        Math.max(0, ...seen.map(([, f]) => f)),
        rest.reduce((a, b) => a + b, 0) / Math.max(1, rest.length),
        seen.length / TRIED_S,
        Math.max(0, ...steps),
      ]);
    }, 1000 * TRIED_S);
  };
  const text = (n: number) => units.text(n, "force");
  return (
    <span className="text-sm">
      <Button disabled={state === "on" || signal.live?.status !== "live"} onClick={begin}>
        {state === "on" ? "Press on it, and let go …" : "Try the capture"}
      </Button>{" "}
      {typeof state !== "string" && (
        <span role="status">
          caught {text(state[0])}, back at {text(state[1])}, {state[2].toFixed(0)} points a second
          {state[3] > 0.1 && `, with a hole of ${state[3].toFixed(2)} s`}
        </span>
      )}
    </span>
  );
}

export function Checklist({ batch, points, view, signal }: Props) {
  const save = useWrite((keys: string[]) => tick(batch, keys), batch);
  const open = points.filter((p) => !p.ticked);
  if (!points.length) return null;
  if (!open.length)
    return (
      <div className="flex flex-wrap items-baseline gap-x-4 text-sm text-faded no-print">
        Looked at for this session: {points.length} points. <Capacity view={view} />
      </div>
    );
  return (
    <fieldset className="sheet flex flex-wrap items-center gap-x-5 gap-y-2 px-4 py-2 no-print">
      <legend className="head">Before the first pull</legend>
      {points.map((p) => (
        <label key={p.key} className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="size-5"
            checked={p.ticked}
            disabled={p.ticked || save.isPending}
            onChange={() => save.mutate([p.key])}
          />
          {p.text}
        </label>
      ))}
      <Button disabled={save.isPending} onClick={() => save.mutate(open.map((p) => p.key))}>
        All of this is so
      </Button>
      <span className="text-sm text-faded">What is left open is flagged on the readings.</span>
      <Capture signal={signal} />
      <Capacity view={view} />
      <ProblemNote problem={save.error} />
    </fieldset>
  );
}
