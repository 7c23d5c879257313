/** The piece at the rig: its code to be read from afar, what it is, and what is to be minded of it. */
import type { Schemas } from "../../api/client";
import { useCatalogue, useWrite, writes } from "../../api/queries";
import { Code, Notice, ProblemNote } from "../../parts/controls";
import { facesOf } from "../../parts/faces";
import { Flags } from "../../parts/Explained";
import { JointGlyph } from "../../parts/JointGlyph";
import { useUnits } from "../../parts/units";
import { OutSince } from "./Offered";

type View = Schemas["BreakView"];
type Row = Schemas["BreakRow"];

interface PieceProps {
  row: Row;
  view: View;
  /** Whether the treatment is kept from whoever breaks it. */
  blind: boolean;
  compact: boolean;
}

export function Piece({ row, view, blind, compact }: PieceProps) {
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
        <p aria-live="polite" data-testid="next code">
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
          {view.limit_n !== null &&
            `; ${view.weakest || "the rig"} is used up to ${units.text(view.limit_n, "force")}`}
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
