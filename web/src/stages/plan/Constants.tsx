/**
 * What is the same for all: the fields that every record needs, and those that somebody wants to state on
 * top.
 */
import type { Schemas } from "../../api/client";
import { ChoiceField } from "../../parts/ChoiceField";
import { Value, type PlanProps } from "./common";
import { isSize, usualLevel } from "./draft";

/** The grain that the forms of the joints bring with them, where that is another than the plan states. */
function grainByForm(
  view: PlanProps["view"],
  catalogue: PlanProps["catalogue"],
  stated: string | number | null | undefined,
): string {
  const words = new Map(catalogue.fields.find((f) => f.key === "orientation")?.choices ?? []);
  const found = view.forecast.treatments
    .filter((t) => t.role !== "solid" && t.orientation && t.orientation !== stated)
    .map((t) => (words.get(t.orientation) ?? t.orientation).toLowerCase());
  return [...new Set(found)].join(" or ");
}

export function Constants({ draft, view, catalogue, locked }: PlanProps) {
  const { document: d, change } = draft;
  const held = catalogue.fields.filter(
    (f) => !d.factors.some((x) => x.key === f.key) && f.key !== "form" && !isSize(f),
  );
  const stated = held.filter((f) => f.needed || d.constants[f.key] !== undefined);
  const more = held.filter((f) => !stated.includes(f));
  const byForm = grainByForm(view, catalogue, d.constants["orientation"]?.value);
  const set = (key: string, level: Schemas["LevelIn"]) =>
    change({ constants: { ...d.constants, [key]: level } });
  const forget = (key: string) =>
    change({ constants: Object.fromEntries(Object.entries(d.constants).filter(([k]) => k !== key)) });
  return (
    <div>
      <p>The rest is the same for all:</p>
      <ul className="grid gap-x-6 sm:grid-cols-2">
        {stated.map((f) => (
          <li key={f.key} className="flex flex-wrap items-baseline gap-x-2">
            <span className="head w-32 shrink-0">{f.name}</span>
            <Value
              field={f}
              level={d.constants[f.key]}
              locked={locked}
              wrong={view.forecast.problems.find((p) => p.field === `constants.${f.key}`)}
              onChange={(level) => set(f.key, level)}
            />
            {f.key === "orientation" && byForm && (
              <span className="text-sm text-faded">The joint’s form decides: {byForm}.</span>
            )}
            {!f.needed && !locked && (
              <button
                type="button"
                aria-label={`Do not state ${f.name.toLowerCase()}`}
                className="px-1.5 text-faded hover:text-alarm"
                onClick={() => forget(f.key)}
              >
                ×
              </button>
            )}
          </li>
        ))}
      </ul>
      {!locked && more.length > 0 && (
        <p>
          <ChoiceField
            key={stated.length}
            label="State something more"
            className="w-56"
            value=""
            placeholder="state something more …"
            choices={more.map((f) => [f.key, f.name] as const)}
            onChange={(key) => {
              const f = more.find((x) => x.key === key);
              if (f) set(key, usualLevel(f, view));
            }}
          />
        </p>
      )}
    </div>
  );
}
