/**
 * Break: one piece at a time, in random order; the live curve, the peak, how it failed, and on to the
 * next.
 */
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Problem } from "../../api/client";
import { useBreak } from "../../api/queries";
import { noteTaken, screenHere } from "../../api/screen";
import { StageCautions } from "../../parts/StageCautions";
import { Button, Notice, ProblemNote, Waiting } from "../../parts/controls";
import { OwnValues } from "../../parts/OwnValues";
import { Photos } from "../../parts/Photos";
import { PullCurve } from "../../parts/PullCurve";
import { useEntries } from "../../parts/queue";
import { RigState } from "../../parts/RigState";
import { UndoBar } from "../../parts/UndoBar";
import { counted } from "../../parts/units";
import { useDevice } from "../../parts/useDevice";
import { useLive } from "../../parts/useLive";
import { Arm, Before } from "./Before";
import { Checklist } from "./Checklist";
import { CurveFile } from "./CurveFile";
import { Faces, Unexamined } from "./Faces";
import { Hanging } from "./Hanging";
import { Judge } from "./Judge";
import { Loadings, Tags } from "./Loadings";
import { Queue } from "./Queue";
import { BLIND, Choices, EARLY, GROUPS, NothingDue, WEIGHTS } from "./Offered";
import { Piece } from "./Piece";
import { Pull } from "./Pull";
import { Scope } from "./Scope";
import { StoredRefused, withStored } from "./Stored";
import { Withdrawals } from "./Withdrawals";

export default function BreakStage({ batch }: { batch: number }) {
  const [blind] = useDevice(BLIND);
  const [groups] = useDevice(GROUPS);
  const [early] = useDevice(EARLY);
  const signal = useLive();
  const live = signal.live?.status === "live";
  // Screens at a rig that is connected show one piece, the rig's; else each is offered its own.
  const screen = live ? "" : screenHere();
  const { data: known, error } = useBreak(batch, { groups: groups === true, early: early === true }, screen);
  const { waiting } = useEntries("reading", batch);
  const data = known && withStored(known, waiting);
  const client = useQueryClient();
  const pullNow = signal.live?.pull ? `${signal.live.pull.pull_id} ${signal.live.pull.state}` : "";
  // The rig ends a pull by itself when the piece breaks: what follows from that is read again.
  useEffect(() => {
    void client.invalidateQueries({ queryKey: ["batch", batch] });
  }, [client, batch, pullNow]);
  const [typing, setTyping] = useState(false);
  const [weights, setWeights] = useDevice(WEIGHTS);
  const [again, setAgain] = useState<string | null>(null);
  const [beside, setBeside] = useState<string | null>(null);
  const [picked, setPicked] = useState<string | null>(null);
  const [correcting, setCorrecting] = useState<string | null>(null);
  // A piece that is being typed in stays on the screen, whatever another device does with it meanwhile.
  const [held, setHeld] = useState<string | null>(null);
  useEffect(() => noteTaken(batch, held ?? picked), [batch, held, picked]);
  if (error && !data)
    return <ProblemNote problem={error instanceof Problem ? error : new Problem(0, String(error))} />;
  if (!data) return <Waiting what="the queue" />;

  const pull = signal.live?.pull ?? null;
  // An ended pull counts until its piece is judged: the signal has it a moment longer than the queue.
  const mine =
    pull && data.rows.some((r) => r.code === pull.code && (pull.state === "open" || r.kind === null))
      ? pull
      : null;
  const pulling = mine?.state === "open";
  const loose = pulling ? undefined : data.loose[0];
  // A piece taken out of turn counts until it is broken; after that the order goes on.
  const chosen = data.rows.find((r) => r.code === picked && r.kind === null)?.code;
  const typed = data.rows.find((r) => r.code === held)?.code;
  const code = mine?.code ?? loose?.code ?? correcting ?? again ?? beside ?? typed ?? chosen ?? data.next;
  const row = data.rows.find((r) => r.code === code);
  // A form that opens before the reading is back would be empty, or hold what was just corrected.
  const unread = row !== undefined && data.unread?.includes(row.code) === true;
  const shown = loose?.pull.id ?? (correcting === row?.code ? (row?.pull_id ?? null) : null);
  const back = () => {
    setTyping(false);
    setWeights(false);
    setCorrecting(null);
    setBeside(null);
    setHeld(null);
  };
  const done = () => {
    setCorrecting(null);
    setAgain(null);
    setBeside(null);
    setHeld(null);
  };
  const more = again !== null && again === row?.code;
  const another = beside !== null && beside === row?.code;
  const fresh = correcting !== row?.code && !more && !another;
  const overtaken = fresh && held === row?.code && row?.kind !== null;

  return (
    <div className="space-y-4">
      <StageCautions batch={batch} stage="break" />
      <StoredRefused batch={batch} />
      {data.done < data.rows.length && (
        <Checklist batch={batch} points={data.checklist} view={data} signal={signal} />
      )}
      {row ? (
        <div className="grid items-start gap-6 lg:grid-cols-[minmax(0,5fr)_minmax(0,6fr)]">
          <section aria-label="The piece" className="space-y-3">
            <Piece
              row={row}
              view={data}
              blind={blind === true}
              compact={Boolean(loose) || typing || correcting !== null}
            />
            {fresh && !overtaken && !mine && !loose && (
              <Elsewhere current={row.code} elsewhere={data.elsewhere} />
            )}
            {overtaken && (
              <Notice>
                Meanwhile another device wrote a result of {row.code}. Saving this one asks first;{" "}
                <Button look="quiet" onClick={done}>
                  leave it and go on
                </Button>
              </Notice>
            )}
            {unread ? (
              <Waiting what={`the reading of ${row.code}`} />
            ) : loose && !pulling ? (
              <Judge
                key={`pull ${loose.pull.id}`}
                batch={batch}
                row={row}
                view={data}
                pull={loose.pull}
                onDone={done}
              />
            ) : weights && data.rack && !correcting && !pulling && !data.loadless ? (
              <Hanging
                key={`weights ${row.code} ${more}`}
                batch={batch}
                row={row}
                view={data}
                again={more}
                onTouched={() => setHeld(row.code)}
                onBack={back}
                onDone={done}
              />
            ) : (typing || correcting || another || data.loadless) && !pulling ? (
              <Judge
                key={`typed ${row.code} ${more} ${another} ${correcting}`}
                batch={batch}
                row={row}
                view={data}
                pull={null}
                again={more}
                beside={another}
                onDone={done}
                {...(fresh ? { onTouched: () => setHeld(row.code) } : {})}
                {...(typing || correcting || another ? { onCancel: back } : {})}
              />
            ) : (
              <Pull
                key={row.code}
                batch={batch}
                row={row}
                view={data}
                pulling={pulling}
                again={more}
                live={live}
                onType={() => setTyping(true)}
                {...(data.rack ? { onWeights: () => setWeights(true) } : {})}
              />
            )}
            {!loose && !pulling && !data.loadless && (row.kind === null || more) && (
              <CurveFile key={`file ${row.code}`} batch={batch} code={row.code} />
            )}
            {correcting === row.code && row.kind !== null && !unread && (
              <Loadings
                batch={batch}
                row={row}
                dimension={data.figure_dimension}
                onAgain={() => {
                  setAgain(row.code);
                  setCorrecting(null);
                }}
                onBeside={() => {
                  setBeside(row.code);
                  setCorrecting(null);
                }}
              />
            )}
            {!data.loadless && <Tags batch={batch} row={row} words={data.tag_words} again={more} />}
            {row.arm_mm !== null && (
              <Arm key={`arm ${row.code}`} batch={batch} code={row.code} arm={row.arm_mm} />
            )}
            {row.line_text && <p className="text-sm text-faded">{row.line_text}</p>}
            {row.role === "joint" && <Before key={`before ${row.code}`} batch={batch} code={row.code} />}
            <Photos kind="piece" name={row.code} batch={batch} members />
          </section>
          {!data.loadless && (
            <Scope
              signal={signal}
              view={data}
              pulling={pulling}
              recorded={
                shown !== null && !pulling ? (
                  <PullCurve key={shown} batch={batch} pull={shown} resolution={data.resolution_n} />
                ) : null
              }
            />
          )}
        </div>
      ) : waiting.length > 0 ? (
        <p className="sheet px-4 py-6 text-xl">
          All that was to be broken now is typed, and stored on this device until the desk has it.
        </p>
      ) : data.done < data.rows.length ? (
        <NothingDue view={data} />
      ) : (
        <p className="sheet px-4 py-8 text-xl">
          All {counted(data.rows.length, "piece that is to be broken is", "pieces that are to be broken are")}
          . Compare them under the next stage.
        </p>
      )}
      {row && row.kind !== null && row.kind !== "void" && (
        <Faces key={row.code} batch={batch} code={row.code} />
      )}
      {data.rig_state && !data.loadless && <RigState state={data.rig_state} batch={batch} />}
      <Withdrawals batch={batch} />
      <OwnValues batch={batch} when={["before", "at", "after"]} />
      <UndoBar batch={batch} stage="break" />
      {data.left_out.length > 0 && <LeftOut items={data.left_out as [string, string, string][]} />}
      <Unexamined view={data} onPick={setCorrecting} />
      <Choices batch={batch} />
      <Queue
        blind={blind === true}
        view={data}
        current={row?.code ?? null}
        onPick={(c) => {
          setPicked(c);
          done();
        }}
        onCorrect={(c) => {
          setAgain(null);
          setCorrecting(c);
        }}
      />
    </div>
  );
}

/** What is on other screens: whoever has a piece in hand sees which screen is its own. */
function Elsewhere({ current, elsewhere }: { current: string; elsewhere: Record<string, string> }) {
  const others = Object.entries(elsewhere).filter(([code]) => code !== current);
  const also = elsewhere[current];
  if (also) return <Notice>{`${current} is on another screen too (${also}).`}</Notice>;
  if (others.length === 0) return null;
  return (
    <p className="text-sm text-faded">
      On other screens: {others.map(([code, name]) => `${code} (${name})`).join(", ")}.
    </p>
  );
}

/** Pieces that are not run: out of the queue and of all counts, not out of sight. */
function LeftOut({ items }: { items: readonly [string, string, string][] }) {
  const reasons = [...new Set(items.map(([, treatment, reason]) => `${treatment}: ${reason}`))];
  return (
    <p className="text-sm text-faded">
      Not run: {counted(items.length, "piece")} ({reasons.join("; ")}).
    </p>
  );
}
