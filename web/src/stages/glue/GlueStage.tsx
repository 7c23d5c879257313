/** Glue: what waits, the glue-up to write down, and what is in the clamps. */
import { useState } from "react";
import { Link } from "react-router";
import { Problem, type Schemas } from "../../api/client";
import { useGlue, useCatalogue } from "../../api/queries";
import { Protocol } from "../../parts/Protocol";
import { StageCautions } from "../../parts/StageCautions";
import { Code, Notice, ProblemNote, Waiting } from "../../parts/controls";
import { Explained, Flags } from "../../parts/Explained";
import { JointGlyph } from "../../parts/JointGlyph";
import { Sheet, type Column } from "../../parts/Sheet";
import { UndoBar } from "../../parts/UndoBar";
import { clock, clockOf, counted, useUnits } from "../../parts/units";
import { facesOf } from "../../parts/faces";
import { Conditioning } from "./Conditioning";
import { GlueupForm } from "./GlueupForm";
import { InClamps } from "./InClamps";
import { PairCheck } from "./PairCheck";
import { Schedule } from "./Schedule";
import { JointRecord } from "./JointRecord";

type Piece = Schemas["GluePiece"];

export default function GlueStage({ batch }: { batch: number }) {
  const { data, error } = useGlue(batch);
  const { data: catalogue } = useCatalogue();
  const units = useUnits();
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [find, setFind] = useState("");
  if (error && !data)
    return <ProblemNote problem={error instanceof Problem ? error : new Problem(0, String(error))} />;
  if (!data) return <Waiting what="the gluing" />;

  const waiting = data.pieces.filter((p) => p.glueup === null && !p.not_run);
  const ready = new Set([...chosen].filter((code) => waiting.some((p) => p.code === code)));
  const choose = (codes: readonly string[], on: boolean) => {
    const next = new Set(ready);
    for (const code of codes)
      if (on) next.add(code);
      else next.delete(code);
    setChosen(next);
  };
  const treatments = [...new Map(waiting.map((p) => [p.treatment, p])).values()].sort((a, b) =>
    a.treatment.localeCompare(b.treatment),
  );

  const columns: Column<Piece>[] = [
    {
      key: "choose",
      head: <Explained why="The number of its glue-up.">No.</Explained>,
      width: "2rem",
      show: (p) =>
        p.glueup === null && p.not_run ? (
          <Explained why={`Not run: ${p.not_run}`}>out</Explained>
        ) : p.glueup === null ? (
          <input
            type="checkbox"
            className="size-5"
            aria-label={`Glue ${p.code} now`}
            checked={ready.has(p.code)}
            onChange={(e) => choose([p.code], e.target.checked)}
          />
        ) : (
          <span className="font-mono text-sm text-faded">{p.glueup}</span>
        ),
    },
    {
      key: "code",
      head: "Piece",
      width: data.pieces.some((p) => p.parent) ? "10rem" : "4.5rem",
      show: (p) => (
        <>
          <Code>{p.code}</Code>
          {p.parent && <span className="ml-2 text-sm text-faded">{p.parent.split(" (")[0]}</span>}
        </>
      ),
    },
    {
      key: "treatment",
      head: "Treatment",
      width: "minmax(9rem, 1.2fr)",
      show: (p) => (
        <>
          <span className="mr-2 font-mono">{p.treatment}</span>
          {p.label}
          {p.pieces.length > 0 && <span className="text-faded">, {p.pieces.length} pieces</span>}
        </>
      ),
    },
    {
      key: "area",
      head: `Area, ${units.symbol("area")}`,
      width: "5rem",
      show: (p) => (
        <span className={`${p.measured ? "" : "text-faded"}`}>{units.number(p.area_mm2, "area")}</span>
      ),
    },
    {
      key: "wanted",
      head: `Wanted, ${units.symbol("stress")}`,
      width: "6rem",
      show: (p) => (
        <span className="tabular-nums">
          {p.wanted_by
            ? data.means.find(([key]) => key === p.wanted_by)?.[1].toLowerCase()
            : p.wanted_mpa !== null && units.number(p.wanted_mpa, "stress")}
        </span>
      ),
    },
    {
      key: "open",
      head: "Open",
      width: "4rem",
      show: (p) => <span className="tabular-nums">{p.open_s === null ? "" : clockOf(p.open_s)}</span>,
    },
    {
      key: "pressure",
      head: `Pressed, ${units.symbol("stress")}`,
      width: "6rem",
      show: (p) => (
        <span className="tabular-nums">
          {p.pressure_mpa === null ? (p.glueup ? "unknown" : "") : units.number(p.pressure_mpa, "stress")}
        </span>
      ),
    },
    {
      key: "out",
      head: "Out of the clamp",
      width: "10.5rem",
      show: (p) => (p.unclamped_at ? clock(p.unclamped_at) : p.glueup ? "in the clamp" : ""),
    },
    { key: "flags", head: "To mind", width: "minmax(8rem, 1.5fr)", show: (p) => <Remarks piece={p} /> },
  ];
  const words = find.trim().toLowerCase();
  const shown = words ? data.pieces.filter((p) => about(p).toLowerCase().includes(words)) : data.pieces;

  return (
    <div className="space-y-5">
      <StageCautions batch={batch} stage="glue" />
      {data.warnings.map((text) => (
        <Notice key={text}>{text}</Notice>
      ))}
      <Schedule batch={batch} />
      {waiting.length > 0 && (
        <p className="no-print">
          <Link
            className="rounded-md bg-spruce px-4 py-2 font-semibold text-on-spruce hover:bg-spruce-deep"
            to={`/batch/${batch}/bench`}
          >
            To the bench
          </Link>{" "}
          <span className="text-faded">
            joint after joint, each tap with its time; on paper with the{" "}
            <Link className="text-spruce underline underline-offset-4" to={`/batch/${batch}/bench-sheet`}>
              bench sheet
            </Link>
            , typed back later; or as a glue-up written down afterwards:
          </span>
        </p>
      )}
      <Protocol batch={batch} />
      <PairCheck batch={batch} />
      {waiting.length > 0 && (
        <section aria-label="New glue-up" className="space-y-3">
          <div className="flex flex-wrap items-center gap-x-5 gap-y-1">
            <h2 className="text-lg font-bold">
              {counted(waiting.length, "joint waits", "joints wait")} for glue
            </h2>
            {treatments.map((t) => {
              const codes = waiting.filter((p) => p.treatment === t.treatment).map((p) => p.code);
              return (
                <label key={t.treatment} className="flex items-center gap-1.5">
                  <input
                    type="checkbox"
                    className="size-5"
                    checked={codes.every((c) => ready.has(c))}
                    onChange={(e) => choose(codes, e.target.checked)}
                  />
                  <JointGlyph
                    {...facesOf(catalogue, t.orientation)}
                    form={t.form}
                    dry={t.glue === "none"}
                    size={28}
                  />
                  {t.label} ({codes.length})
                </label>
              );
            })}
            <label className="flex items-center gap-1.5">
              <input
                type="checkbox"
                className="size-5"
                checked={waiting.every((p) => ready.has(p.code))}
                onChange={(e) =>
                  choose(
                    waiting.map((p) => p.code),
                    e.target.checked,
                  )
                }
              />
              all
            </label>
          </div>
          <GlueupForm
            batch={batch}
            view={data}
            pieces={waiting.filter((p) => ready.has(p.code))}
            onDone={() => setChosen(new Set())}
          />
        </section>
      )}
      <Conditioning batch={batch} pieces={data.pieces} />
      <InClamps batch={batch} view={data} />
      <JointRecord batch={batch} pieces={shown} />
      <p className="no-print flex flex-wrap items-center gap-x-3">
        <input
          type="search"
          aria-label="Show only joints with"
          className="written w-80"
          placeholder="show only: chiselled, B, open time …"
          value={find}
          onChange={(e) => setFind(e.target.value)}
        />
        {words && (
          <span role="status" className="text-faded">
            {shown.length} of {counted(data.pieces.length, "joint")}
          </span>
        )}
      </p>
      <Sheet
        label="Joints in the order to glue them"
        rows={shown}
        columns={columns}
        id={(p) => p.code}
        maxHeight="min(50vh, 36rem)"
      />
      <UndoBar batch={batch} stage="glue" />
    </div>
  );
}

/** All that stands about a joint in words: what a search looks through. */
function about(p: Piece): string {
  return [
    p.code,
    `${p.treatment} ${p.label}`,
    p.parent,
    ...p.pieces,
    p.note,
    ...p.flags,
    ...p.joint_records.map(([, words]) => words),
  ].join("; ");
}

function Remarks({ piece }: { piece: Piece }) {
  const noted = piece.joint_records.map(([, words]) => words);
  const flagged = [piece.not_run && `not run: ${piece.not_run}`, piece.note, ...piece.flags].filter(Boolean);
  return (
    <>
      <Flags items={flagged as string[]} of={piece.code} /> {noted.join("; ")}
    </>
  );
}
