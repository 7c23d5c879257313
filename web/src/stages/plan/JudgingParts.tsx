/** Parts of what counts as good enough: the rule for other sections, a formula, and words for sizes. */
import type { Schemas } from "../../api/client";
import { Button } from "../../parts/controls";
import { QuantityField } from "../../parts/QuantityField";
import { Line } from "./common";

type Judging = Schemas["JudgingIn"];

const WORDS = { equal: 0.03, slightly: 0.1, clearly: 0.25 };

interface PercentProps {
  label: string;
  value: number | null;
  onChange: (value: number | null) => void;
}

/** A share, typed in percent. */
export function Percent({ label, value, onChange }: PercentProps) {
  return (
    <>
      <QuantityField
        label={label}
        dimension="number"
        className="w-14"
        placeholder="any"
        value={value === null ? null : Number((100 * value).toPrecision(6))}
        onChange={(v) => onChange(v === null ? null : v / 100)}
      />{" "}
      %
    </>
  );
}

export const named = (label: string, value: string, hint: string, onChange: (value: string) => void) => (
  <Line
    label={label}
    value={value}
    disabled={false}
    placeholder={hint}
    className="w-48 max-w-full"
    onChange={onChange}
  />
);

interface SectionProps {
  section: Schemas["SectionIn"] | null;
  sizes: readonly string[];
  onChange: (section: Schemas["SectionIn"] | null) => void;
}

/** By which rule loads of solid wood of another section count. */
export function SectionRule({ section, sizes, onChange }: SectionProps) {
  if (!section)
    return (
      <Button
        look="quiet"
        onClick={() =>
          onChange({
            size: sizes.find((k) => k === "depth" || k === "thickness") ?? sizes[0] ?? "",
            power: 3,
            source: "",
          })
        }
      >
        A rule for solid pieces of another section
      </Button>
    );
  const put = (part: Partial<Schemas["SectionIn"]>) => onChange({ ...section, ...part });
  return (
    <p>
      Loads of solid wood go with the{" "}
      <select
        aria-label="Size that solid loads go with"
        className="written"
        value={section.size}
        onChange={(e) => put({ size: e.target.value })}
      >
        {sizes.map((key) => (
          <option key={key}>{key}</option>
        ))}
      </select>{" "}
      to the power{" "}
      <QuantityField
        label="Power of the size"
        dimension="number"
        className="w-14"
        needed
        value={section.power}
        onChange={(power) => power !== null && put({ power })}
      />
      , as{" "}
      {named("Source of the section rule", section.source, "beam theory, span fixed", (source) =>
        put({ source }),
      )}{" "}
      has it: before a share of solid wood is taken by load.{" "}
      <Button look="quiet" onClick={() => onChange(null)}>
        take away
      </Button>
    </p>
  );
}

interface MoreProps {
  judging: Judging;
  onChange: (part: Partial<Judging>) => void;
}

export function FormulaAndWords({ judging, onChange }: MoreProps) {
  const f = judging.formula ?? null;
  const w = judging.words ?? null;
  return (
    <>
      {f ? (
        <p>
          Beside the raw figure{" "}
          {named("Name of the formula", f.name, "with credit for wood", (name) =>
            onChange({ formula: { ...f, name } }),
          )}{" "}
          ={" "}
          <Line
            label="Formula"
            value={f.text}
            disabled={false}
            placeholder="raw * (1 + 0.2 * wood)"
            className="w-72 max-w-full"
            onChange={(text) => onChange({ formula: { ...f, text } })}
          />{" "}
          <Button look="quiet" onClick={() => onChange({ formula: null })}>
            take away
          </Button>
          <span className="block text-sm text-faded">
            raw is the figure compared, load, area and wood (0 to 1) what they say; your own properties go by
            their names. It is reckoned with units, and never takes the place of the raw figure.
          </span>
        </p>
      ) : (
        <Button look="quiet" onClick={() => onChange({ formula: { name: "", text: "" } })}>
          A formula of your own
        </Button>
      )}{" "}
      {w ? (
        <p>
          A difference up to{" "}
          {(["equal", "slightly", "clearly"] as const).map((key) => (
            <span key={key}>
              <Percent
                label={`Share for ${key}`}
                value={w[key]}
                onChange={(v) => v !== null && onChange({ words: { ...w, [key]: v } })}
              />{" "}
              is {key === "equal" ? "about equal" : key}
              {key === "clearly" ? "; beyond that it is far. " : ", up to "}
            </span>
          ))}
          <Button look="quiet" onClick={() => onChange({ words: null })}>
            take away
          </Button>
        </p>
      ) : (
        <Button look="quiet" onClick={() => onChange({ words: WORDS })}>
          Words for sizes of differences
        </Button>
      )}
    </>
  );
}
