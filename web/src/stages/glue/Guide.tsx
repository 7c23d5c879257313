/** The bench, full screen: lay out, mix, then joint after joint: spread, clamp to so many newtons; clocks to be seen from across the shop. */
import { useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { useGuide, useReference, useUndo, useWrite, writes } from "../../api/queries";
import { Button, Cautions, Code, Key, Mind, ProblemNote, Waiting } from "../../parts/controls";
import { facesOf } from "../../parts/facts";
import { JointGlyph } from "../../parts/JointGlyph";
import { QuantityField } from "../../parts/QuantityField";
import { span, useUnits } from "../../parts/units";
import { useNow } from "../../parts/useNow";
import { useTaps, type Taps } from "./taps";

type View = Schemas["Guide"];
type Piece = Schemas["GuidePiece"];

const NOTES = ["slipped", "starved", "much squeeze-out", "spilled"] as const;

export default function Guide() {
  const batch = Number(useParams().id);
  const { data } = useGuide(batch);
  const taps = useTaps(batch);
  useAwake();
  if (!data) return <Waiting what="the bench" />;
  return <Bench batch={batch} view={withTaps(data, taps)} taps={taps} />;
}

/** What the server knows, with what was tapped here since: the screen never waits for the network. */
function withTaps(view: View, taps: Taps): View {
  let seen = view;
  for (const { key, body } of taps.waiting) {
    if (body.kind === "mixed") seen = { ...seen, mixed_at: body.at, mix_key: key };
    else
      seen = {
        ...seen,
        pieces: seen.pieces.map((p) =>
          p.code !== body.code ? p : body.kind === "spread" ? { ...p, spread_at: body.at } : body.kind === "clamped" ? { ...p, closed_at: body.at } : { ...p, notes: [...p.notes, body.text ?? ""] },
        ),
      };
  }
  return seen;
}

function Bench({ batch, view, taps }: { batch: number; view: View; taps: Taps }) {
  const now = useNow(250);
  const { data: undo } = useUndo(batch, "glue");
  const takeBack = useWrite(() => writes.undo(batch, "glue"), batch);
  const next = view.pieces.find((p) => !p.closed_at);
  const done = view.pieces.filter((p) => p.closed_at).length;
  const mixing = view.mixed_at === null;
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
      {view.pieces.length === 0 ? (
        <p className="sheet px-4 py-8 text-xl">Every joint is glued. What is in clamps stands under Today.</p>
      ) : mixing ? (
        <LayOut view={view} taps={taps} />
      ) : next ? (
        <Joint key={next.code} view={view} piece={next} done={done} now={now} taps={taps} />
      ) : (
        <p className="sheet px-4 py-8 text-xl">This run is in its clamps. {view.left > 0 ? `${view.left} joints are left.` : "It was the last one."}</p>
      )}
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

function LayOut({ view, taps }: { view: View; taps: Taps }) {
  const units = useUnits();
  const [bottle, setBottle] = useState(view.bottles[0] ?? "");
  const [air, setAir] = useState<number | null>(null);
  const [damp, setDamp] = useState<number | null>(null);
  return (
    <div className="space-y-4">
      <h2 className="text-2xl font-bold">
        Lay out {view.pieces.length} {view.pieces.length === 1 ? "joint" : "joints"}, {view.glue_name}: about {Math.max(1, Math.ceil(view.grams))} g
      </h2>
      <ol className="sheet divide-y divide-rule">
        {view.pieces.map((p) => (
          <li key={p.code} className="flex flex-wrap items-baseline gap-x-4 px-4 py-2 text-lg">
            <Code>{p.code}</Code>
            <span className="min-w-0 flex-1 wrap-anywhere">
              <span className="font-mono">{p.treatment}</span> {p.label}
            </span>
            <span className="text-faded">
              {p.force_n !== null && units.text(p.force_n, "force", 0)} {p.clamp && `in ${p.clamp}`}
            </span>
          </li>
        ))}
      </ol>
      <p className="text-lg leading-10">
        From{" "}
        <select aria-label="Bottle" className="written" value={bottle} onChange={(e) => setBottle(e.target.value)}>
          <option value="">no bottle named</option>
          {view.bottles.map((b) => (
            <option key={b}>{b}</option>
          ))}
        </select>
        , air at <QuantityField label="Air temperature" dimension="temperature" className="w-24" value={air} placeholder="°C" onChange={setAir} /> and{" "}
        <QuantityField label="Humidity" dimension="share" className="w-20" value={damp} placeholder="%" onChange={setDamp} />.
      </p>
      <Button
        look="bench"
        autoFocus
        onClick={() => taps.make({ kind: "mixed", codes: view.pieces.map((p) => p.code), code: "", mix: "", text: "", air_c: air, humidity_pct: damp, bottle })}
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
  const open = piece.spread_at ? (now - new Date(piece.spread_at).getTime()) / 1000 : null;
  const pot = view.mixed_at ? (now - new Date(view.mixed_at).getTime()) / 1000 : 0;
  const over = open !== null && view.open_s !== null && open > view.open_s;
  useBeep(loud && over);
  const about = { codes: [], code: piece.code, mix: view.mix_key ?? "", text: "", air_c: null, humidity_pct: null, bottle: "" };
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
          <p className="text-2xl wrap-anywhere">
            <span className="font-mono font-semibold">{piece.treatment}</span> {piece.label}
          </p>
        </div>
      </div>
      <p className="text-3xl">
        {piece.force_n === null ? "Clamp as planned" : <>Clamp to <strong>{units.text(piece.force_n, "force", 0)}</strong></>}
        {piece.clamp && `, ${piece.clamp}`}
      </p>
      <div className={`grid gap-4 ${view.pot_s === null ? "" : "sm:grid-cols-2"}`}>
        <Clock name="Open time" seconds={open} limit={view.open_s} />
        {view.pot_s !== null && <Clock name="Pot life" seconds={pot} limit={view.pot_s} />}
      </div>
      {piece.spread_at ? (
        <Button look="bench" autoFocus key="clamped" className={TAP} onClick={() => taps.make({ kind: "clamped", ...about })}>
          Closed and clamped
          <Key>Enter</Key>
        </Button>
      ) : (
        <Button look="bench" autoFocus key="spread" className={TAP} onClick={() => taps.make({ kind: "spread", ...about })}>
          Spread
          <Key>Enter</Key>
        </Button>
      )}
      <p className="flex flex-wrap items-center gap-2">
        {NOTES.map((text) => (
          <Button key={text} className="min-h-12" aria-pressed={piece.notes.includes(text)} onClick={() => taps.make({ kind: "note", ...about, text })}>
            {text}
          </Button>
        ))}
        <label className="ml-auto flex items-center gap-2">
          <input type="checkbox" className="size-6" checked={loud} onChange={(e) => setLoud(e.target.checked)} />
          sound when open time is over
        </label>
      </p>
      {piece.notes.length > 0 && <p className="text-faded">Noted: {piece.notes.join(", ")}.</p>}
    </div>
  );
}

/** Large enough for two metres; says in words, not by colour alone, when its time is over. */
function Clock({ name, seconds, limit }: { name: string; seconds: number | null; limit: number | null }) {
  const left = seconds === null || limit === null ? null : limit - seconds;
  const over = left !== null && left < 0;
  return (
    <div className={`sheet px-4 py-3 ${over ? "border-alarm" : ""}`}>
      <p className="head">{name}</p>
      <p className={`text-7xl font-semibold sm:text-8xl tabular-nums ${over ? "text-alarm" : ""}`} role="timer" aria-label={name}>
        {seconds === null ? (limit === null ? "—" : clockOf(limit)) : left === null ? clockOf(seconds) : clockOf(Math.abs(left))}
      </p>
      <p className={over ? "text-alarm" : "text-faded"}>{seconds === null ? "starts when you spread" : over ? `over by ${span(left)}: go on, it is noted` : limit === null ? "so far" : "left"}</p>
    </div>
  );
}

function clockOf(seconds: number): string {
  const s = Math.floor(seconds);
  return `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")}`;
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
