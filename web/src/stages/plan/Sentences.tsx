/** The plan as sentences to complete. */
import type { Schemas } from "../../api/client";
import { ChoiceField } from "../../parts/ChoiceField";
import { QuantityField } from "../../parts/QuantityField";
import { usualUnit, type Document, type Draft } from "./draft";
import { Levels } from "./Levels";

interface Props {
  draft: Draft;
  view: Schemas["PlanView"];
  reference: Schemas["ReferenceView"];
  locked: boolean;
}

const OWN = "own";

export function Sentences({ draft, view, reference, locked }: Props) {
  const { document: d, change } = draft;
  const problem = (field: string) => view.problems.find((p) => p.field === field || p.field.startsWith(`${field}.`));
  const method = reference.methods.find((m) => m.key === d.method);
  return (
    <div className="space-y-4 leading-9">
      <p>
        <Line label="Name of the batch" value={draft.name} onChange={draft.rename} disabled={false} className="w-full text-lg font-semibold" />
      </p>
      <p>
        I want to find out{" "}
        <Line label="Question" value={d.question} onChange={(question) => change({ question })} disabled={locked} placeholder="which glue holds best?" className="w-full" bad={Boolean(problem("question"))} />
        I guess{" "}
        <Line label="Guess" value={d.guess} onChange={(guess) => change({ guess })} disabled={locked} placeholder="what will come out" className="w-4/5" />
      </p>
      <p>
        Test: <strong>{method?.name}</strong>, with{" "}
        {method?.sizes.map((s, i) => (
          <span key={s.key}>
            {i > 0 && ", "}
            {s.name.toLowerCase()}{" "}
            <QuantityField
              label={s.name}
              dimension="length"
              value={d.sizes[s.key] ?? null}
              disabled={locked}
              problem={problem(`sizes.${s.key}_mm`)?.message}
              onChange={(v) => v !== null && change({ sizes: { ...d.sizes, [s.key]: v } })}
            />
          </span>
        ))}
        . What counts is{" "}
        <select aria-label="What is tested" className="written" disabled={locked} value={d.target} onChange={(e) => change({ target: e.target.value as Document["target"] })}>
          <option value="joint">the joint, however it breaks</option>
          <option value="adhesive">the glue: broken wood is a lower bound</option>
        </select>
        .
      </p>
      <Differs draft={draft} view={view} reference={reference} locked={locked} />
      <Constants draft={draft} view={view} reference={reference} locked={locked} />
      <HowMany draft={draft} view={view} locked={locked} />
    </div>
  );
}

interface LineProps {
  label: string;
  value: string;
  onChange: (value: string) => void;
  disabled: boolean;
  placeholder?: string;
  className: string;
  bad?: boolean;
}

function Line({ label, value, onChange, disabled, placeholder, className, bad }: LineProps) {
  return (
    <input
      aria-label={label}
      className={`written ${className}`}
      value={value}
      disabled={disabled}
      placeholder={placeholder}
      aria-invalid={bad || undefined}
      onChange={(e) => onChange(e.target.value)}
    />
  );
}

function Differs({ draft, view, reference, locked }: Props) {
  const { document: d, change } = draft;
  const factor = d.factors[0] ?? { key: "glue", name: "Glue", levels: [] };
  const field = reference.fields.find((f) => f.key === factor.key);
  const choices = [...reference.fields.map((f) => [f.key, f.name] as const), [OWN, "Something of my own"] as const];

  /** What stops being constant takes the old constant as its first level; what starts to be constant gets its usual value. */
  const vary = (key: string) => {
    const next = reference.fields.find((f) => f.key === key);
    const constants = { ...d.constants };
    const before = reference.fields.find((f) => f.key === factor.key);
    if (before) constants[before.key] = factor.levels[0] ?? { value: before.usual, unit: usualUnit(before) };
    const first = next ? constants[next.key] : undefined;
    if (next) constants[next.key] = undefined as never;
    const kept = Object.fromEntries(Object.entries(constants).filter(([, v]) => v !== undefined));
    change({ constants: kept, control: null, factors: [{ key: next ? next.key : OWN, name: next ? next.name : "", levels: first ? [first] : [] }] });
  };

  const setFactor = (part: Partial<typeof factor>) => {
    const next = { ...factor, ...part };
    const control = d.control && (d.control[0] ?? 0) < next.levels.length ? d.control : null;
    change({ factors: [next], control });
  };

  return (
    <div>
      <p>
        What differs is{" "}
        <ChoiceField label="Factor" className="w-44" value={field ? factor.key : OWN} choices={choices} disabled={locked} onChange={vary} />
        {!field && (
          <>
            {" "}
            called{" "}
            <Line label="Name of the factor" value={factor.name} disabled={locked} placeholder="gap, grit, additive …" className="w-48" onChange={(name) => setFactor({ name })} />
          </>
        )}
        , at these levels:
      </p>
      <Levels
        factor={factor}
        field={field}
        control={d.control?.[0] ?? null}
        locked={locked}
        problems={view.problems.filter((p) => p.field.startsWith("factors"))}
        onLevels={(levels) => setFactor({ levels })}
        onControl={(i) => change({ control: i === null ? null : [i] })}
      />
    </div>
  );
}

function Constants({ draft, view, reference, locked }: Props) {
  const { document: d, change } = draft;
  const held = reference.fields.filter((f) => !d.factors.some((x) => x.key === f.key));
  const set = (key: string, level: Schemas["LevelIn"]) => change({ constants: { ...d.constants, [key]: level } });
  return (
    <div>
      <p>The rest is the same for all:</p>
      <ul className="grid gap-x-6 sm:grid-cols-2">
        {held.map((f) => {
          const level = d.constants[f.key];
          const wrong = view.problems.find((p) => p.field === `constants.${f.key}`);
          return (
            <li key={f.key} className="flex flex-wrap items-baseline gap-x-2">
              <span className="head w-32 shrink-0">{f.name}</span>
              {f.dimension ? (
                <QuantityField
                  label={f.name}
                  dimension={f.dimension}
                  unit={level?.unit || usualUnit(f)}
                  value={typeof level?.value === "number" ? level.value : null}
                  disabled={locked}
                  problem={wrong ? `${wrong.message}. ${wrong.remedy}` : undefined}
                  onChange={(value, unit) => value !== null && set(f.key, { value, unit })}
                />
              ) : (
                <ChoiceField
                  label={f.name}
                  className="w-44"
                  value={String(level?.value ?? "")}
                  choices={f.choices as [string, string][]}
                  freeText={f.free_text}
                  disabled={locked}
                  problem={Boolean(wrong)}
                  onChange={(value) => set(f.key, { value, unit: "" })}
                />
              )}
            </li>
          );
        })}
      </ul>
    </div>
  );
}

function HowMany({ draft, view, locked }: Omit<Props, "reference">) {
  const { document: d, change } = draft;
  const a = d.assumptions;
  const whole = (text: string) => Math.max(0, Math.min(9999, Math.round(Number(text) || 0)));
  const count = (label: string, value: number, onChange: (n: number) => void) => (
    <input aria-label={label} type="number" min={0} max={500} className="written w-16 text-center" value={value} disabled={locked} onChange={(e) => onChange(whole(e.target.value))} />
  );
  const percent = (label: string, value: number, onChange: (share: number) => void) => (
    <QuantityField label={label} dimension="share" className="w-16" value={Math.round(1000 * value) / 10} disabled={locked} onChange={(v) => v !== null && onChange(v / 100)} />
  );
  return (
    <div>
      <p>
        I make {count("Pieces of each treatment", d.replicates, (replicates) => change({ replicates }))} of each, and{" "}
        {count("Solid pieces", d.solid_reference, (solid_reference) => change({ solid_reference }))} solid pieces as reference: {view.pieces} pieces from {view.blanks} blanks.
      </p>
      <p>
        I expect a scatter (CV) of {percent("Expected scatter", a.cv, (cv) => change({ assumptions: { ...a, cv } }))}; a difference under{" "}
        {percent("Smallest difference that matters", a.matters, (matters) => change({ assumptions: { ...a, matters } }))} does not matter to me.
      </p>
    </div>
  );
}
