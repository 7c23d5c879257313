/** Weights hung on the piece: what hangs, what was borne for sure, what can come next, and how it ended. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useWrite } from "../../api/queries";
import { hang, useWeights } from "../../api/session";
import { Button, Notice, ProblemNote, Waiting } from "../../parts/controls";
import { clockOf, unitOfWeights, useUnits } from "../../parts/units";
import { useNow } from "../../parts/useNow";
import { Judge } from "./Judge";
import type { WeightsEnd } from "./judgement";

const ENDS: readonly (readonly [WeightsEnd, string])[] = [
  ["adding", "It broke as I hung the last one"],
  ["hanging", "It broke while all this hung"],
  ["holds", "It holds all this"],
];

interface Props {
  batch: number;
  row: Schemas["BreakRow"];
  view: Schemas["BreakView"];
  again: boolean;
  onTouched: () => void;
  onBack: () => void;
  onDone: () => void;
}

export function Hanging({ batch, row, view, again, onTouched, onBack, onDone }: Props) {
  const { data } = useWeights(batch, row.code);
  const [end, setEnd] = useState<WeightsEnd | null>(null);
  const step = useWrite((mass: number) => {
    onTouched();
    return hang(batch, row.code, mass);
  }, batch);
  const units = useUnits();
  const kilos = (g: number) => units.typed(g, "mass", unitOfWeights(units));
  if (!data) return <Waiting what="the weights" />;
  if (end)
    return (
      <Judge
        batch={batch}
        row={row}
        view={view}
        pull={null}
        again={again}
        onTouched={onTouched}
        weights={[end, inWords(data, end, kilos, units.text)]}
        onDone={onDone}
        onCancel={() => setEnd(null)}
      />
    );
  const on = new Map<number, number>();
  for (const s of data.steps)
    on.set(Math.abs(s.mass_g), (on.get(Math.abs(s.mass_g)) ?? 0) + Math.sign(s.mass_g));
  return (
    <div className="space-y-3" role="group" aria-label="Weights">
      {data.short && <Notice>{data.short} Hang it all the same, or choose a longer lever.</Notice>}
      <p className="text-5xl font-semibold tabular-nums" aria-label="Total" aria-live="polite">
        {kilos(data.now.mass_g)}{" "}
        <span className="text-2xl text-faded">{units.text(data.now.load_n, "force")}</span>
      </p>
      {data.rack.weights.length > 0 && (
        <p className="text-faded">
          Borne for sure: {kilos(data.borne.mass_g)}
          {data.since && (
            <>
              ; hangs so for <Since at={data.since} />
            </>
          )}
          {data.rack.hanger_g > 0 && `; ${kilos(data.rack.hanger_g)} of hanger counted`}. Everything together
          is {kilos(data.largest.mass_g)}, {units.text(data.largest.load_n, "force")}.
        </p>
      )}
      <div className="flex flex-wrap gap-2">
        {data.left.map(([mass, n]) => (
          <Button
            key={mass}
            className="min-h-14 px-4 text-lg"
            disabled={n === 0 || step.isPending}
            onClick={() => step.mutate(mass)}
          >
            + {kilos(mass)} <span className="text-sm text-faded">{n} left</span>
          </Button>
        ))}
      </div>
      {[...on].some(([, n]) => n > 0) && (
        <div className="flex flex-wrap gap-2">
          {[...on]
            .filter(([, n]) => n > 0)
            .map(([mass]) => (
              <Button key={mass} look="quiet" disabled={step.isPending} onClick={() => step.mutate(-mass)}>
                take {kilos(mass)} off
              </Button>
            ))}
        </div>
      )}
      {data.next.length > 0 && (
        <p className="text-sm text-faded">
          Can be reached next: {data.next.map((t) => kilos(t.mass_g)).join(", ")}
        </p>
      )}
      {data.runs_out && data.steps.length > 0 && (
        <Notice>
          Everything hangs. If it holds, say so: that is a result, and it can be hung again otherwise.
        </Notice>
      )}
      <ProblemNote problem={step.error} />
      <div className="flex flex-wrap gap-3">
        {data.rack.weights.length > 0 &&
          ENDS.map(([how, name]) => (
            <Button
              key={how}
              look={how === "adding" ? "bench" : "plain"}
              className="min-h-14 px-4 text-lg"
              disabled={data.steps.length === 0}
              onClick={() => setEnd(how)}
            >
              {name}
            </Button>
          ))}
        <Button className="min-h-14 px-4 text-lg" onClick={() => setEnd("filled")}>
          A vessel was filled until it broke
        </Button>
        <Button className="min-h-14 px-4 text-lg" onClick={onBack}>
          Another way
        </Button>
      </div>
      {data.steps.length > 0 && (
        <details className="text-sm">
          <summary className="cursor-pointer text-faded">{data.steps.length} steps so far</summary>
          <ol>
            {data.steps.map((s, i) => (
              <li key={i} className="tabular-nums">
                {new Date(s.at).toLocaleTimeString(undefined, { hour12: false })}:{" "}
                {s.mass_g > 0 ? "+" : "\u2212"}
                {kilos(Math.abs(s.mass_g))}, total {kilos(s.total_g)}
              </li>
            ))}
          </ol>
        </details>
      )}
    </div>
  );
}

function inWords(
  v: Schemas["WeightsView"],
  end: WeightsEnd,
  kilos: (g: number) => string,
  text: (v: number, d: string) => string,
): string {
  const load = (t: Schemas["Total"]) => `${kilos(t.mass_g)} (${text(t.load_n, "force")})`;
  if (end === "filled") return "It broke under the vessel, which weighs with all that is in it";
  const before = v.borne.mass_g >= v.now.mass_g;
  if (before && end === "holds") return `It holds ${load(v.now)}, and has borne ${load(v.borne)}.`;
  if (before) return `It broke while ${load(v.now)} hung, after it had borne ${load(v.borne)}.`;
  if (end === "adding") return `It broke between ${load(v.borne)} and ${load(v.now)}.`;
  return end === "hanging" ? `It broke while ${load(v.now)} hung.` : `It holds ${load(v.now)}.`;
}

/** For how long it hangs so. */
function Since({ at }: { at: string }) {
  const now = useNow();
  return (
    <strong role="timer" className="tabular-nums">
      {clockOf((now - new Date(at).getTime()) / 1000)}
    </strong>
  );
}
