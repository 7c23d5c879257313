/** The levels of a factor: a short list to add to, reorder by removing, and mark the control in. */
import { useState } from "react";
import { Problem, type Schemas } from "../../api/client";
import { parseLevel } from "../../api/queries";
import { ChoiceField } from "../../parts/ChoiceField";
import { QuantityField } from "../../parts/QuantityField";
import { Button } from "../../parts/controls";
import { useUnits } from "../../parts/units";
import { levelName, usualUnit } from "./draft";

type Level = Schemas["LevelIn"];

interface Props {
  factor: Schemas["FactorIn"];
  field: Schemas["FieldView"] | undefined;
  /** Place of the factor in the plan, for its problems. */
  index: number;
  /** Level of the control; undefined where the control is chosen in the grid. */
  control: number | null | undefined;
  locked: boolean;
  problems: readonly Schemas["Problem"][];
  onLevels: (levels: Level[]) => void;
  onControl: (index: number | null) => void;
}

export function Levels({ factor, field, index, control, locked, problems, onLevels, onControl }: Props) {
  const units = useUnits();
  const name = (level: Level) => levelName(level, field, units);
  return (
    <>
      <ol className="my-1 flex flex-wrap gap-2 leading-6">
        {factor.levels.map((level, i) => {
          const wrong = problems.find((p) => p.field === `factors.${index}.levels.${i}`);
          return (
            <li key={`${i}${String(level.value)}`} className={`sheet flex items-center gap-2 py-1 pr-1 pl-3 ${wrong ? "border-alarm" : ""}`}>
              <span className="font-semibold">{name(level)}</span>
              {control !== undefined && (
                <label className="flex items-center gap-1 text-sm text-faded">
                  <input type="checkbox" checked={control === i} disabled={locked} onChange={(e) => onControl(e.target.checked ? i : null)} />
                  control<span className="sr-only"> {name(level)}</span>
                </label>
              )}
              {!locked && (
                <button type="button" aria-label={`Remove ${name(level)}`} className="px-1.5 text-faded hover:text-alarm" onClick={() => onLevels(factor.levels.filter((_, j) => j !== i))}>
                  ×
                </button>
              )}
              {wrong && <span className="text-sm text-alarm">{wrong.message}</span>}
            </li>
          );
        })}
        {!locked && factor.levels.length < 8 && (
          <li>
            <NewLevel key={factor.key} field={field} onAdd={(level) => onLevels([...factor.levels, level])} />
          </li>
        )}
      </ol>
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

function NewLevel({ field, onAdd }: { field: Schemas["FieldView"] | undefined; onAdd: (level: Level) => void }) {
  const [times, setTimes] = useState(0);
  if (field?.dimension) {
    return (
      <QuantityField
        key={times}
        label={`Add a level of ${field.name.toLowerCase()}`}
        dimension={field.dimension}
        unit={usualUnit(field)}
        value={null}
        placeholder={field.dimension === "time" ? "add, e.g. 4 h" : "add, e.g. 0.8"}
        className="w-36"
        onChange={(value, unit) => {
          if (value === null) return;
          onAdd({ value, unit });
          setTimes(times + 1);
        }}
      />
    );
  }
  if (field) {
    return (
      <ChoiceField
        key={times}
        label={`Add a level of ${field.name.toLowerCase()}`}
        value=""
        placeholder="add one …"
        choices={field.choices as [string, string][]}
        freeText={field.free_text}
        onChange={(value) => {
          onAdd({ value: value === "none" ? null : value, unit: "" });
          setTimes(times + 1);
        }}
      />
    );
  }
  return <OwnLevel onAdd={onAdd} />;
}

function OwnLevel({ onAdd }: { onAdd: (level: Level) => void }) {
  const [text, setText] = useState("");
  const [refused, setRefused] = useState("");
  const add = async () => {
    if (!text.trim()) return;
    try {
      onAdd(text.trim().toLowerCase() === "none" ? { value: null, unit: "" } : await parseLevel(text));
      setText("");
      setRefused("");
    } catch (error) {
      setRefused(error instanceof Problem ? error.message : String(error));
    }
  };
  return (
    <span>
      <input
        aria-label="Add a level"
        className="written w-44"
        placeholder="add: 0.3 mm, coarse, none"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => e.key === "Enter" && void add()}
      />{" "}
      <Button onClick={() => void add()}>Add</Button>
      {refused && (
        <span role="alert" className="block text-sm text-alarm">
          {refused}
        </span>
      )}
    </span>
  );
}
