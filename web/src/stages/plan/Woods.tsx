/** What woods bear that are not listed: then their loads are forecast, and their crushing is watched. */
import type { Schemas } from "../../api/client";
import { QuantityField } from "../../parts/QuantityField";
import { Line, type PlanProps } from "./common";

type OwnWood = Schemas["OwnWoodIn"];
const FIGURES = [
  ["shear_mpa", "in shear along its grain", "stress"],
  ["bending_mpa", "in bending", "stress"],
  ["crush_across_mpa", "pressed across its grain before it crushes", "stress"],
] as const;
const NOTHING: OwnWood = {
  shear_mpa: null,
  bending_mpa: null,
  crush_across_mpa: null,
  density_kg_m3: null,
  shrink_tangential_pct: null,
  source: "",
  plies: null,
  grade: "",
};

export function Woods({ draft, view, catalogue, locked }: PlanProps) {
  const { document: d, change } = draft;
  const listed = catalogue.fields.find((f) => f.key === "species_b")?.choices.map(([key]) => key) ?? [];
  const levels = [
    ...d.factors.filter((f) => f.key === "species" || f.key === "species_b").flatMap((f) => f.levels),
    ...[d.constants, ...(d.extras ?? []).map((e) => e.changes)].flatMap((r) => [
      r["species"],
      r["species_b"],
    ]),
  ];
  const named = levels.map((l) => l?.value).filter((v): v is string => typeof v === "string" && v !== "");
  const unknown = [...new Set(named)].filter((v) => !listed.includes(v));
  const set = (name: string, part: Partial<OwnWood>) =>
    change({ woods: { ...d.woods, [name]: { ...(d.woods?.[name] ?? NOTHING), ...part } } });
  return (
    <>
      {unknown.map((name) => (
        <p key={name} className="border-l-2 border-rule pl-3">
          {name.charAt(0).toUpperCase() + name.slice(1)} bears{" "}
          {FIGURES.map(([key, where, dimension], i) => (
            <span key={key}>
              {i > 0 && ", "}
              <QuantityField
                label={`${name} ${where}`}
                dimension={dimension}
                className="w-24"
                placeholder="not known"
                disabled={locked}
                value={d.woods?.[name]?.[key] ?? null}
                problem={view.forecast.problems.find((p) => p.field === `woods.${name}.${key}`)?.message}
                onChange={(v) => set(name, { [key]: v })}
              />{" "}
              {where}
            </span>
          ))}
          , in plies{" "}
          <input
            aria-label={`Plies of ${name}`}
            className="written w-20"
            inputMode="numeric"
            placeholder="solid"
            disabled={locked}
            value={d.woods?.[name]?.plies ?? ""}
            onChange={(e) => {
              const n = Number(e.target.value);
              if (e.target.value === "" || Number.isInteger(n))
                set(name, { plies: e.target.value === "" ? null : n });
            }}
          />{" "}
          (along its grain is along that of its faces; 0 for a board without one), grade{" "}
          <Line
            label={`Grade of ${name}`}
            value={d.woods?.[name]?.grade ?? ""}
            disabled={locked}
            placeholder="none"
            className="w-28"
            onChange={(grade) => set(name, { grade })}
          />
          , says{" "}
          <Line
            label={`Source of the figures of ${name}`}
            value={d.woods?.[name]?.source ?? ""}
            disabled={locked}
            placeholder="a table, own tests …"
            className="w-52"
            onChange={(source) => set(name, { source })}
          />
          .
        </p>
      ))}
    </>
  );
}
