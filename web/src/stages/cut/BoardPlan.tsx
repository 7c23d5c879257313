/**
 * The boards of the shop with every blank on them: laid out by the program, drawn to scale, ready for the
 * saw.
 */
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { BoardMap } from "../../parts/BoardMap";
import { Button, Notice, ProblemNote } from "../../parts/controls";
import { QuantityField } from "../../parts/QuantityField";
import { counted, useUnits } from "../../parts/units";
import { SCROLLS } from "../../parts/faces";

const SIZES = [
  ["kerf", "kerf"],
  ["end_trim", "trim at each end"],
  ["edge_trim", "trim at each edge"],
  ["planing", "planing allowance"],
  ["jointing", "jointing allowance"],
] as const;
const SIXTEENTH = 25.4 / 16;
/** In inch shops: an eighth of kerf, an inch off the ends, and so on. */
const USUAL_INCH = {
  kerf: 2 * SIXTEENTH,
  end_trim: 16 * SIXTEENTH,
  edge_trim: 3 * SIXTEENTH,
  planing: SIXTEENTH,
  jointing: SIXTEENTH / 2,
  boards: null,
  share: "fewest",
} as const;
const USUAL = {
  kerf: 3,
  end_trim: 25,
  edge_trim: 5,
  planing: 2,
  jointing: 1,
  boards: null,
  share: "fewest",
} as const;

export function BoardPlan({ batch, view }: { batch: number; view: Schemas["CutView"] }) {
  const layout = view.layout;
  const units = useUnits();
  const usual = units.symbol("length") === "in" ? USUAL_INCH : USUAL;
  const [saw, setSaw] = useState<Schemas["SawIn"]>({
    ...usual,
    ...layout?.saw,
    share: (layout?.share ?? "fewest") as "fewest",
  });
  const [picked, setPicked] = useState<string | null>(null);
  const lay = useWrite((body: Schemas["SawIn"]) => writes.layOut(batch, body), batch);
  const recut = useWrite((code: string) => writes.recut(batch, code), batch);
  const more = useWrite(() => writes.places(batch), batch);
  const letters = Object.fromEntries(view.rows.map((r) => [r.code, r.treatment]));
  return (
    <section aria-label="Boards" className="space-y-3">
      {view.stock.length === 0 && !layout ? (
        <p className="sheet px-4 py-3">
          No board of this wood is in the shop.{" "}
          <Link className="text-spruce underline underline-offset-4" to="/shop">
            Add boards
          </Link>
          , and the blanks are laid out on them: every board carries every treatment.
        </p>
      ) : (
        <div className="no-print leading-9">
          Lay the blanks out on {view.stock.length === 1 ? "the board" : `the ${view.stock.length} boards`} of
          this wood, with{" "}
          {SIZES.map(([key, name], i) => (
            <span key={key}>
              {i > 0 && ", "}
              {name}{" "}
              <QuantityField
                label={name}
                dimension="length"
                className="w-16"
                value={saw[key] ?? usual[key]}
                problem={lay.error?.of(key)?.message}
                onChange={(v) => v !== null && setSaw({ ...saw, [key]: v })}
              />
            </span>
          ))}
          ,{" "}
          <select
            aria-label="How boards are shared"
            className="written max-w-full"
            value={saw.share}
            onChange={(e) => setSaw({ ...saw, share: e.target.value as NonNullable<typeof saw.share> })}
          >
            <option value="fewest">the fewest boards, each with every treatment</option>
            <option value="all">all boards, each with every treatment</option>
            <option value="treatment">each treatment from its own board</option>
          </select>
          .{" "}
          <Button
            look={layout ? "plain" : "main"}
            className="leading-6"
            disabled={lay.isPending || view.stock.length === 0}
            onClick={() => lay.mutate(saw)}
          >
            {layout ? "Lay out again" : "Lay out"}
          </Button>
        </div>
      )}
      <ProblemNote problem={lay.error ?? recut.error ?? more.error} />
      {layout && layout.placeless.length > 0 && (
        <div className="no-print flex flex-wrap items-center gap-3">
          <Notice>
            {layout.placeless.length === 1
              ? `${layout.placeless[0]} has`
              : `${layout.placeless.length} pieces have`}{" "}
            no place on a board yet.
          </Notice>
          <Button disabled={more.isPending} onClick={() => more.mutate(undefined)}>
            Find places, the others stay
          </Button>
        </div>
      )}
      {layout && <Laid view={view} layout={layout} letters={letters} picked={picked} onPick={setPicked} />}
      {picked && layout && (
        <p className="no-print flex flex-wrap items-center gap-3">
          <span className="font-mono font-semibold">{picked}</span> is spoiled?
          <Button
            disabled={recut.isPending}
            onClick={() => recut.mutate(picked, { onSuccess: () => setPicked(null) })}
          >
            Cut it anew from a place left over
          </Button>
        </p>
      )}
    </section>
  );
}

interface LaidProps {
  view: Schemas["CutView"];
  layout: Schemas["CutLayout"];
  letters: Readonly<Record<string, string>>;
  picked: string | null;
  onPick: (code: string) => void;
}

function Laid({ view, layout, letters, picked, onPick }: LaidProps) {
  const units = useUnits();
  const list = (mm: readonly number[]) => mm.map((v) => units.typed(v, "length")).join(", ");
  const [fence, stop] = [list(layout.fences_mm), list(layout.stops_mm)];
  const longest = Math.max(...layout.maps.map((m) => m.board.length_mm));
  const treatments = [...new Set(view.rows.map((r) => r.treatment))];
  return (
    <div className="space-y-3">
      {layout.stale && (
        <Notice>A board of this layout is no longer in the shop, or the plan changed: lay out again.</Notice>
      )}
      {layout.sentences.map((s) => (
        <Notice key={s}>{s}</Notice>
      ))}
      <p>
        Fence at <strong>{fence}</strong>, stop at <strong>{stop}</strong>.{" "}
        {counted(layout.maps.length, "board")}
        {layout.maps.length > 0 && layout.short.length === 0 && layout.maps.length <= layout.lower_bound
          ? ", the fewest that will do"
          : ""}
        ; {counted(layout.spare, "place")} left over (dashed).{" "}
        {layout.worst === 0
          ? "Every board carries its share of each treatment, as evenly as whole pieces can be."
          : `Some board has ${layout.worst} more or fewer of a treatment than its share.`}
      </p>
      {layout.maps.map((m, i) => (
        <figure key={m.board.id} className="break-inside-avoid">
          <figcaption className="mb-1 flex flex-wrap gap-x-4 text-sm text-faded">
            <span className="font-semibold text-ink">{m.board.label}</span>
            <span>
              {units.typed(m.board.length_mm, "length")} × {units.typed(m.board.width_mm, "length")} ×{" "}
              {units.typed(m.board.thickness_mm, "length")}
            </span>
            <span>
              {m.free_mm >= 1 && `${units.text(Math.floor(m.free_mm), "length")} of its width still free`}
            </span>
            <span>
              {treatments
                .filter((t) => layout.shares[i]?.counts[t])
                .map((t) => `${t} ${layout.shares[i]!.counts[t]}`)
                .join(", ")}
            </span>
          </figcaption>
          <div
            className="overflow-x-auto"
            tabIndex={SCROLLS}
            role="region"
            aria-label={`Board ${m.board.label}`}
          >
            <div
              className="min-w-160 print:min-w-0"
              style={{ width: `${(100 * m.board.length_mm) / longest}%` }}
            >
              <BoardMap
                board={m.board}
                blanks={m.blanks}
                taken={m.taken}
                letters={letters}
                onPick={onPick}
                picked={picked}
              />
            </div>
          </div>
        </figure>
      ))}
    </div>
  );
}
