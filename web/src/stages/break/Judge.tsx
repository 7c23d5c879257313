/**
 * How a piece ended: kind of observation, load, failure mode, wood failure, note. Enter saves and goes to
 * the next.
 */
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Button, DoubtNote, Key, Notice, ProblemNote } from "../../parts/controls";
import { entered } from "../../parts/queue";
import { MarkIcon } from "../../parts/marks";
import { clock, unitOfMass, unitOfWeights, useUnits } from "../../parts/units";
import { Word } from "../../parts/Word";
import { More } from "./More";
import { Bound, Load } from "./Loads";
import { Look } from "./Look";
import { Shares } from "./Shares";
import { Trial } from "./Trial";
import { useGoOn } from "./useGoOn";
import {
  asCorrection,
  asNew,
  asStands,
  blank,
  mayHaveFace,
  mayHold,
  needsFace,
  wantsLoad,
  type Judgement,
  type WeightsEnd,
  type Kind,
} from "./judgement";

const KINDS: readonly (readonly [Kind, string])[] = [
  ["exact", "It broke at"],
  ["at_least", "It held, at least"],
  ["between", "It broke between"],
  ["held", "It broke after holding"],
  ["at_most", "It broke at most at"],
  ["proof", "It was proof loaded to"],
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
  /** Not called when the piece leaves the screen before the answer is there. */
  onDone?: () => void;
  onCancel?: () => void;
  /** Called when something is typed or chosen. */
  onTouched?: () => void;
  /** The piece has a reading already, and was loaded once more. */
  again?: boolean;
  /** Another reading of the break that it has. */
  beside?: boolean;
  /** How the weights on it ended, and that in words: the load follows from them. */
  weights?: readonly [WeightsEnd, string];
}
const KIND_OF_END: Record<WeightsEnd, Kind> = {
  adding: "between",
  hanging: "held",
  holds: "at_least",
  filled: "exact",
};

export function Judge({
  batch,
  row,
  view,
  pull,
  onDone,
  onCancel,
  onTouched,
  again = false,
  beside = false,
  weights,
}: Props) {
  const units = useUnits();
  const proposal = pull?.proposal ?? null;
  const reading = proposal?.reading;
  const proposed = weights
    ? KIND_OF_END[weights[0]]
    : ((proposal?.kind as Kind | null | undefined) ?? (view.loadless ? "seen" : "exact"));
  // As it was when this was begun: what another device writes meanwhile makes no correction of it.
  const [isNew] = useState(row.kind === null || pull !== null || again || beside);
  const [before] = useState<Judgement>(() => (isNew ? blank(proposed) : asStands(row, units, proposed)));
  const [base] = useState(row.reading_id);
  const [judged, setJudged] = useState<Judgement>(before);
  const put = (part: Partial<Judgement>) => {
    if (save.isPending) return;
    setJudged((old) => ({ ...old, ...part }));
    onTouched?.();
  };
  const { kind, mode, wood } = judged;
  const [asked, setAsked] = useState(false);
  const isCorrection = !isNew;
  const goOn = useGoOn(batch, onDone);
  const save = useWrite(async (confirmed: string[]) => {
    if (isCorrection) {
      await writes.correct(batch, row.code, { ...asCorrection(judged, before, confirmed), base });
      return goOn(row.code, judged.kind);
    }
    const own = asNew(row.code, judged, pull?.id ?? null, confirmed, weights?.[0] ?? "", again, beside);
    goOn(row.code, (await entered(batch, own)) ? judged.kind : null);
  }, batch);
  const store = (confirmed: string[]) => save.mutate(confirmed);
  const aside = useWrite((id: number) => writes.discard(batch, id, ""), batch);
  const first = useRef<HTMLFormElement>(null);
  // The plan's own words stand in place of the usual ones: each means one of those.
  const modes = view.outcomes.length
    ? view.outcomes.map((o) => [o.mode, o.word] as const)
    : view.failure_modes.map(([key, name]) => [key, name] as const);
  const own = view.outcomes.length > 0;
  const pick = (key: string, name: string) => put({ mode: key, outcome: own ? name : "" });
  const picked = (key: string, name: string) => mode === key && (!own || judged.outcome === name);
  const resolution = row.resolution_n ?? view.resolution_n;
  const force = (n: number) => units.text(n, "force", resolution);
  const asksFace = mayHaveFace(kind);
  // Another instrument than one that shows the load itself: what it shows is typed, the load follows from it.
  const rig = view.rig_state?.plain === false ? view.rig_state : null;
  const unitShown = rig ? unitOfMass(rig.unit) : units.symbol("force");
  const seenLow = kind === "exact" ? (reading?.peak_n ?? 0) : (proposal?.low_n ?? reading?.peak_n ?? 0);
  const hint =
    !reading || proposal?.kind === null
      ? unitShown
      : rig
        ? units.typed(seenLow / rig.factor, rig.dimension, rig.unit)
        : force(seenLow);
  const highHint =
    proposal?.kind === "between" && proposal.high_n != null ? force(proposal.high_n) : unitShown;

  useEffect(() => {
    const target = (pull && proposal) || view.loadless ? "input[name=mode]" : "input[name=load]";
    first.current?.querySelector<HTMLInputElement>(target)?.focus();
  }, [pull, proposal, view.loadless]);

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const typing = e.target instanceof HTMLInputElement && e.target.type === "text";
      const mode = modes[Number(e.key) - 1];
      if (typing || !asksFace || !mode || e.ctrlKey || e.metaKey || e.altKey) return;
      pick(mode[0] ?? "", mode[1] ?? "");
      e.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });

  return (
    <form
      ref={first}
      className="space-y-2"
      onSubmit={(e) => {
        e.preventDefault();
        if (needsFace(kind) && mode === null && !asked) {
          setAsked(true);
          // The digits that are asked for now must not go on into the load.
          first.current?.querySelector<HTMLInputElement>("input[name=mode]")?.focus();
        } else if (!save.isPending) store([]);
      }}
    >
      {pull?.state === "interrupted" && (
        <Notice>
          This pull was interrupted after{" "}
          {reading ? `${reading.seconds.toFixed(1)} s and ${reading.samples} samples` : "no sample"}. Use what
          was recorded, or pull again.
        </Notice>
      )}
      {proposal && proposal.kind === null && (
        <Notice>No load was seen in this pull. Pull again, or type the load.</Notice>
      )}
      {proposal?.bound_by && (
        <Bound why={view.bounds[proposal.bound_by] ?? ""} proposal={proposal} text={force} />
      )}
      {weights ? (
        <p className="text-lg">
          {weights[1]}
          {weights[0] === "filled" && (
            <Load
              name="load"
              label="What the vessel weighs"
              value={judged.low}
              hint={unitOfWeights(units)}
              onChange={(low) => put({ low })}
            />
          )}
        </p>
      ) : (
        <p className="flex flex-wrap items-baseline gap-x-2 text-lg">
          <select
            aria-label="Kind of observation"
            className="written"
            value={kind}
            onChange={(e) => put({ kind: e.target.value as Kind })}
          >
            {KINDS.filter(
              ([key]) =>
                LOADLESS.includes(key) === view.loadless ||
                key === "void" ||
                key === "fell_apart" ||
                key === "seen",
            ).map(([key, name]) => (
              <option key={key} value={key}>
                {key === "seen" && !view.loadless ? "Its load was not read" : name}
              </option>
            ))}
          </select>
          {wantsLoad(kind) && rig && <span className="text-sm text-faded">where the rig shows</span>}
          {wantsLoad(kind) && (
            <Load name="load" label="Load" value={judged.low} hint={hint} onChange={(low) => put({ low })} />
          )}
          {kind === "between" && (
            <>
              and{" "}
              <Load
                name="high"
                label="Load at which it broke"
                value={judged.high}
                hint={highHint}
                onChange={(high) => put({ high })}
              />
            </>
          )}
          {mayHold(kind) && (
            <>
              {kind === "held" ? "for" : "held for"}{" "}
              <Load
                name="held"
                label="Time held"
                value={judged.held}
                hint="75 s"
                onChange={(held) => put({ held })}
              />
            </>
          )}
          {kind === "proof" && (
            <>
              and{" "}
              <select
                aria-label="How the proof load ended"
                className="written"
                value={judged.ended}
                onChange={(e) => put({ ended: e.target.value as Judgement["ended"] })}
              >
                <option value="">…</option>
                <option value="held">it held</option>
                <option value="failed">it failed then</option>
              </select>
            </>
          )}
          {kind === "seen" && !view.loadless && (
            <input
              type="text"
              aria-label="What its instrument showed"
              className="written w-56"
              placeholder="what its gauge showed, if anything"
              value={judged.shown}
              onChange={(e) => put({ shown: e.target.value })}
            />
          )}
          {kind === "void" && (
            <input
              type="text"
              aria-label="Reason"
              className="written w-72"
              placeholder="because …"
              value={judged.reason}
              onChange={(e) => put({ reason: e.target.value })}
            />
          )}
        </p>
      )}
      {reading?.first_crack_n != null && (
        <p className="text-sm text-faded">First crack at {force(reading.first_crack_n)}.</p>
      )}
      {pull && reading?.broke && view.simulated && (
        <Look batch={batch} onSee={(m, w) => put({ mode: m, wood: w })} />
      )}
      {asksFace && (
        <>
          <fieldset>
            <legend className="head mb-1">How it failed</legend>
            <div className="grid grid-cols-2 gap-2 sm:grid-cols-3">
              {modes.map(([key, name], i) => (
                <label
                  key={name}
                  className={`sheet flex min-h-14 cursor-pointer items-center gap-2 px-2.5 leading-tight
                    has-checked:border-spruce has-checked:bg-spruce-pale has-checked:font-semibold
                    has-focus-visible:outline-3`}
                >
                  <input
                    type="radio"
                    name="mode"
                    className="sr-only"
                    value={key}
                    checked={picked(key, name)}
                    onChange={() => pick(key, name)}
                  />
                  <MarkIcon mode={key} />
                  <span className="min-w-0 flex-1">{name}</span>
                  <Key>{i + 1}</Key>
                </label>
              ))}
            </div>
          </fieldset>
          {!view.loadless && (
            <Shares
              shares={judged.shares}
              modes={view.failure_modes}
              onChange={(shares) => put({ shares, ...(shares.length ? { wood: null, mode: "mixed" } : {}) })}
            />
          )}
          {judged.shares.length === 0 && (
            <div className="flex items-center gap-3">
              <span className="head">
                <Word of="wood failure">Wood failure</Word>
              </span>
              <input
                type="range"
                aria-label="Wood failure"
                min={0}
                max={100}
                step={5}
                className="h-8 flex-1 accent-wood"
                value={wood ?? 0}
                onChange={(e) => put({ wood: Number(e.target.value) })}
                aria-valuetext={wood === null ? "not judged" : `${wood} %`}
              />
              <span className="w-24 text-right text-lg">{wood === null ? "not judged" : `${wood} %`}</span>
            </div>
          )}
        </>
      )}
      {kind !== "void" && <More judged={judged} view={view} onChange={put} />}
      <input
        type="text"
        aria-label="Note"
        className="written w-full"
        placeholder="note"
        value={judged.note}
        onChange={(e) => put({ note: e.target.value })}
      />
      <label className="flex flex-wrap items-baseline gap-2 text-sm text-faded">
        {isCorrection && row.at ? `Broken ${clock(row.at)}; if that is wrong:` : "Broken now, or at"}
        <input
          type="datetime-local"
          aria-label="When it broke"
          className="written"
          value={judged.at}
          onChange={(e) => put({ at: e.target.value })}
        />
      </label>
      {asked && mode === null && needsFace(kind) && (
        <Notice>How did it fail? Press 1 to {modes.length}, or Enter again to leave it open.</Notice>
      )}
      <DoubtNote
        problem={save.error}
        busy={save.isPending}
        act="Save it"
        agreed={save.variables}
        onConfirm={store}
      />
      <ProblemNote problem={aside.error} />
      <div className="flex flex-wrap gap-3">
        <Button type="submit" look="bench" disabled={save.isPending}>
          Save and next
          <Key>Enter</Key>
        </Button>
        {pull ? (
          <Button
            className="min-h-14 px-5 text-lg"
            disabled={aside.isPending}
            onClick={() => aside.mutate(pull.id)}
          >
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
      {row.kind !== null && row.kind !== "void" && (
        <Trial batch={batch} row={row} {...(onDone ? { onDone } : {})} />
      )}
    </form>
  );
}
