/** How a piece ended: kind of observation, load, failure mode, wood failure, note. Enter saves and goes to the next. */
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Button, Key, Mind, ProblemNote } from "../../parts/controls";
import { MarkIcon } from "../../parts/marks";
import { useUnits } from "../../parts/units";

type Kind = Schemas["Kind"];

const KINDS: readonly (readonly [Kind, string])[] = [
  ["exact", "It broke at"],
  ["at_least", "It held, at least"],
  ["between", "It broke between"],
  ["held", "It broke after holding"],
  ["fell_apart", "It fell apart before"],
  ["seen", "It was opened by hand"],
  ["void", "It does not count"],
];
/** A method without a load has its own kinds. */
const LOADLESS: readonly Kind[] = ["seen", "fell_apart", "void"];

interface Props {
  batch: number;
  row: Schemas["BreakRow"];
  view: Schemas["BreakView"];
  pull: Schemas["Pull"] | null;
  /** Not called when the piece leaves the screen before the answer is there: what follows is read from the queue. */
  onDone?: () => void;
  onCancel?: () => void;
}

interface Proposal {
  kind: Kind;
  peak_n: number;
  broke: boolean;
  saturated: boolean;
  first_crack_n: number | null;
  samples: number;
  seconds: number;
}

export function Judge({ batch, row, view, pull, onDone, onCancel }: Props) {
  const units = useUnits();
  const proposal = (pull?.proposal ?? null) as Proposal | null;
  const [kind, setKind] = useState<Kind>((row.kind as Kind | null) ?? proposal?.kind ?? (view.loadless ? "seen" : "exact"));
  const [low, setLow] = useState(row.low_n !== null && row.kind !== "fell_apart" ? units.text(row.low_n, "force", 0) : "");
  const [high, setHigh] = useState(row.high_n !== null && row.kind === "between" ? units.text(row.high_n, "force", 0) : "");
  const [held, setHeld] = useState("");
  const [mode, setMode] = useState<string | null>(row.failure_mode);
  const [wood, setWood] = useState<number | null>(row.wood_failure_pct);
  const [note, setNote] = useState(row.note);
  const [asked, setAsked] = useState(false);
  const [reason, setReason] = useState(row.reason);
  const save = useWrite((body: Schemas["ObservationIn"]) => writes.observe(batch, body), batch);
  const aside = useWrite((id: number) => writes.discard(batch, id, ""), batch);
  const first = useRef<HTMLFormElement>(null);
  const modes = view.failure_modes;
  const wantsLoad = kind !== "fell_apart" && kind !== "void" && kind !== "seen";
  const wantsFace = kind !== "void" && kind !== "at_least";

  useEffect(() => {
    const target = (pull && proposal) || view.loadless ? "input[name=mode]" : "input[name=load]";
    first.current?.querySelector<HTMLInputElement>(target)?.focus();
  }, [pull, proposal, view.loadless]);

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const typing = e.target instanceof HTMLInputElement && e.target.type === "text";
      const mode = modes[Number(e.key) - 1];
      if (typing || !wantsFace || !mode || e.ctrlKey || e.metaKey || e.altKey) return;
      setMode(mode[0]);
      e.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [modes, wantsFace]);

  const body: Schemas["ObservationIn"] = {
    code: row.code,
    kind,
    low: wantsLoad ? low : "",
    high: kind === "between" ? high : "",
    held: kind === "held" ? held : "",
    failure_mode: wantsFace ? mode : null,
    wood_failure_pct: wantsFace ? wood : null,
    note,
    reason,
    pull_id: pull?.id ?? null,
    source: pull && !low ? "rig" : "typed",
  };

  return (
    <form
      ref={first}
      className="space-y-2"
      onSubmit={(e) => {
        e.preventDefault();
        if (wantsFace && mode === null && !asked) setAsked(true);
        else if (!save.isPending) save.mutate(body, { onSuccess: () => onDone?.() });
      }}
    >
      {pull?.state === "interrupted" && (
        <Mind>
          This pull was interrupted after {proposal ? `${proposal.seconds.toFixed(1)} s and ${proposal.samples} samples` : "no sample"}. Use what was recorded, or pull again.
        </Mind>
      )}
      {proposal?.saturated && <Mind>The rig was at the end of its range: the load is only a lower bound.</Mind>}
      <p className="flex flex-wrap items-baseline gap-x-2 text-lg">
        <select aria-label="Kind of observation" className="written" value={kind} onChange={(e) => setKind(e.target.value as Kind)}>
          {KINDS.filter(([key]) => LOADLESS.includes(key) === view.loadless || key === "void" || key === "fell_apart").map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </select>
        {wantsLoad && <Load name="load" label="Load" value={low} hint={proposal ? units.text(proposal.peak_n, "force", 0) : units.symbol("force")} onChange={setLow} />}
        {kind === "between" && (
          <>
            and <Load name="high" label="Load at which it broke" value={high} hint={units.symbol("force")} onChange={setHigh} />
          </>
        )}
        {kind === "held" && (
          <>
            for <Load name="held" label="Time held" value={held} hint="75 s" onChange={setHeld} />
          </>
        )}
        {kind === "void" && <input type="text" aria-label="Reason" className="written w-72" placeholder="because …" value={reason} onChange={(e) => setReason(e.target.value)} />}
      </p>
      {proposal?.first_crack_n != null && <p className="text-sm text-faded">First crack at {units.text(proposal.first_crack_n, "force", 0)}.</p>}
      {pull && proposal?.broke && view.simulated && <Look batch={batch} onSee={(m, w) => { setMode(m); setWood(w); }} />}
      {wantsFace && (
        <>
          <fieldset>
            <legend className="head mb-1">It gave way</legend>
            <div className="grid grid-cols-2 gap-2 sm:grid-cols-3">
              {modes.map(([key, name], i) => (
                <label key={key} className={`sheet flex min-h-14 cursor-pointer items-center gap-2 px-2.5 leading-tight has-checked:border-spruce has-checked:bg-spruce-pale has-focus-visible:outline-3 ${mode === key ? "font-semibold" : ""}`}>
                  <input type="radio" name="mode" className="sr-only" value={key} checked={mode === key} onChange={() => setMode(key)} />
                  <MarkIcon mode={key} />
                  <span className="min-w-0 flex-1">{name}</span>
                  <Key>{i + 1}</Key>
                </label>
              ))}
            </div>
          </fieldset>
          <label className="flex items-center gap-3">
            <span className="head">Wood failure</span>
            <input type="range" min={0} max={100} step={5} className="h-8 flex-1 accent-wood" value={wood ?? 0} onChange={(e) => setWood(Number(e.target.value))} aria-valuetext={wood === null ? "not judged" : `${wood} %`} />
            <span className="w-24 text-right text-lg">{wood === null ? "not judged" : `${wood} %`}</span>
          </label>
        </>
      )}
      <input type="text" aria-label="Note" className="written w-full" placeholder="note" value={note} onChange={(e) => setNote(e.target.value)} />
      {asked && mode === null && wantsFace && <Mind>How did it give way? Press 1 to {modes.length}, or Enter once more to leave it open.</Mind>}
      <ProblemNote problem={save.error ?? aside.error} />
      <div className="flex flex-wrap gap-3">
        <Button type="submit" look="bench" disabled={save.isPending}>
          Save and next
          <Key>Enter</Key>
        </Button>
        {pull ? (
          <Button className="min-h-14 px-5 text-lg" disabled={aside.isPending} onClick={() => aside.mutate(pull.id)}>
            Pull again
          </Button>
        ) : (
          onCancel && (
            <Button className="min-h-14 px-5 text-lg" onClick={onCancel}>
              Back
            </Button>
          )
        )}
      </div>
      {row.kind !== null && row.kind !== "void" && <Trial batch={batch} row={row} {...(onDone ? { onDone } : {})} />}
    </form>
  );
}

function Load({ name, label, value, hint, onChange }: { name: string; label: string; value: string; hint: string; onChange: (v: string) => void }) {
  return <input type="text" name={name} aria-label={label} className="written w-40 text-2xl font-semibold" autoComplete="off" value={value} placeholder={hint} onChange={(e) => onChange(e.target.value)} />;
}

/** Beside the stand-in only: what one would see on the broken faces. */
function Look({ batch, onSee }: { batch: number; onSee: (mode: string, wood: number) => void }) {
  const look = useWrite(() => writes.hand(batch, { do: "look", code: "" }), batch);
  const seen = look.data;
  return (
    <p className="text-sm text-faded">
      {seen?.failure_mode ? (
        <>The simulated faces were judged for you; change it if you like.</>
      ) : (
        <Button
          disabled={look.isPending}
          onClick={() =>
            look.mutate(undefined, {
              onSuccess: (s) => {
                if (s.failure_mode) onSee(s.failure_mode, s.wood_failure_pct ?? 0);
              },
            })
          }
        >
          Look at the simulated faces
        </Button>
      )}
    </p>
  );
}

/** A run that taught the method, not the joint: on record, outside of all statistics. */
function Trial({ batch, row, onDone }: { batch: number; row: Schemas["BreakRow"]; onDone?: () => void }) {
  const [why, setWhy] = useState("");
  const save = useWrite((body: Schemas["TrialIn"]) => writes.trial(batch, body), batch);
  const trial = row.part !== "trial";
  return (
    <div>
      <p className="flex flex-wrap items-center gap-2 text-sm text-faded">
        {trial ? "Was it only a trial?" : "It is a trial."} <input type="text" aria-label="Reason of the trial" className="written w-64 max-w-full" placeholder={trial ? "what was learnt" : "why it counts after all"} value={why} onChange={(e) => setWhy(e.target.value)} />
        <Button disabled={save.isPending} onClick={() => save.mutate({ code: row.code, trial, reason: why }, { onSuccess: () => onDone?.() })}>
          {trial ? "Take it out of the results" : "Let it count"}
        </Button>
      </p>
      <ProblemNote problem={save.error} />
    </div>
  );
}
