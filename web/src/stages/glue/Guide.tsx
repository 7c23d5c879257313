/**
 * The bench, full screen: lay out, mix, then joint after joint: spread, clamp to so many newtons; clocks
 * to be seen from across the shop.
 */
import { useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { useGuide } from "../../api/guide";
import { useUndo } from "../../api/undo";
import { StageCautions } from "../../parts/StageCautions";
import { Button, ProblemNote, Waiting } from "../../parts/controls";
import { useNow } from "../../parts/useNow";
import { JointAtBench } from "./JointAtBench";
import { LayOut, type Mix } from "./LayOut";
import { OpenTasks } from "./OpenTasks";
import { useTaps, type Taps } from "./taps";
import { counted } from "../../parts/units";

type View = Schemas["Guide"];
type Piece = Schemas["GuidePiece"];

export default function Guide() {
  const batch = Number(useParams().id);
  const [mix, setMix] = useState<Mix>({ bottle: null, air: null });
  const data = useGuide(batch, mix);
  const taps = useTaps(batch);
  useAwake();
  if (!data) return <Waiting what="the bench" />;
  return (
    <Bench
      batch={batch}
      view={withTaps(data, taps)}
      taps={taps}
      mix={mix}
      onMix={(change) => setMix((before) => ({ ...before, ...change }))}
    />
  );
}

/** What the server knows, with what was tapped here since: the screen never waits for the network. */
function withTaps(view: View, taps: Taps): View {
  let seen = view;
  for (const { key, body } of taps.waiting) {
    const codes = body.codes ?? [];
    if (body.kind === "mixed") seen = { ...seen, mixed_at: body.at, mix_key: key };
    else if (body.code)
      seen = { ...seen, pieces: seen.pieces.map((p) => (p.code === body.code ? tapped(p, body) : p)) };
    else {
      const done = DONE_BY[body.kind];
      seen = {
        ...seen,
        tasks: seen.tasks
          .map((t) => (t.kind === done ? { ...t, codes: t.codes.filter((c) => !codes.includes(c)) } : t))
          .filter((t) => t.codes.length > 0),
      };
    }
  }
  return seen;
}

const DONE_BY: Readonly<Record<string, string>> = {
  unclamped: "unclamp",
  cleaned: "clean",
  in: "in",
  out: "out",
};

function tapped(p: Piece, body: Schemas["TapIn"]): Piece {
  switch (body.kind) {
    case "coat":
      return { ...p, coat_at: body.at };
    case "spread":
      return { ...p, spread_at: body.at };
    case "clamped":
      return { ...p, closed_at: body.at };
    default:
      return { ...p, notes: [...p.notes, body.text ?? ""] };
  }
}

interface BenchProps {
  batch: number;
  view: View;
  taps: Taps;
  mix: Mix;
  onMix: (change: Partial<Mix>) => void;
}

function Bench({ batch, view, taps, mix, onMix }: BenchProps) {
  const now = useNow(250);
  const { data: last, undo: takeBack } = useUndo(batch, "glue");
  // First coats first: while one dries, the next is put on.
  const next =
    view.pieces.find((p) => !p.closed_at && p.coat && !p.coat_at) ?? view.pieces.find((p) => !p.closed_at);
  const done = view.pieces.filter((p) => p.closed_at).length;
  const mixing = view.mixed_at === null;
  // What is due comes before another run is begun; what is not yet, after it.
  const due = view.tasks.filter((t) => t.kind !== "clean" && new Date(t.at).getTime() <= now);
  return (
    <section aria-label="Bench" className="mx-auto max-w-4xl space-y-4">
      <div className="flex items-baseline gap-4">
        <h1 className="min-w-0 text-xl font-bold wrap-anywhere">
          {view.name}
          {view.run > 0 && `, run ${view.run}`}
        </h1>
        <Link
          className="ml-auto shrink-0 text-spruce underline underline-offset-4"
          to={`/batch/${batch}/glue`}
        >
          Leave the bench
        </Link>
      </div>
      {taps.refused && (
        <>
          <ProblemNote problem={taps.refused} />
          <Button onClick={taps.skip}>Leave that tap out and go on</Button>
        </>
      )}
      <StageCautions batch={view.batch_id} stage="glue" glue={view.glue} />
      {(mixing || !next) && <OpenTasks name="Due now" batch={batch} tasks={due} now={now} taps={taps} />}
      {view.pieces.length === 0 ? (
        <p className="sheet px-4 py-6 text-xl">Every joint is glued.</p>
      ) : mixing ? (
        <LayOut view={view} taps={taps} mix={mix} onMix={onMix} />
      ) : next ? (
        <JointAtBench key={next.code} view={view} piece={next} done={done} now={now} taps={taps} />
      ) : (
        <p className="sheet px-4 py-8 text-xl">
          This run is in its clamps.{" "}
          {view.left > 0 ? `${counted(view.left, "joint is", "joints are")} left.` : "It was the last one."}
        </p>
      )}
      {(mixing || !next) && (
        <OpenTasks
          name="In and out of clamps"
          batch={batch}
          tasks={view.tasks.filter((t) => !due.includes(t))}
          now={now}
          taps={taps}
        />
      )}
      {!mixing && (
        <ol aria-label="Joints of this run" className="flex flex-wrap gap-2">
          {view.pieces.map((p) => (
            <li
              key={p.code}
              className={[
                "sheet px-2 py-1 font-mono",
                p.closed_at ? "text-faded" : "",
                p === next ? "border-spruce bg-spruce-pale" : "",
              ].join(" ")}
            >
              {p.closed_at ? "✓ " : ""}
              {p.code}
            </li>
          ))}
        </ol>
      )}
      <div
        className={`flex flex-wrap items-center gap-3 ${mixing && taps.waiting.length === 0 ? "hidden" : ""}`}
      >
        <Button
          className="min-h-12 px-4"
          disabled={takeBack.isPending || (taps.waiting.length === 0 && !last?.undo)}
          onClick={() => {
            if (!taps.takeBack()) takeBack.mutate(undefined);
          }}
        >
          Undo the last tap
        </Button>
        <span className="text-sm text-faded">{taps.waiting.length === 0 && last?.undo ? last.undo : ""}</span>
      </div>
      <ProblemNote problem={takeBack.error} />
    </section>
  );
}

/** The screen stays on while the bench is shown, where the browser can do that. */
function useAwake(): void {
  useEffect(() => {
    let lock: WakeLockSentinel | null = null;
    const ask = () => {
      if (document.visibilityState === "visible" && "wakeLock" in navigator)
        navigator.wakeLock.request("screen").then(
          (l) => (lock = l),
          () => undefined,
        );
    };
    ask();
    document.addEventListener("visibilitychange", ask);
    return () => {
      document.removeEventListener("visibilitychange", ask);
      void lock?.release();
    };
  }, []);
}
