/**
 * Single treatments beside the grid: an unglued pair, a plain joint, one made by its label: each differs
 * from the control in one thing or more.
 */
import { CountField } from "../../parts/CountField";
import type { Schemas } from "../../api/client";
import { ChoiceField } from "../../parts/ChoiceField";
import { Button } from "../../parts/controls";
import { Line, Value, type PlanProps } from "./common";
import { ableFields, levelOf, usualLevel } from "./draft";

type Extra = Schemas["ExtraIn"];

const SERVES = [
  ["", "no control"],
  ["plain", "a plain joint"],
  ["untreated", "untreated"],
  ["dry", "the dry reference"],
  ["time-zero", "time zero"],
  ["standard", "the standard glue"],
] as const;

export function ExtraTreatments({ draft, view, catalogue, locked }: PlanProps) {
  const { document: d, change } = draft;
  const extras = d.extras ?? [];
  const set = (index: number, part: Partial<Extra>) =>
    change({ extras: extras.map((e, i) => (i === index ? { ...e, ...part } : e)) });
  const add = (extra: Omit<Extra, "late" | "id">) =>
    change({ extras: [...extras, { ...extra, late: 0, id: "" }] });
  if (locked && !extras.length) return null;
  return (
    <div>
      {extras.map((e, i) => {
        const wrong = view.forecast.problems.find((p) => p.field.startsWith(`extras.${i}`));
        return (
          <p key={i} className="border-l-2 border-rule pl-3">
            Besides{" "}
            <CountField
              label="Pieces of the single treatment"
              disabled={locked}
              value={e.replicates}
              onChange={(replicates) => set(i, { replicates })}
            />{" "}
            called{" "}
            <Line
              label="Name of the single treatment"
              value={e.label}
              disabled={locked}
              className="w-44"
              onChange={(label) => set(i, { label })}
            />{" "}
            like the control, but with{" "}
            {Object.entries(e.changes).map(([key, level]) => {
              const field = catalogue.fields.find((f) => f.key === key);
              return (
                field && (
                  <span key={key} className="mr-2">
                    {field.name.toLowerCase()}{" "}
                    <Value
                      field={field}
                      label={`${field.name} of ${e.label}`}
                      level={level}
                      locked={locked}
                      onChange={(l) => set(i, { changes: { ...e.changes, [key]: l } })}
                    />
                  </span>
                )
              );
            })}
            {!locked && (
              <ChoiceField
                key={Object.keys(e.changes).join()}
                label={`What differs in ${e.label}`}
                className="w-40"
                value=""
                placeholder="what differs …"
                choices={ableFields(catalogue, view)
                  .filter((f) => !(f.key in e.changes))
                  .map((f) => [f.key, f.name] as const)}
                onChange={(key) => {
                  const f = catalogue.fields.find((x) => x.key === key);
                  if (f) set(i, { changes: { ...e.changes, [key]: usualLevel(f) } });
                }}
              />
            )}{" "}
            as{" "}
            <select
              aria-label={`${e.label} serves as`}
              className="written"
              disabled={locked}
              value={e.control ?? ""}
              onChange={(x) => set(i, { control: x.target.value || null })}
            >
              {SERVES.map(([key, name]) => (
                <option key={key} value={key}>
                  {name}
                </option>
              ))}
            </select>
            {!locked && (
              <Button
                look="quiet"
                className="ml-2 text-sm"
                onClick={() => change({ extras: extras.filter((_, j) => j !== i) })}
              >
                leave out
              </Button>
            )}
            {wrong && (
              <span className="block text-sm text-alarm">
                {wrong.message}. {wrong.remedy}
              </span>
            )}
          </p>
        );
      })}
      {!locked && (
        <p className="flex flex-wrap gap-x-3 text-sm leading-7">
          <span className="text-faded">A single treatment besides:</span>
          <Button
            look="quiet"
            onClick={() =>
              add({
                label: "Unglued, pressed dry",
                changes: { glue: levelOf(null) },
                replicates: 3,
                control: "untreated",
              })
            }
          >
            unglued
          </Button>
          <Button
            look="quiet"
            onClick={() =>
              add({ label: "Plain joint", changes: {}, replicates: d.replicates, control: "plain" })
            }
          >
            plain joint
          </Button>
          <Button
            look="quiet"
            onClick={() =>
              add({
                label: `Special ${extras.length + 1}`,
                changes: {},
                replicates: d.replicates,
                control: null,
              })
            }
          >
            another
          </Button>
        </p>
      )}
    </div>
  );
}
