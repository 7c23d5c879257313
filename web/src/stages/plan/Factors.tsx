/** What differs: one to eight factors with their levels, and the grid of treatments that they span. */
import type { Schemas } from "../../api/client";
import { ChoiceField } from "../../parts/ChoiceField";
import { Button } from "../../parts/controls";
import { useUnits } from "../../parts/units";
import { Line, type PlanProps } from "./common";
import {
  ableFields,
  fitting,
  isSize,
  SIZE,
  freshLevelNumber,
  levelName,
  levelOf,
  usualLevel,
  type Document,
} from "./draft";
import { Glues } from "./Glues";
import { Fraction } from "./Fraction";
import { Grid, LeaveOut } from "./Grid";
import type { Products } from "./LevelField";
import { Levels } from "./Levels";

const OWN = "own";
/** What is one for everything that is glued at once, whatever is planned. */
const WHOLE = ["air_c", "humidity_pct"];
/** Known fields that may be one for a whole mix. */
const MIXED = ["glue_state", "additive"];
type Factor = Schemas["FactorIn"];
const NOTHING_YET: Factor = { key: "glue", name: "Glue", levels: [], order: "typed", whole: false };

export function Factors(props: PlanProps) {
  return props.draft.document.factors.length ? <Varied {...props} /> : <Survey {...props} />;
}

/** No factor at all: treatments as they are, listed one by one. */
function Survey({ draft, locked }: PlanProps) {
  return (
    <p>
      The treatments are listed one by one, whatever they differ in.
      {!locked && (
        <Button
          look="quiet"
          className="ml-2 text-sm"
          onClick={() =>
            draft.change(({ constants }) => ({
              factors: [NOTHING_YET],
              constants: Object.fromEntries(Object.entries(constants).filter(([k]) => k !== NOTHING_YET.key)),
            }))
          }
        >
          vary one thing instead
        </Button>
      )}
    </p>
  );
}

function Varied(props: PlanProps) {
  const { draft, view, catalogue, locked } = props;
  const { document: d, change } = draft;
  const units = useUnits();
  const factors: Factor[] = d.factors;
  const able = ableFields(catalogue, view);
  const isGlue = factors.some((f) => f.key === "glue");

  const setLevels = (index: number, part: Partial<Factor>, products: Products = {}) =>
    change({
      ...fitting(d, factors.map((f, i) => (i === index ? { ...f, ...part } : f))), // prettier-ignore
      products: { ...d.products, ...products },
    });

  /** The constants once a factor is held: a field that every record needs takes its first level. */
  const held = (factor: Factor | undefined): Document["constants"] => {
    const field = factor && catalogue.fields.find((f) => f.key === factor.key);
    if (!field?.needed || !factor) return d.constants;
    return {
      ...d.constants,
      [field.key]: factor.levels[0] ?? usualLevel(field, view),
    };
  };

  /**
   * What stops being constant takes the old constant as its first level; what starts to be constant gets
   * its first level.
   */
  const vary = (index: number, key: string) => {
    const next = able.find((f) => f.key === key);
    const constants = held(factors[index]);
    const size = next && isSize(next) ? d.sizes[next.key.slice(SIZE.length)] : undefined;
    const first = size !== undefined ? levelOf(size) : next ? constants[next.key] : undefined;
    const kept = Object.fromEntries(Object.entries(constants).filter(([k]) => k !== next?.key));
    const used = factors.filter((f) => f.key.startsWith(OWN)).length;
    const made: Factor = {
      key: next ? next.key : used ? `${OWN}-${used + 1}` : OWN,
      name: next ? next.name : "",
      levels: first ? [{ ...first, id: first.id || "l1" }] : [],
      order: "value",
      whole: false,
    };
    const all = index < factors.length ? factors.map((f, i) => (i === index ? made : f)) : [...factors, made];
    change({ ...fitting(d, all), constants: kept });
  };

  const drop = (index: number) => {
    const rest = factors.filter((_, i) => i !== index);
    change({ ...fitting(d, rest), constants: held(factors[index]) });
  };

  /** Every level of the only factor becomes a treatment of its own. */
  const list = () => {
    const [factor] = factors;
    if (!factor) return;
    const field = catalogue.fields.find((f) => f.key === factor.key);
    const made = factor.levels.map((level) => ({
      label: levelName(level, field, units),
      changes: field ? { [factor.key]: { ...level, id: "" } } : {},
      replicates: d.replicates,
      control: d.control[factor.key] === level.id ? "standard" : null,
      late: 0,
      id: "",
    }));
    change({ ...fitting(d, []), constants: held(factor), extras: [...(d.extras ?? []), ...made] });
  };

  return (
    <div>
      {factors.map((factor, index) => {
        const field = catalogue.fields.find((f) => f.key === factor.key);
        const taken = factors.filter((_, i) => i !== index).map((f) => f.key);
        const choices = [
          ...able.filter((f) => !taken.includes(f.key)).map((f) => [f.key, f.name] as const),
          [OWN, "Something of my own"] as const,
        ];
        return (
          <div key={`${index}${factor.key}`} className={index ? "mt-2 border-l-2 border-rule pl-3" : ""}>
            <p>
              {index ? "and " : "What differs is "}
              <ChoiceField
                label={index ? `Factor ${index + 1}` : "Factor"}
                className="w-44"
                value={field ? factor.key : OWN}
                choices={choices}
                disabled={locked}
                onChange={(key) => vary(index, key)}
              />
              {!field && (
                <>
                  {" "}
                  called{" "}
                  <Line
                    label="Name of the factor"
                    value={factor.name}
                    disabled={locked}
                    placeholder="gap, grit, additive …"
                    className="w-48"
                    onChange={(name) => setLevels(index, { name })}
                  />
                </>
              )}
              , at these levels
              {WHOLE.includes(factor.key) ? (
                " (one for a whole glue-up)"
              ) : factor.whole || (!locked && (!field || MIXED.includes(factor.key))) ? (
                <label className="ml-2 inline-flex items-center gap-1.5 text-sm text-faded">
                  <input
                    type="checkbox"
                    className="size-4"
                    aria-label={`${factor.name || "It"} is one for a whole glue-up`}
                    disabled={locked}
                    checked={factor.whole ?? false}
                    onChange={(e) => setLevels(index, { whole: e.target.checked })}
                  />
                  one for a whole glue-up
                </label>
              ) : null}
              :
              {factors.length === 1 && !locked && (
                <Button look="quiet" className="ml-2 text-sm" onClick={list}>
                  list treatments one by one instead
                </Button>
              )}
              {factors.length > 1 && !locked && (
                <Button look="quiet" className="ml-2 text-sm" onClick={() => drop(index)}>
                  hold {factor.name.toLowerCase() || "it"} constant
                </Button>
              )}
            </p>
            <Levels
              factor={factor}
              index={index}
              field={choicesOf(field, d.method, catalogue)}
              method={d.method}
              control={factors.length === 1 ? (d.control[factor.key] ?? null) : undefined}
              freshId={() => freshLevelNumber(d)}
              locked={locked}
              problems={view.forecast.problems.filter((p) => p.field.startsWith(`factors.${index}`))}
              onFactor={(part, products) => setLevels(index, part, products)}
              onControl={(id) => change({ control: id === null ? {} : { [factor.key]: id } })}
            />
          </div>
        );
      })}
      {!locked && factors.length < 8 && factors.every((f) => f.levels.length > 1) && (
        <p>
          <ChoiceField
            key={factors.length}
            label="Another factor"
            className="w-52"
            value=""
            placeholder="and something else …"
            choices={[
              ...able
                .filter((f) => !factors.some((x) => x.key === f.key))
                .map((f) => [f.key, f.name] as const),
              [OWN, "Something of my own"] as const,
            ]}
            onChange={(key) => vary(factors.length, key)}
          />
        </p>
      )}
      {factors.length > 1 && <Fraction {...props} />}
      {factors.length > 1 && <Grid {...props} />}
      <LeaveOut {...props} />
      {isGlue && (
        <p>
          Every piece is made{" "}
          <select
            aria-label="Policy"
            className="written"
            disabled={locked}
            value={d.policy}
            onChange={(e) => change({ policy: e.target.value as typeof d.policy })}
          >
            <option value="same-for-all">under the same conditions</option>
            <option value="by-label">as the label of its glue says</option>
          </select>
          .
        </p>
      )}
      <Glues {...props} />
    </div>
  );
}

/** Of the joint forms only those that the method can break. */
function choicesOf(
  field: Schemas["FieldView"] | undefined,
  method: string,
  catalogue: Schemas["CatalogueView"],
) {
  if (field?.key !== "form") return field;
  return { ...field, choices: catalogue.methods.find((m) => m.key === method)?.forms ?? field.choices };
}
