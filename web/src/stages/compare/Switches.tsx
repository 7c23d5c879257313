/** The ways of looking at the same pieces; what each changes is said beside them. */
import type { Schemas } from "../../api/client";
import { Button } from "../../parts/controls";
import { BoardFilter, FlagFilter } from "./Filters";
import type { Look } from "./linked";
import { Only } from "./Weighed";

type View = Schemas["CompareView"];

interface ChoiceProps {
  name: string;
  legend: string;
  choices: readonly (readonly [string, string])[];
  value: string;
  onChange: (value: string) => void;
}

function Choice({ name, legend, choices, value, onChange }: ChoiceProps) {
  return (
    <fieldset className="flex flex-wrap gap-x-4">
      <legend className="sr-only">{legend}</legend>
      {choices.map(([key, words]) => (
        <label key={key} className="flex items-center gap-1.5">
          <input
            type="radio"
            name={name}
            className="size-4"
            checked={value === key}
            onChange={() => onChange(key)}
          />
          {words}
        </label>
      ))}
    </fieldset>
  );
}

export function Switches({ view, look }: { view: View; look: Look }) {
  const fallen = view.treatments.some((t) => t.fell_apart > 0);
  const usual = (key: string, chosen: string, planned: string) =>
    look.set(key, chosen === planned ? "" : chosen);
  return (
    <section aria-label="Ways of looking" className="space-y-2 no-print">
      <div className="flex flex-wrap items-center gap-x-8 gap-y-2">
        {!view.loadless && (
          <Choice
            name="figure"
            legend="Figure"
            choices={[
              ["strength", "Strength"],
              ["load", "Load"],
            ]}
            value={look.get("figure") || "strength"}
            onChange={(v) => usual("figure", v, "strength")}
          />
        )}
        {view.bounded_by_wood && (
          <Choice
            name="target"
            legend="Joint or bond"
            choices={[
              ["joint", "The joint, as it broke"],
              ["adhesive", "The bond: wood failures are at least"],
            ]}
            value={look.get("target") || view.planned_target}
            onChange={(v) => usual("target", v, view.planned_target)}
          />
        )}
        {view.counted.choices.length > 0 && (
          <Choice
            name="unit"
            legend="What counts as one"
            choices={view.counted.choices as [string, string][]}
            value={look.get("unit") || view.counted.unit}
            onChange={(v) => look.set("unit", v)}
          />
        )}
        {fallen && (
          <label className="flex items-center gap-1.5">
            <input
              type="checkbox"
              className="size-4"
              checked={look.get("fallen") ? look.get("fallen") === "zero" : view.fallen_as_zero}
              onChange={(e) => look.set("fallen", e.target.checked ? "zero" : "apart")}
            />
            Pieces that fell apart count as 0
          </label>
        )}
        <Strength view={view} look={look} />
        <School view={view} look={look} />
      </div>
      <FlagFilter view={view} without={look.all("without")} onChange={(v) => look.set("without", v)} />
      <BoardFilter view={view} without={look.all("boards")} onChange={(v) => look.set("boards", v)} />
      <Only view={view} only={look.all("only")} onChange={(v) => look.set("only", v)} />
      {view.changed.length > 0 && (
        <p role="status" className="text-notice">
          <strong>Not as planned.</strong> {view.changed.join(" ")}{" "}
          <Button look="quiet" onClick={look.clear}>
            As the plan has it
          </Button>
        </p>
      )}
    </section>
  );
}

/** By which rule each treatment is averaged, the same for all. */
function School({ view, look }: { view: View; look: Look }) {
  const schools = view.schools?.schools ?? [];
  if (schools.length < 2) return null;
  return (
    <label>
      Averaged by{" "}
      <select
        aria-label="School of averaging"
        className="written max-w-full"
        value={look.get("school") || "mean"}
        onChange={(e) => look.set("school", e.target.value === "mean" ? "" : e.target.value)}
      >
        {schools.map((s) => (
          <option key={s.key} value={s.key}>
            {s.name}
          </option>
        ))}
      </select>
    </label>
  );
}

/** Which mark of a curve is taken for the strength. */
function Strength({ view, look }: { view: View; look: Look }) {
  if (!Object.keys(view.strengths).length) return null;
  return (
    <label>
      The strength is{" "}
      <select
        aria-label="What is taken for the strength"
        className="written max-w-full"
        value={look.get("strength") || view.planned_strength}
        onChange={(e) => look.set("strength", e.target.value === view.planned_strength ? "" : e.target.value)}
      >
        {Object.entries(view.strengths).map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </select>
      {view.strength !== view.planned_strength && (
        <strong className="ml-2 text-notice">The plan takes {view.strengths[view.planned_strength]}.</strong>
      )}
    </label>
  );
}
