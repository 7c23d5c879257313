/**
 * What is the same for all: the fields that every record needs, and those that somebody wants to state on
 * top.
 */
import type { Schemas } from "../../api/client";
import { ChoiceField } from "../../parts/ChoiceField";
import { Value, type PlanProps } from "./common";
import { isSize, usualLevel } from "./draft";

export function Constants({ draft, view, catalogue, locked }: PlanProps) {
  const { document: d, change } = draft;
  const held = catalogue.fields.filter(
    (f) => !d.factors.some((x) => x.key === f.key) && f.key !== "form" && !isSize(f),
  );
  const stated = held.filter((f) => f.needed || d.constants[f.key] !== undefined);
  const more = held.filter((f) => !stated.includes(f));
  const set = (key: string, level: Schemas["LevelIn"]) =>
    change({ constants: { ...d.constants, [key]: level } });
  const forget = (key: string) =>
    change({ constants: Object.fromEntries(Object.entries(d.constants).filter(([k]) => k !== key)) });
  return (
    <div>
      <p>The rest is the same for all:</p>
      <ul className="grid gap-x-6 sm:grid-cols-2">
        {stated.map((f) => (
          <li key={f.key} className="flex flex-wrap items-baseline gap-x-2">
            <span className="head w-32 shrink-0">{f.name}</span>
            <Value
              field={f}
              level={d.constants[f.key]}
              locked={locked}
              wrong={view.forecast.problems.find((p) => p.field === `constants.${f.key}`)}
              onChange={(level) => set(f.key, level)}
            />
            {!f.needed && !locked && (
              <button
                type="button"
                aria-label={`Do not state ${f.name.toLowerCase()}`}
                className="px-1.5 text-faded hover:text-alarm"
                onClick={() => forget(f.key)}
              >
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
              if (f) set(key, usualLevel(f, view));
            }}
          />
        </p>
      )}
    </div>
  );
}
