/**
 * What is settled beforehand besides the main question: side questions, claims, tolerances, the air, and
 * what a piece takes.
 */
import type { Schemas } from "../../api/client";
import { Button } from "../../parts/controls";
import { QuantityField } from "../../parts/QuantityField";
import { AtTheRig } from "./AtTheRig";
import { Line, type PlanProps } from "./common";
import { type Document } from "./draft";
import { OwnProperties } from "./OwnProperties";
import { ProtocolSteps } from "./ProtocolSteps";
import { counted, useMoney } from "../../parts/units";

type Asked = Schemas["AskedIn"];

const TAKES = [
  ["cut_s", "to cut a piece", "time", "min"],
  ["glue_s", "to glue one", "time", "min"],
  ["break_s", "to break one", "time", "min"],
  ["spread_g_m2", "of glue on the joint", "spread", "g/m²"],
  ["wood_per_m3", "{money} for a cubic metre of wood", "number", ""],
  ["glue_per_kg", "{money} for a kilogram of glue", "number", ""],
] as const;

export function Rules(props: PlanProps) {
  const d = props.draft.document;
  const tolerances = Object.keys(d.tolerances ?? {}).length;
  const said = [
    d.side_questions?.length && counted(d.side_questions.length, "side question"),
    d.claims?.length && counted(d.claims.length, "claim"),
    d.protocol?.length && counted(d.protocol.length, "step"),
    d.properties?.length && counted(d.properties.length, "property", "properties"),
    tolerances && counted(tolerances, "tolerance"),
  ].filter(Boolean);
  return (
    <details>
      <summary className="cursor-pointer text-faded">
        Side questions, claims, protocol, the break, tolerances, costs
        {said.length > 0 && `: ${said.join(", ")}`}
      </summary>
      <AskedList
        {...props}
        list="side_questions"
        title="Besides I ask"
        hint="and does it hold wet?"
        more="A side question"
        tail="Treatments named here, except the control, stay out of the main comparison."
      />
      <AskedList
        {...props}
        list="claims"
        title="It is claimed that"
        hint="this glue is stronger than the wood"
        more="A claim to test"
        tail="Under Compare each claim ends as supported, not supported, can’t tell yet or not tested."
      />
      <ProtocolSteps {...props} />
      <OwnProperties {...props} />
      <AtTheRig {...props} />
      <Tolerances {...props} />
      <Takes {...props} />
    </details>
  );
}

interface FiguresProps {
  claim: Asked;
  view: PlanProps["view"];
  /** What a claim may say, by key. */
  says: Readonly<Record<string, string>>;
  locked: boolean;
  onChange: (part: Partial<Asked>) => void;
}

/** A claim put in figures: then it ends by them. */
function InFigures({ claim, view, says, locked, onChange }: FiguresProps) {
  const others = view.forecast.treatments.filter((t) => !(claim.treatments ?? []).includes(t.id));
  return (
    <p className="text-sm leading-8">
      In figures: each of them{" "}
      <select
        aria-label={`In figures: ${claim.text}`}
        className="written"
        disabled={locked}
        value={claim.says ?? ""}
        onChange={(e) => onChange({ says: e.target.value })}
      >
        <option value="">not said</option>
        {Object.entries(says).map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </select>
      {claim.says && (
        <>
          {claim.says === "share" && (
            <>
              {" "}
              <QuantityField
                label={`Share: ${claim.text}`}
                dimension="share"
                className="w-16"
                value={Math.round(1000 * (claim.share ?? 1)) / 10}
                disabled={locked}
                needed
                onChange={(v) => v !== null && v > 0 && onChange({ share: v / 100 })}
              />{" "}
              of
            </>
          )}{" "}
          <select
            aria-label={`Against: ${claim.text}`}
            className="written max-w-full"
            disabled={locked}
            value={claim.against ?? ""}
            onChange={(e) => onChange({ against: e.target.value })}
          >
            <option value="" disabled>
              what …
            </option>
            {others.map((t) => (
              <option key={t.id} value={t.id}>
                {t.label}
              </option>
            ))}
          </select>
        </>
      )}
    </p>
  );
}

interface ListProps extends PlanProps {
  list: "side_questions" | "claims";
  title: string;
  hint: string;
  more: string;
  tail: string;
}

function AskedList({ draft, view, catalogue, locked, list, title, hint, more, tail }: ListProps) {
  const asked: readonly Asked[] = draft.document[list] ?? [];
  const joints = view.forecast.treatments.filter((t) => t.role === "joint");
  const put = (next: readonly Asked[]) => draft.change({ [list]: next } as Partial<Document>);
  const set = (i: number, part: Partial<Asked>) =>
    put(asked.map((a, j) => (i === j ? { ...a, ...part } : a)));
  return (
    <div>
      {asked.map((a, i) => (
        <div key={i} className="border-l-2 border-rule pl-3">
          <p>
            {title}{" "}
            <Line
              label={`${more} ${i + 1}`}
              value={a.text}
              disabled={locked}
              placeholder={hint}
              className="w-80 max-w-full"
              onChange={(text) => set(i, { text })}
            />
            {!locked && (
              <Button
                look="quiet"
                className="ml-2 text-sm"
                onClick={() => put(asked.filter((_, j) => j !== i))}
              >
                leave out
              </Button>
            )}
          </p>
          <fieldset className="flex flex-wrap gap-x-4 text-sm leading-7">
            <legend className="sr-only">Treatments that answer it</legend>
            {joints.map(({ id, label }) => (
              <label key={id} className="flex items-center gap-1.5">
                <input
                  type="checkbox"
                  className="size-6"
                  disabled={locked}
                  checked={(a.treatments ?? []).includes(id)}
                  onChange={(e) =>
                    set(i, {
                      treatments: e.target.checked
                        ? [...(a.treatments ?? []), id]
                        : (a.treatments ?? []).filter((x) => x !== id),
                      ...(list === "side_questions" && a.against === id ? { against: "" } : {}),
                    })
                  }
                />
                {label}
              </label>
            ))}
          </fieldset>
          {list === "side_questions" && (
            <label className="block text-sm leading-8">
              Set against{" "}
              <select
                aria-label={`Control of: ${a.text}`}
                className="written max-w-full"
                disabled={locked}
                value={a.against ?? ""}
                onChange={(e) => set(i, { against: e.target.value })}
              >
                <option value="">the control of the plan</option>
                {joints
                  .filter((t) => (a.treatments ?? []).includes(t.id))
                  .map((t) => (
                    <option key={t.id} value={t.id}>
                      {t.label}
                    </option>
                  ))}
              </select>
            </label>
          )}
          {list === "claims" && (
            <InFigures
              claim={a}
              view={view}
              says={catalogue.claims}
              locked={locked}
              onChange={(part) => set(i, part)}
            />
          )}
        </div>
      ))}
      {!locked && (
        <p className="text-sm leading-7">
          <Button
            look="quiet"
            onClick={() =>
              put([...asked, { text: "", treatments: [], id: "", says: "", against: "", share: 1 }])
            }
          >
            {more}
          </Button>{" "}
          <span className="text-faded">{tail}</span>
        </p>
      )}
    </div>
  );
}

function Tolerances({ draft, catalogue, locked }: PlanProps) {
  const { document: d, change } = draft;
  const tolerances = d.tolerances ?? {};
  const a = d.assumptions;
  const tolerated = catalogue.tolerated.flatMap(({ key, usual }) => {
    const field = catalogue.fields.find((f) => f.key === key);
    if (!field?.dimension) return [];
    const isWarmth = field.dimension === "temperature";
    const dimension = isWarmth ? "temperature difference" : field.dimension;
    const unit = key === "open_s" ? "min" : field.dimension === "time" ? "h" : undefined;
    return [{ key, usual, name: field.name, dimension, unit }];
  });
  return (
    <div>
      <p>
        What was done may leave the plan by at most{" "}
        {tolerated.map(({ key, name, dimension, unit, usual }, i) => (
          <span key={key}>
            {i > 0 && ", "}
            {name.toLowerCase()} ±{" "}
            <QuantityField
              label={`Tolerance of ${name.toLowerCase()}`}
              dimension={dimension}
              unit={unit}
              className="w-20"
              placeholder={usual ? "usual" : "any"}
              disabled={locked}
              value={tolerances[key] ?? null}
              onChange={(v) =>
                change({
                  tolerances:
                    v === null
                      ? Object.fromEntries(Object.entries(tolerances).filter(([k]) => k !== key))
                      : { ...tolerances, [key]: v },
                })
              }
            />
          </span>
        ))}
        ; a piece beyond is flagged at once. Without one the usual tolerance holds: a fifth of pressure and
        open time, a tenth of clamp time and age.
      </p>
      <p>
        Between summer and winter the air here swings from{" "}
        <QuantityField
          label="Driest air"
          dimension="share"
          className="w-16"
          disabled={locked}
          value={a.humidity_low_pct}
          needed
          onChange={(v) => v !== null && change({ assumptions: { ...a, humidity_low_pct: v } })}
        />{" "}
        to{" "}
        <QuantityField
          label="Dampest air"
          dimension="share"
          className="w-16"
          disabled={locked}
          value={a.humidity_high_pct}
          needed
          onChange={(v) => v !== null && change({ assumptions: { ...a, humidity_high_pct: v } })}
        />{" "}
        humidity.
      </p>
    </div>
  );
}

function Takes({ draft, locked }: PlanProps) {
  const { document: d, change } = draft;
  const costs = d.costs;
  const money = useMoney();
  if (!costs) return null;
  return (
    <p>
      It takes{" "}
      {TAKES.map(([key, name, dimension, unit], i) => (
        <span key={key}>
          {i > 0 && ", "}
          <QuantityField
            label={name.replace("{money}", money)}
            dimension={dimension}
            unit={unit}
            className="w-20"
            disabled={locked}
            value={costs[key]}
            needed
            onChange={(v) => v !== null && change({ costs: { ...costs, [key]: v } })}
          />{" "}
          {name.replace("{money}", money)}
        </span>
      ))}
      .
    </p>
  );
}
