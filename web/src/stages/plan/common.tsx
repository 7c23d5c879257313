/**
 * What the sentences of the plan share: a line to write on, one field's value, and what every part is
 * given.
 */
import type { Schemas } from "../../api/client";
import { ChoiceField } from "../../parts/ChoiceField";
import { QuantityField } from "../../parts/QuantityField";
import { useUnits } from "../../parts/units";
import { levelOf, typedUnit, type Draft } from "./draft";

export interface PlanProps {
  draft: Draft;
  view: Schemas["PlanView"];
  catalogue: Schemas["CatalogueView"];
  locked: boolean;
}

interface LineProps {
  label: string;
  value: string;
  onChange: (value: string) => void;
  disabled: boolean;
  placeholder?: string;
  className: string;
  bad?: boolean;
}

export function Line({ label, value, onChange, disabled, placeholder, className, bad }: LineProps) {
  return (
    <input
      aria-label={label}
      className={`written ${className}`}
      value={value}
      disabled={disabled}
      placeholder={placeholder}
      aria-invalid={bad || undefined}
      onChange={(e) => onChange(e.target.value)}
    />
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
  const units = useUnits();
  if (field.dimension)
    return (
      <QuantityField
        label={label}
        dimension={field.dimension}
        unit={level?.unit || typedUnit(field.dimension, units)}
        value={typeof level?.value === "number" ? level.value : null}
        disabled={locked}
        placeholder="not stated"
        problem={wrong ? `${wrong.message}. ${wrong.remedy}` : undefined}
        onChange={(value, unit) => onChange(levelOf(value, unit, level?.id))}
        words={field.words as [string, string][]}
        word={typeof level?.value === "string" ? level.value : null}
        onWord={(key) => onChange(levelOf(key, "", level?.id))}
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
      onChange={(value) =>
        onChange(levelOf(value === "none" && field.key === "glue" ? null : value, "", level?.id))
      }
    />
  );
}
