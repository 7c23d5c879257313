/** The levels of a factor: a list to add to, to change in place, to order, and to mark the control in. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useCatalogue } from "../../api/queries";
import { Button } from "../../parts/controls";
import { counted, useUnits } from "../../parts/units";
import { levelName, levelOf, typedUnit, type Level } from "./draft";
import { LevelField, PastedLevels, type Products } from "./LevelField";

/** As many as the core takes. */
const MOST = 64;

interface Props {
  factor: Schemas["FactorIn"];
  field: Schemas["FieldView"] | undefined;
  method: string;
  /** Place of the factor in the plan, for its problems. */
  index: number;
  /** Id of the control's level; undefined where the control is chosen in the grid. */
  control: string | null | undefined;
  locked: boolean;
  problems: readonly Schemas["Problem"][];
  onFactor: (part: Partial<Schemas["FactorIn"]>, products?: Products) => void;
  onControl: (id: string | null) => void;
  /** The number from which on ids are free. */
  freshId: () => number;
}

export function Levels(props: Props) {
  const { factor, field, index, control, locked, problems, onFactor, onControl, freshId } = props;
  const units = useUnits();
  const [changing, setChanging] = useState<string | null>(null);
  const [pasting, setPasting] = useState(false);
  const name = (level: Level) => levelName(level, field, units);
  const what = field ? field.name.toLowerCase() : factor.name.toLowerCase() || "levels";
  // A bare number means what the levels beside it do, else what the shop says.
  const beside = field?.dimension && [...factor.levels].reverse().find((l) => l.unit)?.unit;
  const unit = beside || typedUnit(field?.dimension ?? null, units);
  const typing = { field, factorKey: factor.key, method: props.method, unit };
  const add = (levels: Level[], products: Products = {}) => {
    const known = new Set(
      factor.levels.map((l) => JSON.stringify([l.value, field?.dimension ? "" : l.unit])),
    );
    const fresh = levels.filter((l) => !known.has(JSON.stringify([l.value, field?.dimension ? "" : l.unit])));
    const first = freshId();
    const named = fresh.map((l, i) => ({ ...l, id: `l${first + i}` }));
    onFactor({ levels: [...factor.levels, ...named] }, products);
  };
  return (
    <>
      <ol className="my-1 flex flex-wrap gap-2 leading-6">
        {factor.levels.map((level, i) => {
          const wrong = problems.find((p) => p.field === `factors.${index}.levels.${i}`);
          return (
            <li
              key={level.id || i}
              className={`sheet flex items-center gap-2 py-1 pr-1 pl-3 ${wrong ? "border-alarm" : ""}`}
            >
              {locked && <span className="font-semibold wrap-anywhere">{name(level)}</span>}
              {!locked && changing !== level.id && (
                <button
                  type="button"
                  className="text-left font-semibold wrap-anywhere hover:underline"
                  aria-label={`Change ${name(level)}`}
                  onClick={() => setChanging(level.id)}
                >
                  {name(level)}
                </button>
              )}
              {!locked && changing === level.id && (
                <LevelField
                  {...typing}
                  old={level}
                  oldText={level.value === null ? "" : name(level)}
                  label={`Change ${name(level)} to`}
                  onLevels={([next]) => {
                    // The level stays the same one: what is tied to it stays tied.
                    if (next)
                      onFactor({
                        levels: factor.levels.map((l) => (l.id === level.id ? { ...next, id: level.id } : l)),
                      });
                    setChanging(null);
                  }}
                />
              )}
              {control !== undefined && (
                <label className="flex items-center gap-1 text-sm text-faded">
                  <input
                    type="checkbox"
                    checked={control === level.id}
                    disabled={locked}
                    onChange={(e) => onControl(e.target.checked ? level.id : null)}
                  />
                  control<span className="sr-only"> {name(level)}</span>
                </label>
              )}
              {!locked && (
                <button
                  type="button"
                  aria-label={`Remove ${name(level)}`}
                  className="px-1.5 text-faded hover:text-alarm"
                  onClick={() => onFactor({ levels: factor.levels.filter((_, j) => j !== i) })}
                >
                  ×
                </button>
              )}
              {wrong && <span className="text-sm text-alarm">{wrong.message}</span>}
            </li>
          );
        })}
        {!locked && factor.levels.length < MOST && !pasting && (
          <li>
            <LevelField
              key={factor.key}
              {...typing}
              label={field ? `Add a level of ${what}` : "Add a level"}
              onLevels={add}
            />
          </li>
        )}
      </ol>
      {!locked && pasting && (
        <PastedLevels {...typing} label={what} onLevels={add} onClose={() => setPasting(false)} />
      )}
      {!locked && (
        <p className="flex flex-wrap items-baseline gap-x-4 text-sm leading-7 text-faded">
          {!pasting && (
            <Button look="quiet" onClick={() => setPasting(true)}>
              paste a list of {what}
            </Button>
          )}
          {(field?.words ?? [])
            .filter(([key]) => !factor.levels.some((l) => l.value === key))
            .map(([key, word]) => (
              <Button key={key} look="quiet" onClick={() => add([levelOf(key)])}>
                {word.toLowerCase()}
              </Button>
            ))}
          <Order {...props} />
          {factor.levels.length > 8 && <span>{counted(factor.levels.length, "level")}</span>}
        </p>
      )}
      {problems
        .filter((p) => !/levels\.\d/.test(p.field))
        .map((p) => (
          <p key={p.field} className="text-sm text-faded">
            {p.message}. {p.remedy}
          </p>
        ))}
    </>
  );
}

/** Numbers stand by value or as typed, and can all be shown in one unit. */
function Order({ factor, field, onFactor }: Pick<Props, "factor" | "field" | "onFactor">) {
  const { data: catalogue } = useCatalogue();
  if (factor.levels.filter((l) => typeof l.value === "number").length < 2) return null;
  const symbols = (catalogue?.units ?? []).filter((u) => u.dimension === field?.dimension && u.symbol);
  const used = new Set(factor.levels.filter((l) => typeof l.value === "number").map((l) => l.unit));
  return (
    <>
      <label>
        stand{" "}
        <select
          aria-label={`Order of ${factor.name}`}
          className="written"
          value={factor.order ?? "typed"}
          onChange={(e) => onFactor({ order: e.target.value as "value" | "typed" })}
        >
          <option value="value">by value</option>
          <option value="typed">as typed</option>
        </select>
      </label>
      {symbols.length > 1 && (
        <label>
          shown in{" "}
          <select
            aria-label={`Unit of ${factor.name}`}
            className="written"
            value={used.size === 1 ? [...used][0] : ""}
            onChange={(e) =>
              onFactor({
                levels: factor.levels.map((l) => ({ ...l, unit: e.target.value || (l.unit ?? "") })),
              })
            }
          >
            <option value="">the units typed</option>
            {symbols.map((u) => (
              <option key={u.symbol}>{u.symbol}</option>
            ))}
          </select>
        </label>
      )}
    </>
  );
}
