/** What the plan judges besides the load: a number with its unit, or a grade from a list of its own. */
import type { Schemas } from "../../api/client";
import { Button } from "../../parts/controls";
import { Line, type PlanProps } from "./common";

type Property = Schemas["PropertyIn"];
const EMPTY: Property = { name: "", of: "joint", when: "before", unit: "", grades: [], id: "" };
const OF = [
  ["joint", "of a joint"],
  ["face", "of a face"],
  ["reading", "of a reading"],
  ["board", "of a board"],
  ["bottle", "of a bottle"],
] as const;
const WHEN = [
  ["before", "before the break"],
  ["at", "at the break"],
  ["after", "after the break"],
] as const;

export function OwnProperties({ draft, view, locked }: PlanProps) {
  const { document: d, change } = draft;
  const own = d.properties ?? [];
  const put = (properties: Property[]) => change({ properties });
  const set = (i: number, part: Partial<Property>) =>
    put(own.map((p, n) => (n === i ? { ...p, ...part } : p)));
  const problem = (i: number) => view.forecast.problems.find((p) => p.field.startsWith(`properties.${i}`));
  if (locked && !own.length) return null;
  return (
    <div>
      {own.map((p, i) => (
        <p key={i}>
          I judge{" "}
          <Line
            label={`Property ${i + 1}`}
            value={p.name}
            disabled={locked}
            placeholder="foam, fit, visible line …"
            className="w-44"
            bad={problem(i)?.field === `properties.${i}.name`}
            onChange={(name) => set(i, { name })}
          />{" "}
          <select
            aria-label={`Property ${i + 1} belongs to`}
            className="written"
            disabled={locked}
            value={p.of}
            onChange={(e) => set(i, { of: e.target.value as NonNullable<Property["of"]> })}
          >
            {OF.map(([key, name]) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>{" "}
          <select
            aria-label={`Property ${i + 1} is asked`}
            className="written"
            disabled={locked}
            value={p.when}
            onChange={(e) => set(i, { when: e.target.value as NonNullable<Property["when"]> })}
          >
            {WHEN.map(([key, name]) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>
          , as a number of{" "}
          <Line
            label={`Unit of property ${i + 1}`}
            value={p.unit ?? ""}
            disabled={locked || (p.grades ?? []).length > 0}
            placeholder="unit"
            className="w-16"
            onChange={(unit) => set(i, { unit })}
          />{" "}
          or one of{" "}
          <Line
            label={`Grades of property ${i + 1}`}
            value={(p.grades ?? []).join(", ")}
            disabled={locked}
            placeholder="none, faint, clear"
            className="w-56"
            bad={problem(i)?.field === `properties.${i}.grades`}
            onChange={(text) => set(i, { grades: text ? text.split(",").map((g) => g.trimStart()) : [] })}
          />
          {!locked && (
            <Button
              look="quiet"
              aria-label={`Leave out property ${i + 1}`}
              onClick={() => put(own.filter((_, n) => n !== i))}
            >
              leave out
            </Button>
          )}
          {problem(i) && (
            <span className="block text-sm leading-6 text-notice">
              {problem(i)!.message}. {problem(i)!.remedy}
            </span>
          )}
        </p>
      ))}
      {!locked && (
        <p className="text-sm leading-7">
          <Button look="quiet" onClick={() => put([...own, EMPTY])}>
            Something else to judge
          </Button>{" "}
          <span className="text-faded">It is asked where it belongs, and compared like the load.</span>
        </p>
      )}
    </div>
  );
}
