/**
 * Single treatments beside the grid: an unglued pair, a plain joint, one made by its label: each differs
 * from the control in one thing or more.
 */
import { CountField } from "../../parts/CountField";
import type { Schemas } from "../../api/client";
import { ChoiceField } from "../../parts/ChoiceField";
import { Button } from "../../parts/controls";
import { counted } from "../../parts/units";
import { Crossing } from "./Crossing";
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

/** In a survey one treatment may be what the others are held against. */
const SURVEYED = [
  ["", "one of those tested"],
  ["standard", "what the others are held against"],
] as const;

export function ExtraTreatments(props: PlanProps) {
  const { draft, view, locked } = props;
  const { document: d, change } = draft;
  const extras = d.extras ?? [];
  const isSurvey = !d.factors.length;
  const ids = new Set(extras.map((e) => e.id));
  const crossings = (d.side_questions ?? []).filter(
    (q) => q.against && (q.treatments ?? []).some((x) => ids.has(x)),
  );
  const crossedIds = new Set(crossings.flatMap((q) => q.treatments ?? []));
  const add = (extra: Omit<Extra, "late" | "id">) =>
    change({ extras: [...extras, { ...extra, late: 0, id: "" }] });
  if (locked && !extras.length) return null;
  return (
    <div>
      {extras.map((e, i) => !crossedIds.has(e.id) && <Single key={i} {...props} index={i} extra={e} />)}
      {crossings.map((q) => {
        const own = extras.flatMap((e, i) => ((q.treatments ?? []).includes(e.id) ? [{ e, i }] : []));
        const shared = (q.treatments ?? []).length - own.length;
        return (
          <details key={q.id} className="border-l-2 border-rule pl-3">
            <summary className="cursor-pointer">
              <strong>{q.text}</strong> is asked of a further crossing: {counted(own.length, "treatment")}
              {shared > 0 && ` and ${shared} of the grid`}, set against{" "}
              {view.forecast.treatments.find((t) => t.id === q.against)?.label ?? "nothing yet"}
            </summary>
            {own.map(({ e, i }) => (
              <Single key={i} {...props} index={i} extra={e} />
            ))}
            {!locked && (
              <Button
                look="quiet"
                className="text-sm"
                onClick={() =>
                  change({
                    extras: extras.filter((e) => !own.some((o) => o.e.id === e.id)),
                    side_questions: (d.side_questions ?? []).filter((x) => x.id !== q.id),
                  })
                }
              >
                leave this crossing out
              </Button>
            )}
          </details>
        );
      })}
      {!locked && !isSurvey && <Crossing {...props} />}
      {!locked && isSurvey && (
        <p>
          <Button onClick={() => add({ label: "", changes: {}, replicates: d.replicates, control: null })}>
            Add a treatment
          </Button>
        </p>
      )}
      {!locked && !isSurvey && (
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

interface RowProps extends PlanProps {
  index: number;
  extra: Extra;
}

function Single({ draft, view, catalogue, locked, index: i, extra: e }: RowProps) {
  const { document: d, change } = draft;
  const extras = d.extras ?? [];
  const set = (index: number, part: Partial<Extra>) =>
    change({ extras: extras.map((x, j) => (j === index ? { ...x, ...part } : x)) });
  const isSurvey = !d.factors.length;
  const wrong = view.forecast.problems.find((p) => p.field.startsWith(`extras.${i}`));
  return (
    <p key={i} className="border-l-2 border-rule pl-3">
      {isSurvey ? "" : "Besides "}
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
      {isSurvey ? "with " : "like the control, but with "}
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
            if (f) set(i, { changes: { ...e.changes, [key]: usualLevel(f, view) } });
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
        {(isSurvey ? SURVEYED : SERVES).map(([key, name]) => (
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
}
