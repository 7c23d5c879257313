/** Boards in the shop: size, species, moisture, and the defects marked by drawing on the board. */
import { useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { useCatalogue, useWrite, writes } from "../../api/queries";
import { Photos } from "../../parts/Photos";
import { BoardMap } from "../../parts/BoardMap";
import { ChoiceField } from "../../parts/ChoiceField";
import { Button, ProblemNote } from "../../parts/controls";
import { QuantityField } from "../../parts/QuantityField";
import { useMoney, useUnits } from "../../parts/units";

const EMPTY: Schemas["BoardIn"] = {
  label: "",
  species: "ash",
  length_mm: 1000,
  width_mm: 120,
  thickness_mm: 27,
  moisture_pct: null,
  density_kg_m3: null,
  price: null,
  source: "",
  note: "",
  defects: [],
};

/** Where lengths are inches, usual boards are whole ones: 40 x 5 x 1. */
const INCHES = { length_mm: 1016, width_mm: 127, thickness_mm: 25.4 };

export function Boards({ shop }: { shop: Schemas["ShopView"] }) {
  const { data: catalogue } = useCatalogue();
  const units = useUnits();
  const money = useMoney();
  const usual = units.symbol("length") === "in" ? { ...EMPTY, ...INCHES } : EMPTY;
  const [form, setForm] = useState(usual);
  const add = useWrite(writes.board);
  const retire = useWrite(writes.retireBoard);
  const set = (part: Partial<Schemas["BoardIn"]>) => setForm((before) => ({ ...before, ...part }));
  const longest = Math.max(...shop.boards.map((b) => b.length_mm));
  const size = (key: "length_mm" | "width_mm" | "thickness_mm", label: string) => (
    <QuantityField
      label={label}
      dimension="length"
      className="w-20"
      value={form[key]}
      problem={add.error?.of(key)?.message}
      onChange={(v) => v !== null && set({ [key]: v })}
    />
  );
  return (
    <section aria-labelledby="boards" className="mt-8">
      <h2 id="boards" className="mb-2 text-xl font-bold">
        Boards
      </h2>
      <ul className="mb-4">
        {shop.boards.map((b) => (
          <li key={b.id} className="border-t border-rule py-2">
            <p className="flex flex-wrap items-baseline gap-x-3">
              <span className="font-semibold">{b.label}</span>
              <span className="text-faded">
                {catalogue?.woods.find((w) => w.key === b.species)?.name ?? b.species},{" "}
                {units.typed(b.length_mm, "length")} × {units.typed(b.width_mm, "length")} ×{" "}
                {units.typed(b.thickness_mm, "length")}
                {b.moisture_pct !== null && `, ${b.moisture_pct} % moisture`}
                {b.density_kg_m3 !== null && `, ${b.density_kg_m3} kg/m³`}
                {b.price !== null && `, cost ${b.price} ${money}`}
                {b.source && `, from ${b.source}`}
                {b.note && `; ${b.note}`}
              </span>
              <Button
                look="quiet"
                className="ml-auto text-sm"
                disabled={retire.isPending}
                onClick={() => retire.mutate(b.id)}
              >
                used up
              </Button>
            </p>
            <div style={{ width: `${(100 * b.length_mm) / longest}%` }}>
              <BoardMap board={b} />
            </div>
            <Photos kind="board" name={b.label} />
          </li>
        ))}
        {shop.boards.length === 0 && <li className="text-faded">No board yet.</li>}
      </ul>
      <form
        className="leading-10"
        onSubmit={(e) => {
          e.preventDefault();
          add.mutate(form, { onSuccess: () => setForm({ ...usual, species: form.species }) });
        }}
      >
        New:{" "}
        <input
          aria-label="Label of the board"
          className="written w-32"
          placeholder="what stands on it"
          value={form.label}
          onChange={(e) => set({ label: e.target.value })}
        />{" "}
        of{" "}
        <ChoiceField
          label="Species of the board"
          className="w-32"
          value={form.species}
          choices={(catalogue?.woods ?? []).map((w) => [w.key, w.name] as const)}
          freeText
          onChange={(species) => set({ species })}
        />
        , {size("length_mm", "Length")} long, {size("width_mm", "Width of the board")} wide,{" "}
        {size("thickness_mm", "Thickness of the board")} thick, at{" "}
        <QuantityField
          label="Moisture"
          dimension="share"
          className="w-16"
          value={form.moisture_pct ?? null}
          placeholder="10 %"
          onChange={(v) => set({ moisture_pct: v })}
        />{" "}
        moisture,{" "}
        <QuantityField
          label="Density"
          dimension="number"
          className="w-16"
          value={form.density_kg_m3 ?? null}
          placeholder="any"
          onChange={(v) => set({ density_kg_m3: v })}
        />{" "}
        kg/m³, for{" "}
        <QuantityField
          label="Price"
          dimension="number"
          className="w-16"
          value={form.price ?? null}
          placeholder="0"
          onChange={(v) => set({ price: v })}
        />{" "}
        {money}, from{" "}
        <input
          aria-label="Where the board is from"
          className="written w-40"
          placeholder="whom, which lot"
          value={form.source}
          onChange={(e) => set({ source: e.target.value })}
        />
        .{" "}
        <input
          aria-label="Note on the board"
          className="written w-72 max-w-full"
          placeholder="rings, treatment, anything odd"
          value={form.note}
          onChange={(e) => set({ note: e.target.value })}
        />
        <Defects form={form} onChange={(defects) => set({ defects })} />
        <Button type="submit" className="leading-6" disabled={add.isPending}>
          Add the board
        </Button>
      </form>
      <ProblemNote problem={add.error ?? retire.error} />
    </section>
  );
}

/** Drag over a knot to mark it. */
function Defects({
  form,
  onChange,
}: {
  form: Schemas["BoardIn"];
  onChange: (defects: Schemas["RectIn"][]) => void;
}) {
  const area = useRef<HTMLDivElement>(null);
  const [from, setFrom] = useState<{ x: number; y: number } | null>(null);
  const defects = form.defects ?? [];
  const at = (e: React.PointerEvent) => {
    const box = area.current!.getBoundingClientRect();
    const share = (v: number, low: number, size: number) => Math.max(0, Math.min(1, (v - low) / size));
    return {
      x: share(e.clientX, box.left, box.width) * form.length_mm,
      y: (1 - share(e.clientY, box.top, box.height)) * form.width_mm,
    };
  };
  const board = { ...form, id: 0, label: form.label || "new", defects } as Schemas["StoredBoard"];
  return (
    <div className="my-1 leading-6">
      <p className="text-sm text-faded">
        Drag over knots, shakes and sapwood to leave them out.{" "}
        {defects.length > 0 && (
          <button
            type="button"
            className="text-spruce underline underline-offset-4"
            onClick={() => onChange(defects.slice(0, -1))}
          >
            Take the last mark back
          </button>
        )}
      </p>
      <div
        ref={area}
        className="touch-none cursor-crosshair"
        onPointerDown={(e) => setFrom(at(e))}
        onPointerUp={(e) => {
          if (!from) return;
          const to = at(e);
          const rect = {
            x: Math.min(from.x, to.x),
            y: Math.min(from.y, to.y),
            length: Math.abs(to.x - from.x),
            width: Math.abs(to.y - from.y),
          };
          setFrom(null);
          if (rect.length > 2 && rect.width > 2)
            onChange([
              ...defects,
              {
                x: Math.round(rect.x),
                y: Math.round(rect.y),
                length: Math.round(rect.length),
                width: Math.round(rect.width),
              },
            ]);
        }}
      >
        <BoardMap board={board} />
      </div>
    </div>
  );
}
