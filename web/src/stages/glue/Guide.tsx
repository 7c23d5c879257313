/** The bench, full screen: lay out, mix, then joint after joint: spread, clamp to so many newtons; clocks to be seen from across the shop. */
import { useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { useGuide, useReference, useUndo, useWrite, writes } from "../../api/queries";
import { Button, Cautions, Code, Key, Mind, ProblemNote, Waiting } from "../../parts/controls";
import { facesOf } from "../../parts/facts";
import { JointGlyph } from "../../parts/JointGlyph";
import { QuantityField } from "../../parts/QuantityField";
import { whenRead } from "../../parts/reading";
import { clockOf, span, useUnits } from "../../parts/units";
import { useNow } from "../../parts/useNow";
import { Follow } from "./Follow";
import { useTaps, type Taps } from "./taps";

type View = Schemas["Guide"];
type Piece = Schemas["GuidePiece"];

const NOTES = ["slipped", "starved", "much squeeze-out", "spilled"] as const;

export default function Guide() {
  const batch = Number(useParams().id);
  const [mix, setMix] = useState<Mix>({ bottle: null, air: null });
  const { data } = useGuide(batch, mix);
  const taps = useTaps(batch);
  useAwake();
  if (!data) return <Waiting what="the bench" />;
  return <Bench batch={batch} view={withTaps(data, taps)} taps={taps} mix={mix} onMix={(change) => setMix((before) => ({ ...before, ...change }))} />;
}

/** What is about to be mixed: its limits are shown before it is. */
interface Mix {
  bottle: string | null;
  air: number | null;
}

/** What the server knows, with what was tapped here since: the screen never waits for the network. */
function withTaps(view: View, taps: Taps): View {
  let seen = view;
  for (const { key, body } of taps.waiting) {
    const codes = body.codes ?? [];
    if (body.kind === "mixed") seen = { ...seen, mixed_at: body.at, mix_key: key };
    else if (body.code) seen = { ...seen, pieces: seen.pieces.map((p) => (p.code === body.code ? tapped(p, body) : p)) };
    else {
      const done = DONE_BY[body.kind];
      seen = { ...seen, tasks: seen.tasks.map((t) => (t.kind === done ? { ...t, codes: t.codes.filter((c) => !codes.includes(c)) } : t)).filter((t) => t.codes.length > 0) };
    }
  }
  return seen;
}

const DONE_BY: Readonly<Record<string, string>> = { unclamped: "unclamp", cleaned: "clean", in: "in", out: "out" };

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
  const { data: undo } = useUndo(batch, "glue");
  const takeBack = useWrite(() => writes.undo(batch, "glue"), batch);
  // First coats first: while one dries, the next is put on.
  const next = view.pieces.find((p) => !p.closed_at && p.coat && !p.coat_at) ?? view.pieces.find((p) => !p.closed_at);
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
        <Link className="ml-auto shrink-0 text-spruce underline underline-offset-4" to={`/batch/${batch}/glue`}>
          Leave the bench
        </Link>
      </div>
      {taps.away && <Mind>No connection: every tap is kept here and sent later ({taps.waiting.length} waiting).</Mind>}
      {taps.refused && (
        <>
          <ProblemNote problem={taps.refused} />
          <Button onClick={taps.skip}>Leave that tap out and go on</Button>
        </>
      )}
      <Cautions items={view.cautions} />
      {(mixing || !next) && <Follow name="Due now" batch={batch} tasks={due} now={now} taps={taps} />}
      {view.pieces.length === 0 ? (
        <p className="sheet px-4 py-6 text-xl">Every joint is glued.</p>
      ) : mixing ? (
        <LayOut view={view} taps={taps} mix={mix} onMix={onMix} />
      ) : next ? (
        <Joint key={next.code} view={view} piece={next} done={done} now={now} taps={taps} />
      ) : (
        <p className="sheet px-4 py-8 text-xl">This run is in its clamps. {view.left > 0 ? `${view.left} joints are left.` : "It was the last one."}</p>
      )}
      {(mixing || !next) && <Follow name="In and out of clamps" batch={batch} tasks={view.tasks.filter((t) => !due.includes(t))} now={now} taps={taps} />}
      {!mixing && (
        <ol aria-label="Joints of this run" className="flex flex-wrap gap-2">
          {view.pieces.map((p) => (
            <li key={p.code} className={`sheet px-2 py-1 font-mono ${p.closed_at ? "text-faded" : ""} ${p === next ? "border-spruce bg-spruce-pale" : ""}`}>
              {p.closed_at ? "✓ " : ""}
              {p.code}
            </li>
          ))}
        </ol>
      )}
      <div className={`flex flex-wrap items-center gap-3 ${mixing && taps.waiting.length === 0 ? "hidden" : ""}`}>
        <Button
          className="min-h-12 px-4"
          disabled={takeBack.isPending || (taps.waiting.length === 0 && !undo?.undo)}
          onClick={() => {
            if (!taps.takeBack()) takeBack.mutate(undefined);
          }}
        >
          Undo the last tap
        </Button>
        <span className="text-sm text-faded">{taps.waiting.length === 0 && undo?.undo ? undo.undo : ""}</span>
      </div>
      <ProblemNote problem={takeBack.error} />
    </section>
  );
}

interface LayOutProps {
  view: View;
  taps: Taps;
  mix: Mix;
  onMix: (change: Partial<Mix>) => void;
}

function LayOut({ view, taps, mix, onMix }: LayOutProps) {
  const units = useUnits();
  const [damp, setDamp] = useState<number | null>(null);
  const [ratio, setRatio] = useState("");
  const [deviation, setDeviation] = useState("");
  const bottle = mix.bottle ?? view.bottles[0] ?? "";
  const tooMany = view.joints_per_mix !== null && view.joints_per_mix < view.pieces.length;
  return (
    <div className="space-y-4">
      <h2 className="text-2xl font-bold">
        Lay out {view.pieces.length} {view.pieces.length === 1 ? "joint" : "joints"}, {view.glue_name}: about {Math.max(1, Math.ceil(view.grams))} g
      </h2>
      <ol className="sheet divide-y divide-rule">
        {view.pieces.map((p) => (
          <li key={p.code} className="flex flex-wrap items-baseline gap-x-5 px-4 py-2 text-xl sm:text-2xl">
            <Code>{p.code}</Code>
            <span className="min-w-0 flex-1 wrap-anywhere">
              <span className="font-mono">{p.treatment}</span> {p.label}
            </span>
            <span className="text-faded">
              {p.coat && "first coat, "}
              {p.force_n !== null && units.text(p.force_n, "force", 0)} {p.clamp && `in ${p.clamp}`}
            </span>
          </li>
        ))}
      </ol>
      <p className="text-lg leading-10">
        From{" "}
        <select aria-label="Bottle" className="written" value={bottle} onChange={(e) => onMix({ bottle: e.target.value })}>
          <option value="">no bottle named</option>
          {view.bottles.map((b) => (
            <option key={b}>{b}</option>
          ))}
        </select>
        , air at <QuantityField label="Air temperature" dimension="temperature" className="w-24" value={mix.air} placeholder={units.symbol("temperature")} onChange={(air) => onMix({ air })} /> and{" "}
        <QuantityField label="Humidity" dimension="share" className="w-20" value={damp} placeholder="%" onChange={setDamp} />
        {view.pot_s !== null && (
          <>
            , mixed <input aria-label="Ratio of the mix" className="written w-28" placeholder="2 : 1" value={ratio} onChange={(e) => setRatio(e.target.value)} />
          </>
        )}
        ; <input aria-label="What was not as the label says" className="written w-72 max-w-full" placeholder="all as the label says" value={deviation} onChange={(e) => setDeviation(e.target.value)} />.
      </p>
      <p className="text-lg">
        {view.open_s !== null && <strong>Open for {clockOf(view.open_s)}</strong>}
        {view.pot_s !== null && <strong>, usable for {clockOf(view.pot_s)}</strong>} <span className="text-faded">{view.limits_text}</span>
      </p>
      {tooMany && <Mind>One mix lasts for about {view.joints_per_mix} joints at your pace: mix again for the rest, or leave some for later.</Mind>}
      <Button
        look="bench"
        autoFocus
        onClick={whenRead(() => taps.make({ kind: "mixed", codes: view.pieces.map((p) => p.code), air_c: mix.air, humidity_pct: damp, bottle, ratio, text: deviation }))}
      >
        {view.pot_s === null ? "Glue is ready" : "Mixed just now"}
        <Key>Enter</Key>
      </Button>
    </div>
  );
}

/** To be hit with a gloved hand. */
const TAP = "min-h-24! w-full text-3xl!";

interface JointProps {
  view: View;
  piece: Piece;
  done: number;
  now: number;
  taps: Taps;
}

function Joint({ view, piece, done, now, taps }: JointProps) {
  const units = useUnits();
  const { data: reference } = useReference();
  const glyph = facesOf(reference, piece.orientation);
  const [loud, setLoud] = useState(false);
  const since = (at: string | null) => (at ? (now - new Date(at).getTime()) / 1000 : null);
  const open = since(piece.spread_at);
  const coated = since(piece.coat_at);
  const over = open !== null && view.open_s !== null && open > view.open_s;
  const stands = piece.stands_s !== null && open !== null && open < piece.stands_s ? piece.stands_s - open : 0;
  const wet = coated !== null && !piece.spread_at && coated < view.coat_wait_s ? view.coat_wait_s - coated : 0;
  useBeep(loud && over);
  return (
    <div className="space-y-4">
      <div className="flex items-center gap-5">
        <JointGlyph faces={glyph.faces} angle={glyph.angle} form={piece.form} method={view.method} size={110} />
        <div className="min-w-0">
          <p className="text-lg text-faded">
            Joint {done + 1} of {view.pieces.length}
          </p>
          <p aria-live="polite">
            <Code size="huge">{piece.code}</Code>
          </p>
          <p className="text-2xl sm:text-4xl wrap-anywhere">
            <span className="font-mono font-semibold">{piece.treatment}</span> {piece.label}
          </p>
        </div>
      </div>
      <p className="text-3xl sm:text-5xl">
        {piece.force_n === null ? "Clamp as planned" : <>Clamp to <strong>{units.text(piece.force_n * piece.together, "force", 0)}</strong></>}
        {piece.clamps > 1 && ` with ${piece.clamps} clamps of ${units.text((piece.force_n ?? 0) / piece.clamps, "force", 0)}`}
        {piece.together > 1 && ` for the ${piece.together} side by side`}
        {piece.clamp && `, ${piece.clamp}`}
      </p>
      <div className={`grid gap-4 ${view.pot_s === null && !wet && !stands ? "" : "sm:grid-cols-2"}`}>
        {wet > 0 ? (
          <Clock name="First coat dries" seconds={coated} limit={view.coat_wait_s} passed="dry: go on" />
        ) : stands > 0 ? (
          <Clock name="Stands open, by plan" seconds={open} limit={piece.stands_s} passed="close it now" />
        ) : null}
        <Clock name="Open time" seconds={open} limit={view.open_s} />
        {view.pot_s !== null && <Clock name="Pot life" seconds={since(view.mixed_at)} limit={view.pot_s} />}
      </div>
      <Next piece={piece} view={view} taps={taps} />
      <p className="flex flex-wrap items-center gap-2">
        {NOTES.map((text) => (
          <Button key={text} className="min-h-14 px-4" aria-pressed={piece.notes.includes(text)} onClick={() => taps.make({ kind: "note", code: piece.code, text })}>
            {text}
          </Button>
        ))}
        <label className="ml-auto flex min-h-14 items-center gap-2">
          <input type="checkbox" className="size-6" checked={loud} onChange={(e) => setLoud(e.target.checked)} />
          sound when open time is over
        </label>
      </p>
      {piece.notes.length > 0 && <p className="text-faded">Noted: {piece.notes.join(", ")}.</p>}
    </div>
  );
}

/** The one thing to do next with a joint. */
function Next({ piece, view, taps }: { piece: Piece; view: View; taps: Taps }) {
  const [kind, text] =
    piece.coat && !piece.coat_at ? (["coat", "First coat on"] as const) : piece.spread_at ? (["clamped", "Closed and clamped"] as const) : (["spread", piece.coat ? "Second coat spread" : "Spread"] as const);
  return (
    <Button look="bench" autoFocus key={kind} className={TAP} onClick={() => taps.make({ kind, code: piece.code, mix: view.mix_key ?? "" })}>
      {text}
      <Key>Enter</Key>
    </Button>
  );
}

/** Large enough for two metres; says in words, not by colour alone, when its time is over. */
function Clock({ name, seconds, limit, passed = "" }: { name: string; seconds: number | null; limit: number | null; passed?: string }) {
  const left = seconds === null || limit === null ? null : limit - seconds;
  const over = left !== null && left < 0;
  return (
    <div className={`sheet px-4 py-3 ${over ? "border-alarm" : ""}`}>
      <p className="head">{name}</p>
      <p className={`text-7xl font-semibold sm:text-9xl tabular-nums ${over ? "text-alarm" : ""}`} role="timer" aria-label={name}>
        {seconds === null ? (limit === null ? "—" : clockOf(limit)) : left === null ? clockOf(seconds) : clockOf(Math.abs(left))}
      </p>
      <p className={over ? "text-alarm" : "text-faded"}>{seconds === null ? "starts when you spread" : over ? passed || `over by ${span(left)}: go on, it is noted` : limit === null ? "so far" : "left"}</p>
    </div>
  );
}

/** The screen stays on while the bench is shown, where the browser can do that. */
function useAwake(): void {
  useEffect(() => {
    let lock: WakeLockSentinel | null = null;
    const ask = () => {
      if (document.visibilityState === "visible" && "wakeLock" in navigator) navigator.wakeLock.request("screen").then((l) => (lock = l), () => undefined);
    };
    ask();
    document.addEventListener("visibilitychange", ask);
    return () => {
      document.removeEventListener("visibilitychange", ask);
      void lock?.release();
    };
  }, []);
}

function useBeep(on: boolean): void {
  useEffect(() => {
    if (!on) return;
    const audio = new AudioContext();
    const beep = () => {
      const tone = audio.createOscillator();
      const volume = audio.createGain();
      volume.gain.value = 0.15;
      tone.frequency.value = 880;
      tone.connect(volume).connect(audio.destination);
      tone.start();
      tone.stop(audio.currentTime + 0.25);
    };
    beep();
    const timer = setInterval(beep, 2000);
    return () => {
      clearInterval(timer);
      void audio.close();
    };
  }, [on]);
}
