/**
 * Break: one piece at a time, in random order; the live curve, the peak, how it failed, and on to the
 * next.
 */
import { useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, useState } from "react";
import { Problem, type Schemas } from "../../api/client";
import { useBreak, useCurve, useCatalogue, useWrite, writes } from "../../api/queries";
import { StageCautions } from "../../parts/StageCautions";
import { Button, Code, DoubtNote, Key, Notice, ProblemNote, Waiting } from "../../parts/controls";
import { facesOf } from "../../parts/faces";
import { Flags } from "../../parts/Explained";
import { JointGlyph } from "../../parts/JointGlyph";
import { OwnValues } from "../../parts/OwnValues";
import { Photos } from "../../parts/Photos";
import { RigState } from "../../parts/RigState";
import { UndoBar } from "../../parts/UndoBar";
import { counted, useUnits } from "../../parts/units";
import { useDevice } from "../../parts/useDevice";
import { useFocus } from "../../parts/useFocus";
import { useLive, type Signal } from "../../parts/useLive";
import { Judge } from "./Judge";
import { Queue } from "./Queue";
import { BLIND, Choices, EARLY, GROUPS, NothingDue, OutSince } from "./Offered";
import { Withdrawals } from "./Withdrawals";

const Curve = lazy(() => import("../../parts/Curve"));
type View = Schemas["BreakView"];
type Row = Schemas["BreakRow"];

export default function BreakStage({ batch }: { batch: number }) {
  const [blind] = useDevice(BLIND);
  const [groups] = useDevice(GROUPS);
  const [early] = useDevice(EARLY);
  const { data, error } = useBreak(batch, { groups: groups === true, early: early === true });
  const signal = useLive();
  const client = useQueryClient();
  const pullNow = signal.live?.pull ? `${signal.live.pull.pull_id} ${signal.live.pull.state}` : "";
  // The rig ends a pull by itself when the piece breaks: what follows from that is read again.
  useEffect(() => {
    void client.invalidateQueries({ queryKey: ["batch", batch] });
  }, [client, batch, pullNow]);
  const [typing, setTyping] = useState(false);
  const [picked, setPicked] = useState<string | null>(null);
  const [correcting, setCorrecting] = useState<string | null>(null);
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
  const code = mine?.code ?? loose?.code ?? correcting ?? chosen ?? data.next;
  const row = data.rows.find((r) => r.code === code);
  const back = () => {
    setTyping(false);
    setCorrecting(null);
  };

  return (
    <div className="space-y-4">
      <StageCautions batch={batch} stage="break" />
      {row ? (
        <div className="grid items-start gap-6 lg:grid-cols-[minmax(0,5fr)_minmax(0,6fr)]">
          <section aria-label="The piece" className="space-y-3">
            <Piece
              row={row}
              view={data}
              blind={blind === true}
              compact={Boolean(loose) || typing || correcting !== null}
            />
            {loose && !pulling ? (
              <Judge key={`pull ${loose.pull.id}`} batch={batch} row={row} view={data} pull={loose.pull} />
            ) : (typing || correcting || data.loadless) && !pulling ? (
              <Judge
                key={`typed ${row.code}`}
                batch={batch}
                row={row}
                view={data}
                pull={null}
                onDone={() => setCorrecting(null)}
                {...(typing || correcting ? { onCancel: back } : {})}
              />
            ) : (
              <Pull
                key={row.code}
                batch={batch}
                row={row}
                view={data}
                pulling={pulling}
                live={signal.live?.status === "live"}
                onType={() => setTyping(true)}
              />
            )}
            <Photos kind="piece" name={row.code} batch={batch} />
          </section>
          {!data.loadless && (
            <Scope signal={signal} view={data} pulling={pulling} recorded={loose?.pull ?? null} />
          )}
        </div>
      ) : data.done < data.rows.length ? (
        <NothingDue view={data} />
      ) : (
        <p className="sheet px-4 py-8 text-xl">
          All {counted(data.rows.length, "piece that is to be broken is", "pieces that are to be broken are")}
          . Compare them under the next stage.
        </p>
      )}
      {data.rig_state && !data.loadless && <RigState state={data.rig_state} batch={batch} />}
      <Withdrawals batch={batch} />
      <OwnValues batch={batch} when={["at", "after"]} />
      <UndoBar batch={batch} stage="break" />
      {data.left_out.length > 0 && <LeftOut items={data.left_out as [string, string, string][]} />}
      <Choices />
      <Queue
        blind={blind === true}
        view={data}
        current={row?.code ?? null}
        onPick={(c) => {
          setPicked(c);
          setCorrecting(null);
        }}
        onCorrect={setCorrecting}
      />
    </div>
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

interface PieceProps {
  row: Row;
  view: View;
  /** Whether the treatment is kept from whoever breaks it. */
  blind: boolean;
  compact: boolean;
}

function Piece({ row, view, blind, compact }: PieceProps) {
  const { data: catalogue } = useCatalogue();
  const units = useUnits();
  const glyph = facesOf(catalogue, row.orientation);
  return (
    <div className="flex items-center gap-5">
      <JointGlyph
        faces={row.role === "solid" ? null : glyph.faces}
        angle={glyph.angle}
        form={row.form}
        method={view.method}
        grain={row.grain}
        size={compact ? 60 : 96}
      />
      <div className="min-w-0">
        <p className="text-sm text-faded">
          Piece {view.rows.indexOf(row) + 1} of {view.rows.length}, {view.rows.length - view.done} to go
        </p>
        <p aria-live="polite">
          <Code size={compact ? "large" : "huge"}>{row.code}</Code>
        </p>
        <p className="text-lg wrap-anywhere">
          {!blind && (
            <>
              <span className="font-mono font-semibold">{row.treatment}</span> {row.label}
            </>
          )}
          {row.parent && <span className="text-faded">, of {row.parent}</span>}
        </p>
        <p className="text-sm text-faded">
          {units.text(row.area_mm2, "area")} {row.measured && view.to_measure ? "measured" : "nominal"}
          {view.capacity_n !== null &&
            `; the rig is used up to ${units.text(view.capacity_n * view.working_share, "force")}`}
        </p>
        {row.ready && row.kind === null && <Notice>Mind: {row.ready}.</Notice>}
        {row.out_since && !row.kind && <OutSince at={row.out_since} />}
        {row.outdoors && <Wetness row={row} batch={view.batch_id} />}
        {row.flags.length > 0 && (
          <p className="text-sm">
            <Flags items={row.flags} of={row.code} />
          </p>
        )}
      </div>
    </div>
  );
}

interface PullProps {
  batch: number;
  row: Row;
  view: View;
  pulling: boolean;
  live: boolean;
  onType: () => void;
}

function Pull({ batch, row, view, pulling, live, onType }: PullProps) {
  const begin = useWrite((confirmed: string[]) => writes.pull(batch, { code: row.code, confirmed }), batch);
  const end = useWrite(() => writes.endPull(), batch);
  const zero = useWrite(() => writes.zero(), batch);
  const hand = useWrite((code: string) => writes.hand(batch, { do: "pull", code }), batch);
  const canPump = pulling && view.simulated && !hand.isSuccess;
  const start = useFocus<HTMLButtonElement>(!pulling && live);
  const lever = useFocus<HTMLButtonElement>(canPump);
  const stop = useFocus<HTMLButtonElement>(pulling && !canPump);
  const problem = end.error ?? zero.error ?? hand.error;
  return (
    <div className="space-y-3">
      <div className="flex flex-wrap gap-3">
        {pulling ? (
          <>
            {canPump && (
              <Button
                look="bench"
                ref={lever}
                disabled={hand.isPending}
                onClick={() => hand.mutate(row.code)}
              >
                Pull the simulated lever
              </Button>
            )}
            <Button
              look={view.simulated ? "plain" : "bench"}
              ref={stop}
              className="min-h-14 px-5 text-lg"
              disabled={end.isPending}
              onClick={() => end.mutate(undefined)}
            >
              End the pull
            </Button>
          </>
        ) : (
          <>
            <Button
              look="bench"
              ref={start}
              disabled={!live || begin.isPending}
              onClick={() => begin.mutate([])}
            >
              Begin to pull
              <Key>Enter</Key>
            </Button>
            <Button className="min-h-14 px-5 text-lg" onClick={onType}>
              Type the load
            </Button>
            <Button
              className="min-h-14 px-5 text-lg"
              disabled={!live || zero.isPending}
              onClick={() => zero.mutate(undefined)}
            >
              Zero
            </Button>
          </>
        )}
      </div>
      <p className="min-h-6 text-faded" role="status">
        {pulling
          ? "Recording. Load slowly and evenly; the peak is caught, and the break ends the pull."
          : zero.isSuccess
            ? "Zero taken."
            : ""}
      </p>
      <DoubtNote
        problem={begin.error}
        busy={begin.isPending}
        act="Pull it"
        onConfirm={(asked) => begin.mutate(asked)}
      />
      <ProblemNote problem={problem} />
    </div>
  );
}

function Scope({
  signal,
  view,
  pulling,
  recorded,
}: {
  signal: Signal;
  view: View;
  pulling: boolean;
  recorded: Schemas["Pull"] | null;
}) {
  const units = useUnits();
  const { live, points, away } = signal;
  const curve = useCurve(recorded?.id ?? null);
  const load = live?.force_n ?? null;
  const limit = view.capacity_n === null ? null : view.capacity_n * view.working_share;
  const near = load !== null && limit !== null && load > 0.8 * limit;
  const peak = curve.data?.proposal?.reading.peak_n;
  const gaps = curve.data?.proposal?.reading.gaps ?? [];
  const force = (n: number) => units.text(n, "force", view.resolution_n);
  const showRecorded = recorded !== null && curve.data;
  return (
    <section aria-label="Load" className="sheet flex min-w-0 flex-col px-4 pt-3 pb-2">
      <div className="flex items-end justify-between gap-4">
        <p className={`text-5xl font-semibold ${near ? "text-alarm" : ""}`} aria-label="Load now">
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
        {showRecorded ? (
          <Curve
            key="recorded"
            points={curve.data.points as [number, number][]}
            tick={recorded.id}
            height={300}
            marks={peak ? [{ load: peak, text: `peak ${force(peak)}` }] : []}
            gaps={gaps.map((g) => [g.from_s, g.to_s ?? g.from_s] as const)}
          />
        ) : (
          <Curve key="live" points={points} tick={live?.sequence ?? 0} window={12} height={300} />
        )}
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
      {near && (
        <Notice>
          Near the end of what this rig is used for: go on slowly, or stop; “at least” is a result too.
        </Notice>
      )}
    </section>
  );
}

/** What comes from outdoors is wet, damp or dry: nobody knows it but who holds it. */
function Wetness({ row, batch }: { row: Row; batch: number }) {
  const save = useWrite(
    (state: string) =>
      writes.jointRecord(batch, { kind: "wetness", codes: [row.code], value: { state }, note: "", at: null }),
    batch,
  );
  return (
    <p className="flex flex-wrap items-center gap-x-3">
      It comes from outdoors and is
      {["wet", "damp", "dry"].map((state) => (
        <label key={state} className="flex items-center gap-1.5">
          <input
            type="radio"
            name={`wetness ${row.code}`}
            className="size-5"
            checked={row.wetness === state}
            disabled={save.isPending}
            onChange={() => save.mutate(state)}
          />
          {state}
        </label>
      ))}
      <ProblemNote problem={save.error} />
    </p>
  );
}
