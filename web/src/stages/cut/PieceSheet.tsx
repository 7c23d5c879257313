/**
 * One piece in full: its adherends, what was done to their faces in order, and what is wrong with the
 * wood.
 */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { deskStamp } from "../../api/deskClock";
import { usePiece, useCatalogue, useWrite, writes } from "../../api/queries";
import { Button, Code, Notice, ProblemNote } from "../../parts/controls";
import { Flags } from "../../parts/Explained";
import { Photos } from "../../parts/Photos";
import { QuantityField } from "../../parts/QuantityField";
import { clock, span } from "../../parts/units";

interface Props {
  batch: number;
  view: Schemas["CutView"];
  code: string;
  onClose: () => void;
}

export function PieceSheet({ batch, view, code, onClose }: Props) {
  const { data } = usePiece(batch, code);
  const { data: catalogue } = useCatalogue();
  if (!data) return null;
  const material = (key: string) => catalogue?.woods.find((w) => w.key === key)?.name ?? key;
  return (
    <section aria-label={`Piece ${code}`} className="sheet space-y-3 px-4 py-3">
      <div className="flex items-baseline gap-4">
        <Code size="large">{code}</Code>
        <span className="wrap-anywhere">
          {data.treatment} {data.label}
          {data.parent && <span className="text-faded">, of {data.parent}</span>}
          {data.board && <span className="text-faded">, from {data.board}</span>}
        </span>
        <Button look="quiet" className="ml-auto" onClick={onClose}>
          close
        </Button>
      </div>
      {data.swapped && <Notice>Halves were swapped: {data.swapped}.</Notice>}
      {data.flags.length > 0 && (
        <p>
          <Flags items={data.flags} of={code} />
        </p>
      )}
      <ul>
        {data.adherends.map((m) => (
          <li key={m.side} className="border-t border-rule py-1.5">
            <span className="font-mono font-semibold">{m.side}</span> {material(m.material)}, {m.face} face
            {m.angle_deg !== null && ` at ${m.angle_deg}°`}
            {data.since_machining_h[m.side] !== undefined && (
              <span className="text-faded">
                ; glued {span(3600 * data.since_machining_h[m.side]!)} after machining
              </span>
            )}
            <ol className="ml-6 list-decimal text-sm">
              {data.steps
                .filter((s) => s.side === m.side)
                .map((s) => (
                  <li key={s.position}>{inWords(s)}</li>
                ))}
            </ol>
            {data.defects
              .filter((d) => d.side === m.side)
              .map((d) => (
                <p key={d.at + d.text} className="text-sm text-notice">
                  {d.text} (found {d.found}, {clock(d.at)})
                </p>
              ))}
          </li>
        ))}
      </ul>
      {data.stood.map(([place, air], i) => (
        <p key={place + String(i)} className="text-sm">
          Stood at {place}: {air}.
        </p>
      ))}
      {data.coarsest !== null && <p className="text-sm text-faded">Coarsest grit: {data.coarsest}.</p>}
      <Fault batch={batch} piece={data} />
      <Photos kind="piece" name={data.code} batch={batch} />
      <Faces batch={batch} piece={data} view={view} />
    </section>
  );
}

function inWords(s: Schemas["Step"]): string {
  return [
    s.step,
    s.grit && `grit ${s.grit}`,
    s.amount_g_m2 && `${s.amount_g_m2} g/m²`,
    s.dilution,
    s.wait_s && `then wait ${span(s.wait_s)}`,
    s.at && clock(s.at),
  ]
    .filter(Boolean)
    .join(", ");
}

function Fault({ batch, piece }: { batch: number; piece: Schemas["PieceView"] }) {
  const [side, setSide] = useState("a");
  const [text, setText] = useState("");
  const save = useWrite((body: Schemas["DefectIn"]) => writes.defect(batch, piece.code, body), batch);
  return (
    <form
      className="flex flex-wrap items-center gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate({ side, text }, { onSuccess: () => setText("") });
      }}
    >
      A fault of half{" "}
      <select
        aria-label="Half with the fault"
        className="written"
        value={side}
        onChange={(e) => setSide(e.target.value)}
      >
        {piece.adherends.map((m) => (
          <option key={m.side}>{m.side}</option>
        ))}
      </select>
      <input
        aria-label="The fault"
        className="written w-72 max-w-full"
        placeholder="knot, 6 mm from the line"
        value={text}
        onChange={(e) => setText(e.target.value)}
      />
      <Button type="submit" disabled={save.isPending}>
        Note it
      </Button>
      <ProblemNote problem={save.error} />
    </form>
  );
}

interface Draft {
  side: string;
  step: string;
  grit: string;
  dilution: string;
  wait_s: number | null;
}
const EMPTY: Draft = { side: "both", step: "", grit: "", dilution: "", wait_s: null };

/** The list is written once and given to this piece, its treatment, or all. */
function Faces({
  batch,
  piece,
  view,
}: {
  batch: number;
  piece: Schemas["PieceView"];
  view: Schemas["CutView"];
}) {
  const [list, setList] = useState<readonly Draft[]>([EMPTY]);
  const [to, setTo] = useState("piece");
  const save = useWrite((body: Schemas["StepsIn"]) => writes.faces(batch, body), batch);
  const set = (i: number, part: Partial<Draft>) =>
    setList(list.map((d, j) => (i === j ? { ...d, ...part } : d)));
  const joints = view.rows.filter((r) => r.role === "joint");
  const codes =
    to === "piece"
      ? [piece.code]
      : joints.filter((r) => to === "all" || r.treatment === piece.treatment).map((r) => r.code);
  const steps = () => {
    const now = deskStamp();
    return list.flatMap((d) =>
      (d.side === "both" ? ["a", "b"] : [d.side]).map((side) => ({
        side,
        step: d.step,
        grit: d.grit ? Number(d.grit) : null,
        amount_g_m2: null,
        dilution: d.dilution,
        wait_s: d.wait_s,
        at: now,
      })),
    );
  };
  return (
    <details>
      <summary className="cursor-pointer text-faded">Write down what was done to the faces</summary>
      <ol className="ml-6 list-decimal leading-9">
        {list.map((d, i) => (
          <li key={i}>
            <select
              aria-label={`Face of step ${i + 1}`}
              className="written"
              value={d.side}
              onChange={(e) => set(i, { side: e.target.value })}
            >
              <option value="both">both faces</option>
              <option value="a">face a</option>
              <option value="b">face b</option>
            </select>{" "}
            <input
              aria-label={`Step ${i + 1}`}
              className="written w-52"
              placeholder="planed, wiped, first coat"
              value={d.step}
              onChange={(e) => set(i, { step: e.target.value })}
            />{" "}
            grit{" "}
            <input
              aria-label={`Grit of step ${i + 1}`}
              inputMode="numeric"
              className="written w-14"
              value={d.grit}
              onChange={(e) => set(i, { grit: e.target.value.replace(/\D/g, "") })}
            />{" "}
            <input
              aria-label={`Dilution of step ${i + 1}`}
              className="written w-24"
              placeholder="1 : 1"
              value={d.dilution}
              onChange={(e) => set(i, { dilution: e.target.value })}
            />{" "}
            then wait{" "}
            <QuantityField
              label={`Wait after step ${i + 1}`}
              dimension="time"
              unit="min"
              className="w-20"
              value={d.wait_s}
              placeholder="0"
              onChange={(wait_s) => set(i, { wait_s })}
            />
          </li>
        ))}
      </ol>
      <p className="flex flex-wrap items-center gap-3">
        <Button look="quiet" onClick={() => setList([...list, EMPTY])}>
          another step
        </Button>
        <select
          aria-label="For which pieces"
          className="written"
          value={to}
          onChange={(e) => setTo(e.target.value)}
        >
          <option value="piece">for this piece</option>
          <option value="treatment">for all of {piece.treatment}</option>
          <option value="all">for all joints</option>
        </select>
        <Button
          disabled={save.isPending}
          onClick={() => save.mutate({ codes, steps: steps() }, { onSuccess: () => setList([EMPTY]) })}
        >
          Write it down
        </Button>
        {save.isSuccess && (
          <span role="status" className="text-sm text-faded">
            Written for {save.data.pieces}.
          </span>
        )}
      </p>
      <ProblemNote problem={save.error} />
    </details>
  );
}
