/** What is the same for all: the fields that every record needs, and those that somebody wants to state on top. */
import type { Schemas } from "../../api/client";
import { ChoiceField } from "../../parts/ChoiceField";
import { QuantityField } from "../../parts/QuantityField";
import { usualUnit } from "./draft";
import type { PlanProps } from "./Sentences";

export function Constants({ draft, view, reference, locked }: PlanProps) {
  const { document: d, change } = draft;
  const held = reference.fields.filter((f) => !d.factors.some((x) => x.key === f.key) && f.key !== "form");
  const stated = held.filter((f) => f.needed || d.constants[f.key] !== undefined);
  const more = held.filter((f) => !stated.includes(f));
  const set = (key: string, level: Schemas["LevelIn"]) => change({ constants: { ...d.constants, [key]: level } });
  const forget = (key: string) => change({ constants: Object.fromEntries(Object.entries(d.constants).filter(([k]) => k !== key)) });
  return (
    <div>
      <p>The rest is the same for all:</p>
      <ul className="grid gap-x-6 sm:grid-cols-2">
        {stated.map((f) => (
          <li key={f.key} className="flex flex-wrap items-baseline gap-x-2">
            <span className="head w-32 shrink-0">{f.name}</span>
            <Value field={f} level={d.constants[f.key]} locked={locked} wrong={view.outlook.problems.find((p) => p.field === `constants.${f.key}`)} onChange={(level) => set(f.key, level)} />
            {!f.needed && !locked && (
              <button type="button" aria-label={`Do not state ${f.name.toLowerCase()}`} className="px-1.5 text-faded hover:text-alarm" onClick={() => forget(f.key)}>
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
              if (f) set(key, { value: f.usual ?? (f.choices[0]?.[0] as string | undefined) ?? null, unit: usualUnit(f) });
            }}
          />
        </p>
      )}
    </div>
  );
}

interface ValueProps {
  field: Schemas["FieldView"];
  level: Schemas["LevelIn"] | undefined;
  locked?: boolean;
  wrong?: Schemas["Problem"] | undefined;
  label?: string;
  onChange: (level: Schemas["LevelIn"]) => void;
}

/** One field's value: a quantity or a choice. */
export function Value({ field, level, locked, wrong, label = field.name, onChange }: ValueProps) {
  if (field.dimension)
    return (
      <QuantityField
        label={label}
        dimension={field.dimension}
        unit={level?.unit || usualUnit(field)}
        value={typeof level?.value === "number" ? level.value : null}
        disabled={locked}
        problem={wrong ? `${wrong.message}. ${wrong.remedy}` : undefined}
        onChange={(value, unit) => value !== null && onChange({ value, unit })}
      />
    );
  return (
    <ChoiceField
      label={label}
      className="w-44"
      value={level?.value === null ? "none" : String(level?.value ?? "")}
      choices={field.choices as [string, string][]}
      freeText={field.free_text}
      disabled={locked}
      problem={Boolean(wrong)}
      onChange={(value) => onChange({ value: value === "none" && field.key === "glue" ? null : value, unit: "" })}
    />
  );
}
