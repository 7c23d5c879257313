/** What the label of a glue states: to write down, and in words. */
import { QuantityField } from "./QuantityField";
import type { Units } from "./units";

export type Limits = Readonly<Record<string, number>>;

/** What a label limits, in the order of the sentence. */
const LIMITS = [
  ["open_s", "open for", "time", "min"],
  ["pot_s", "usable once mixed for", "time", "min"],
  ["clamp_s", "in clamps for at least", "time", "min"],
  ["pressure_low_mpa", "pressed with", "stress", undefined],
  ["pressure_high_mpa", "to", "stress", undefined],
  ["least_c", "no colder than", "temperature", undefined],
] as const;

interface Props {
  /** What the fields' own labels begin with. */
  label: string;
  limits: Limits;
  disabled?: boolean;
  problem: (key: string) => string | undefined;
  onChange: (limits: Record<string, number>) => void;
}

export function LabelFields({ label, limits, disabled = false, problem, onChange }: Props) {
  const set = (key: string, value: number | null) => {
    const rest = Object.fromEntries(Object.entries(limits).filter(([k]) => k !== key));
    onChange(value === null ? rest : { ...rest, [key]: value });
  };
  return LIMITS.map(([key, name, dimension, unit], i) => (
    <span key={key}>
      {i > 0 && key !== "pressure_high_mpa" && ","} {name}{" "}
      <QuantityField
        label={`${label}: ${name}`}
        dimension={dimension}
        {...(unit ? { unit } : {})}
        className="w-20"
        value={limits[key] ?? null}
        placeholder="nothing"
        disabled={disabled}
        problem={problem(key)}
        onChange={(v) => set(key, v)}
      />
    </span>
  ));
}

export function labelled(limits: Limits, units: Units): string {
  const shown = (key: string, dimension: string, unit?: string) =>
    units.typed(limits[key] ?? 0, dimension, unit);
  return LIMITS.filter(([key]) => limits[key] !== undefined)
    .map(([key, name, dimension, unit]) => `${name} ${shown(key, dimension, unit)}`)
    .join(", ")
    .replace(", to ", " to ");
}
