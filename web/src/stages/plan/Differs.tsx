/** What differs: one to four factors with their levels, and the grid of treatments that they span. */
import type { Schemas } from "../../api/client";
import { ChoiceField } from "../../parts/ChoiceField";
import { Button } from "../../parts/controls";
import { Line, type PlanProps } from "./common";
import { usualUnit } from "./draft";
import { Grid } from "./Grid";
import { Levels } from "./Levels";

const OWN = "own";
type Factor = Schemas["FactorIn"];

export function Differs(props: PlanProps) {
  const { draft, view, reference, locked } = props;
  const { document: d, change } = draft;
  const factors = d.factors.length ? d.factors : [{ key: "glue", name: "Glue", levels: [] }];
  const isGlue = factors.some((f) => f.key === "glue");

  /** Another shape of the grid: what was said about single cells no longer fits. */
  const reshape = (next: Factor[], constants = d.constants) =>
    change({ factors: next, constants, control: null, dropped: [], extra_replicates: [] });

  const setLevels = (index: number, part: Partial<Factor>) => {
    const next = factors.map((f, i) => (i === index ? { ...f, ...part } : f));
    const counts = next.map((f) => f.levels.length);
    const fits = (cell: readonly number[]) => cell.length === counts.length && cell.every((v, i) => v < (counts[i] ?? 0));
    change({
      factors: next,
      control: d.control && fits(d.control) ? d.control : null,
      dropped: d.dropped.filter(fits),
      extra_replicates: d.extra_replicates.filter(([c]) => fits(c as number[])),
    });
  };

  /** What stops being constant takes the old constant as its first level; what starts to be constant gets its first level. */
  const vary = (index: number, key: string) => {
    const next = reference.fields.find((f) => f.key === key);
    const before = factors[index];
    const held = before && reference.fields.find((f) => f.key === before.key);
    const constants = { ...d.constants };
    if (held?.needed && before) constants[held.key] = before.levels[0] ?? { value: held.usual, unit: usualUnit(held) };
    const first = next ? constants[next.key] : undefined;
    const kept = Object.fromEntries(Object.entries(constants).filter(([k]) => k !== next?.key));
    const used = factors.filter((f) => f.key.startsWith(OWN)).length;
    const made: Factor = { key: next ? next.key : used ? `${OWN}-${used + 1}` : OWN, name: next ? next.name : "", levels: first ? [first] : [] };
    reshape(index < factors.length ? factors.map((f, i) => (i === index ? made : f)) : [...factors, made], kept);
  };

  const drop = (index: number) => {
    const gone = factors[index];
    const field = gone && reference.fields.find((f) => f.key === gone.key);
    const constants = field?.needed && gone ? { ...d.constants, [field.key]: gone.levels[0] ?? { value: field.usual, unit: usualUnit(field) } } : d.constants;
    reshape(factors.filter((_, i) => i !== index), constants);
  };

  return (
    <div>
      {factors.map((factor, index) => {
        const field = reference.fields.find((f) => f.key === factor.key);
        const taken = factors.filter((_, i) => i !== index).map((f) => f.key);
        const choices = [...reference.fields.filter((f) => !taken.includes(f.key)).map((f) => [f.key, f.name] as const), [OWN, "Something of my own"] as const];
        return (
          <div key={`${index}${factor.key}`} className={index ? "mt-2 border-l-2 border-rule pl-3" : ""}>
            <p>
              {index ? "and " : "What differs is "}
              <ChoiceField label={index ? `Factor ${index + 1}` : "Factor"} className="w-44" value={field ? factor.key : OWN} choices={choices} disabled={locked} onChange={(key) => vary(index, key)} />
              {!field && (
                <>
                  {" "}
                  called{" "}
                  <Line label="Name of the factor" value={factor.name} disabled={locked} placeholder="gap, grit, additive …" className="w-48" onChange={(name) => setLevels(index, { name })} />
                </>
              )}
              , at these levels:
              {factors.length > 1 && !locked && (
                <Button look="quiet" className="ml-2 text-sm" onClick={() => drop(index)}>
                  hold {factor.name.toLowerCase() || "it"} constant
                </Button>
              )}
            </p>
            <Levels
              factor={factor}
              index={index}
              field={choicesOf(field, d.method, reference)}
              control={factors.length === 1 ? (d.control?.[0] ?? null) : undefined}
              locked={locked}
              problems={view.outlook.problems.filter((p) => p.field.startsWith(`factors.${index}`))}
              onLevels={(levels) => setLevels(index, { levels })}
              onControl={(i) => change({ control: i === null ? null : [i] })}
            />
          </div>
        );
      })}
      {!locked && factors.length < 4 && factors.every((f) => f.levels.length > 1) && (
        <p>
          <ChoiceField
            key={factors.length}
            label="Another factor"
            className="w-52"
            value=""
            placeholder="and something else …"
            choices={[...reference.fields.filter((f) => !factors.some((x) => x.key === f.key)).map((f) => [f.key, f.name] as const), [OWN, "Something of my own"] as const]}
            onChange={(key) => vary(factors.length, key)}
          />
        </p>
      )}
      {factors.length > 1 && <Grid {...props} />}
      {isGlue && (
        <p>
          Every piece is made{" "}
          <select aria-label="Policy" className="written" disabled={locked} value={d.policy} onChange={(e) => change({ policy: e.target.value as typeof d.policy })}>
            <option value="same-for-all">under the same conditions</option>
            <option value="by-label">as the label of its glue says</option>
          </select>
          .
        </p>
      )}
    </div>
  );
}

/** Of the joint forms only those that the method can break. */
function choicesOf(field: Schemas["FieldView"] | undefined, method: string, reference: Schemas["ReferenceView"]) {
  if (field?.key !== "form") return field;
  return { ...field, choices: reference.methods.find((m) => m.key === method)?.forms ?? field.choices };
}
