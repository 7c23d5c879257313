/**
 * Which pieces are made as one: sawn from a panel or beam after gluing, or side by side on a backing
 * board.
 */
import { CountField } from "../../parts/CountField";
import { QuantityField } from "../../parts/QuantityField";
import type { PlanProps } from "./common";

const ALONE = "";
const BLOCKS = [
  ["day", "days of gluing"],
  ["session", "sessions of gluing"],
  ["maker", "makers"],
  ["set-up", "set-ups of the rig"],
  ["tester", "people at the rig"],
] as const;
/** What may differ between the sections of one panel: what begins when it is sawn. */
const AFTER_THE_SAW = ["cure_s", "conditioning"];

export function Together({ draft, view, catalogue, locked }: PlanProps) {
  const { document: d, change } = draft;
  const kinds = view.forecast.parent_kinds;
  const made = d.parents ?? null;
  const kind = kinds.find((k) => k.key === made?.kind);
  const problem = view.forecast.problems.find((p) => p.field.startsWith("parents"));
  const set = (part: Partial<NonNullable<typeof made>>) => made && change({ parents: { ...made, ...part } });
  const known = (key: string) => catalogue.fields.some((f) => f.key === key);
  const able = d.factors.filter(
    (f) => !kind?.sawn || AFTER_THE_SAW.includes(f.key) || !known(f.key) || made?.within?.includes(f.key),
  );
  const own = d.blank_sizes ?? {};
  const size = (key: "length" | "width" | "thickness", name: string) => (
    <QuantityField
      label={`${name} of a blank`}
      dimension="length"
      className="w-28"
      placeholder="as it takes"
      disabled={locked}
      value={own[key] ?? null}
      problem={view.forecast.problems.find((p) => p.field === `blank_sizes.${key}`)?.message}
      onChange={(v) => {
        const rest = Object.fromEntries(Object.entries(own).filter(([k]) => k !== key));
        change({ blank_sizes: v === null ? rest : { ...rest, [key]: v } });
      }}
    />
  );
  return (
    <div>
      {!made && (
        <p>
          Halves are cut {size("length", "Length")} along the grain, {size("width", "Width")} wide and{" "}
          {size("thickness", "Thickness")} thick.
        </p>
      )}
      <p className={kinds.length || made ? "" : "hidden"}>
        The pieces are made{" "}
        <select
          aria-label="Made together"
          className="written"
          disabled={locked}
          value={made?.kind ?? ALONE}
          onChange={(e) => {
            const next = kinds.find((k) => k.key === e.target.value);
            change({
              parents: next
                ? {
                    kind: next.key as "panel",
                    each: next.sawn ? 3 : 1,
                    within: next.sawn ? [] : d.factors.filter((f) => f.key === "glue").map((f) => f.key),
                    length_mm: null,
                    between_mm: next.between_mm,
                  }
                : null,
            });
          }}
        >
          <option value={ALONE}>each on its own</option>
          {made && !kind && <option value={made.kind}>{made.kind}</option>}
          {kinds.map((k) => (
            <option key={k.key} value={k.key}>
              {k.sawn
                ? `as ${k.piece}s of a ${k.name.toLowerCase()}, sawn after gluing`
                : `as ${k.piece}s side by side on a ${k.name.toLowerCase()}`}
            </option>
          ))}
        </select>
        {made && kind && (
          <>
            {": "}
            <CountField
              label={`${kind.piece}s of a treatment in one`}
              max={50}
              disabled={locked}
              value={made.each ?? 1}
              onChange={(each) => set({ each })}
            />{" "}
            of each treatment in one, with{" "}
            <QuantityField
              label={kind.sawn ? "Taken by a cut of the saw" : "Room between two blocks"}
              dimension="length"
              className="w-20"
              disabled={locked}
              value={made.between_mm ?? 3}
              needed
              onChange={(between_mm) => between_mm !== null && set({ between_mm })}
            />{" "}
            {kind.sawn ? "for each cut" : "between two"}, the {kind.name.toLowerCase()}{" "}
            <QuantityField
              label={`Length of a ${kind.name.toLowerCase()}`}
              dimension="length"
              className="w-28"
              placeholder="as it takes"
              disabled={locked}
              value={made.length_mm ?? null}
              onChange={(length_mm) => set({ length_mm })}
            />{" "}
            long
          </>
        )}
        .
      </p>
      {made && kind && able.length > 0 && (
        <p className="flex flex-wrap items-center gap-x-4 pl-4">
          <span>On one {kind.name.toLowerCase()} together:</span>
          {able.map((f) => (
            <label key={f.key} className="flex items-center gap-1.5">
              <input
                type="checkbox"
                className="size-5"
                disabled={locked}
                checked={made.within?.includes(f.key) ?? false}
                onChange={(e) =>
                  set({
                    within: e.target.checked
                      ? [...(made.within ?? []), f.key]
                      : (made.within ?? []).filter((k) => k !== f.key),
                  })
                }
              />
              every {f.name.toLowerCase()}
            </label>
          ))}
        </p>
      )}
      <p>
        They are spread over{" "}
        <select
          aria-label="Blocks"
          className="written"
          disabled={locked}
          value={d.blocks?.kind ?? ALONE}
          onChange={(e) =>
            change({
              blocks: e.target.value ? { kind: e.target.value as "day", count: d.blocks?.count ?? 2 } : null,
            })
          }
        >
          <option value={ALONE}>no blocks</option>
          {BLOCKS.map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </select>
        {d.blocks && (
          <>
            ,{" "}
            <CountField
              label="Number of blocks"
              min={2}
              max={20}
              disabled={locked}
              value={d.blocks.count}
              onChange={(count) => d.blocks && change({ blocks: { ...d.blocks, count } })}
            />{" "}
            of them, each with every treatment
          </>
        )}
        .
      </p>
      {view.forecast.parents && made && (
        <p className="text-sm leading-6 text-faded">{view.forecast.parents.words}.</p>
      )}
      {problem && <p className="text-sm leading-6 text-notice">{`${problem.message}. ${problem.remedy}`}</p>}
    </div>
  );
}
