/** One joint at the bench: what to press it with, its clocks, and the one tap that comes next. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useCatalogue, useWrite, writes } from "../../api/queries";
import { Button, Code, Key } from "../../parts/controls";
import { facesOf } from "../../parts/faces";
import { JointGlyph } from "../../parts/JointGlyph";
import { QuantityField } from "../../parts/QuantityField";
import { Worded } from "../../parts/Word";
import { useBeep, useSound } from "../../parts/useSound";
import { clockOf, span, useUnits } from "../../parts/units";
import type { Taps } from "./taps";

type View = Schemas["Guide"];
type Piece = Schemas["GuidePiece"];

const NOTES = ["slipped", "starved", "much squeeze-out", "spilled"] as const;

/** To be hit with a gloved hand. */
const TAP = "min-h-24! w-full text-3xl!";

interface Props {
  view: View;
  piece: Piece;
  done: number;
  now: number;
  taps: Taps;
}

export function JointAtBench({ view, piece, done, now, taps }: Props) {
  const units = useUnits();
  const { data: catalogue } = useCatalogue();
  const glyph = facesOf(catalogue, piece.orientation);
  const [loud, setLoud] = useSound();
  const since = (at: string | null) => (at ? (now - new Date(at).getTime()) / 1000 : null);
  const open = since(piece.spread_at);
  const coated = since(piece.coat_at);
  const over = open !== null && view.open_s !== null && open > view.open_s;
  const stands =
    piece.stands_s !== null && open !== null && open < piece.stands_s ? piece.stands_s - open : 0;
  const wet =
    coated !== null && !piece.spread_at && coated < view.coat_wait_s ? view.coat_wait_s - coated : 0;
  const step = useWrite((body: Schemas["MarkIn"]) => writes.mark(view.batch_id, body), view.batch_id);
  useBeep(loud === true && over);
  const timed = piece.steps.filter((s) => s.at && (s.wait_s ?? s.within_s));
  const isAlone = view.pot_s === null && !wet && !stands && !timed.length;
  return (
    <div className="space-y-4">
      <div className="flex items-center gap-5">
        <JointGlyph
          faces={glyph.faces}
          angle={glyph.angle}
          form={piece.form}
          method={view.method}
          size={110}
        />
        <div className="min-w-0">
          <p className="text-lg text-faded">
            Joint {done + 1} of {view.pieces.length}
          </p>
          <p aria-live="polite">
            <Code size="huge">{piece.code}</Code>
          </p>
          <p className="text-2xl sm:text-4xl wrap-anywhere">
            <span className="font-mono font-semibold">{piece.treatment}</span> {piece.label}
            {piece.parent && <span className="text-faded">, {piece.parent.split(" (")[0]}</span>}
          </p>
        </div>
      </div>
      <p className="text-3xl sm:text-5xl">
        {piece.force_n === null ? (
          <span className="first-letter:uppercase">{piece.pressed_by || "Clamp as planned"}</span>
        ) : (
          <>
            Clamp to <strong>{units.text(piece.force_n * piece.together, "force")}</strong>
          </>
        )}
        {piece.clamps > 1 &&
          ` with ${piece.clamps} clamps of ${units.text((piece.force_n ?? 0) / piece.clamps, "force")}`}
        {piece.together > 1 && ` for the ${piece.together} side by side`}
        {piece.clamp && `, ${piece.clamp}`}
      </p>
      <div className={`grid gap-4 ${isAlone ? "" : "sm:grid-cols-2"}`}>
        {wet > 0 ? (
          <Clock name="First coat dries" seconds={coated} limit={view.coat_wait_s} passed="dry: go on" />
        ) : stands > 0 ? (
          <Clock name="Stands open, by plan" seconds={open} limit={piece.stands_s} passed="close it now" />
        ) : null}
        {timed.map((s) => (
          <Clock
            key={s.id}
            name={s.text}
            seconds={since(s.at)}
            limit={s.wait_s && since(s.at)! < s.wait_s ? s.wait_s : (s.within_s ?? s.wait_s)}
            passed={
              s.within_s && since(s.at)! > s.within_s ? "holds no more: do it again" : "waited for: go on"
            }
          />
        ))}
        <Clock name="Open time" seconds={open} limit={view.open_s} />
        {view.pot_s !== null && <Clock name="Pot life" seconds={since(view.mixed_at)} limit={view.pot_s} />}
      </div>
      {piece.steps
        .filter((s) => !s.state)
        .map((s) => (
          <p key={s.id} className="flex flex-wrap items-center gap-3 text-2xl">
            {s.text}: not noted.
            <Button
              className="min-h-12 px-4"
              disabled={step.isPending}
              onClick={() =>
                step.mutate({ step: s.id, codes: [piece.code], state: "done", at: null, note: "" })
              }
            >
              done now
            </Button>
            <Button
              className="min-h-12 px-4"
              disabled={step.isPending}
              onClick={() =>
                step.mutate({ step: s.id, codes: [piece.code], state: "not done", at: null, note: "" })
              }
            >
              left out
            </Button>
          </p>
        ))}
      <Next piece={piece} view={view} taps={taps} />
      <p className="flex flex-wrap items-center gap-2">
        {NOTES.map((text) => (
          <Button
            key={text}
            className="min-h-14 px-4"
            aria-pressed={piece.notes.includes(text)}
            onClick={() => taps.make({ kind: "note", code: piece.code, text })}
          >
            {text}
          </Button>
        ))}
        <label className="ml-auto flex min-h-14 items-center gap-2">
          <input
            type="checkbox"
            className="size-6"
            checked={loud === true}
            onChange={(e) => setLoud(e.target.checked)}
          />
          ring when a time is over
        </label>
      </p>
      {piece.notes.length > 0 && <p className="text-faded">Noted: {piece.notes.join(", ")}.</p>}
    </div>
  );
}

/** The one thing to do next with a joint. */
function Next({ piece, view, taps }: { piece: Piece; view: View; taps: Taps }) {
  const units = useUnits();
  const [force, setForce] = useState<number | null>(null);
  const [kind, text] =
    piece.coat && !piece.coat_at
      ? (["coat", "First coat on"] as const)
      : piece.spread_at
        ? (["clamped", "Closed and clamped"] as const)
        : (["spread", piece.coat ? "Second coat spread" : "Spread"] as const);
  const reads = kind === "clamped" && view.force_known === "measured";
  return (
    <>
      {reads && (
        <p className="text-2xl">
          The gauge reads{" "}
          <QuantityField
            label={`Force read at ${piece.code}`}
            dimension="force"
            className="w-40"
            value={force}
            placeholder={units.symbol("force")}
            onChange={setForce}
          />{" "}
          a clamp; left empty, it is written down as not known.
        </p>
      )}
      <Button
        look="bench"
        autoFocus
        key={kind}
        className={TAP}
        onClick={() =>
          taps.make({
            kind,
            code: piece.code,
            mix: view.mix_key ?? "",
            ...(reads ? { force_n: force } : {}),
          })
        }
      >
        {text}
        <Key>Enter</Key>
      </Button>
    </>
  );
}

/** Large enough for two metres; says in words, not by colour alone, when its time is over. */
function Clock({
  name,
  seconds,
  limit,
  passed = "",
}: {
  name: string;
  seconds: number | null;
  limit: number | null;
  passed?: string;
}) {
  const left = seconds === null || limit === null ? null : limit - seconds;
  const over = left !== null && left < 0;
  return (
    <div className={`sheet px-4 py-3 ${over ? "border-alarm" : ""}`}>
      <p className="head">
        <Worded text={name} />
      </p>
      <p
        className={`text-7xl font-semibold sm:text-9xl tabular-nums ${over ? "text-alarm" : ""}`}
        role="timer"
        aria-label={name}
      >
        {seconds === null
          ? limit === null
            ? "—"
            : clockOf(limit)
          : left === null
            ? clockOf(seconds)
            : clockOf(Math.abs(left))}
      </p>
      <p className={over ? "text-alarm" : "text-faded"}>
        {seconds === null
          ? "starts when you spread"
          : over
            ? passed || `over by ${span(left)}: go on, it is noted`
            : limit === null
              ? "so far"
              : "left"}
      </p>
    </div>
  );
}
