/** The plan as sentences to complete. */
import { CountField } from "../../parts/CountField";
import { ChoiceField } from "../../parts/ChoiceField";
import type { Schemas } from "../../api/client";
import { QuantityField } from "../../parts/QuantityField";
import { counted, useUnits } from "../../parts/units";
import { Line, type PlanProps } from "./common";
import { Constants } from "./Constants";
import { Factors } from "./Factors";
import { levelOf, type Document } from "./draft";
import { Rules } from "./Rules";
import { Together } from "./Together";
import { Questions } from "./Questions";
import { Woods } from "./Woods";
import { ExtraTreatments } from "./ExtraTreatments";

export function Sentences(props: PlanProps) {
  const { draft, view, locked } = props;
  const { document: d, change } = draft;
  const problem = (field: string) =>
    view.forecast.problems.find((p) => p.field === field || p.field.startsWith(`${field}.`));
  return (
    <div className="space-y-4 leading-9">
      <p>
        <Line
          label="Name of the batch"
          value={draft.name}
          onChange={draft.rename}
          disabled={false}
          className="w-full text-lg font-semibold"
        />
      </p>
      <p>
        In my own words, I want to find out{" "}
        <Line
          label="Question"
          value={d.question}
          onChange={(question) => change({ question })}
          disabled={locked}
          placeholder="which glue holds best?"
          className="w-full"
          bad={Boolean(problem("question"))}
        />
        I guess{" "}
        <Line
          label="Guess"
          value={d.guess}
          onChange={(guess) => change({ guess })}
          disabled={locked}
          placeholder="what will come out"
          className="w-4/5"
        />
      </p>
      <Questions {...props} />
      <Test {...props} />
      <Factors {...props} />
      <ExtraTreatments {...props} />
      <Constants {...props} />
      <Woods {...props} />
      <HowMany draft={draft} view={view} locked={locked} />
      <Together {...props} />
      <Rules {...props} />
    </div>
  );
}

function Test({ draft, view, catalogue, locked }: PlanProps) {
  const units = useUnits();
  const { document: d, change } = draft;
  const method = catalogue.methods.find((m) => m.key === d.method);
  const formVaries = d.factors.some((f) => f.key === "form");
  const form = String(d.constants["form"]?.value ?? method?.forms[0]?.[0] ?? "");
  const formFits = method?.forms.some(([key]) => key === form) ?? true;
  const problem = (s: Schemas["SizeToState"]) => {
    const own = s.form ? `form_sizes.${s.form}.${s.key}` : `sizes.${s.key}`;
    return view.forecast.problems.find((p) => p.field.startsWith(own))?.message;
  };
  const sizeOf = (s: Schemas["SizeToState"]) =>
    (s.form ? d.form_sizes?.[s.form]?.[s.key] : undefined) ?? d.sizes[s.key] ?? s.nominal;
  const setSize = (s: Schemas["SizeToState"], v: number) =>
    change(
      s.form
        ? { form_sizes: { ...d.form_sizes, [s.form]: { ...d.form_sizes?.[s.form], [s.key]: v } } }
        : { sizes: { ...d.sizes, [s.key]: v } },
    );
  const isFree = view.forecast.sizes.some((s) => s.key === "free_area");
  const shared = view.forecast.sizes.filter((s) => !s.form);
  const names = [...new Set(view.forecast.sizes.map((s) => s.form ?? ""))].filter(Boolean);
  const forms = names.map((name) => view.forecast.sizes.filter((s) => s.form === name));
  const sizeField = (s: Schemas["SizeToState"]) => (
    <span key={`${s.form} ${s.key}`}>
      {s.name.toLowerCase()}
      {s.varied && " of solid pieces"}{" "}
      <QuantityField
        label={s.form ? `${s.name}: ${s.form_name}` : s.name}
        dimension={s.dimension}
        className={s.dimension === "number" ? "w-12" : "w-24"}
        value={sizeOf(s)}
        disabled={locked}
        problem={problem(s)}
        needed
        onChange={(v) => v !== null && setSize(s, v)}
      />
      {s.unit === "°" && "°"}
    </span>
  );

  /** Another method brings its own usual sizes. A form that it cannot break stays, and is complained of. */
  const choose = (key: string) => {
    const next = catalogue.methods.find((m) => m.key === key);
    if (!next) return;
    // The usual sizes are filled in by the server, as the shop sets them.
    change({ method: key, sizes: {}, form_sizes: {}, solid_reference: next.solid ? d.solid_reference : 0 });
  };
  return (
    <div>
      <p>
        I test by{" "}
        <ChoiceField
          label="Test method"
          className="w-64 font-semibold"
          value={d.method}
          choices={catalogue.methods.map((m) => [m.key, m.name] as const)}
          disabled={locked}
          onChange={choose}
        />
        {method && !formVaries && (method.forms.length > 1 || !formFits) && (
          <>
            {" "}
            of a joint of the form{" "}
            <ChoiceField
              label="Joint form"
              className="w-52"
              value={form}
              choices={method.forms as [string, string][]}
              disabled={locked}
              problem={!formFits}
              onChange={(value) => change({ constants: { ...d.constants, form: levelOf(value) } })}
            />
          </>
        )}
        {d.method.startsWith("free-") && (
          <>
            {" "}
            called{" "}
            <Line
              label="What the method is called"
              value={d.method_name ?? ""}
              disabled={locked}
              placeholder="drop from the bench, step on it …"
              className="w-56"
              onChange={(method_name) => change({ method_name })}
            />
          </>
        )}
        , with {shared.map((s, i) => [i > 0 && ", ", sizeField(s)])}. What counts is{" "}
        <select
          aria-label="What is tested"
          className="written"
          disabled={locked}
          value={d.target}
          onChange={(e) => change({ target: e.target.value as Document["target"] })}
        >
          <option value="joint">the joint, however it breaks</option>
          <option value="adhesive">the glue: broken wood is a lower limit</option>
        </select>
        .
      </p>
      {forms.map((form) => (
        <p key={form[0]!.form} className="pl-4">
          {form[0]!.form_name}: {form.map((s, i) => [i > 0 && ", ", sizeField(s)])}
        </p>
      ))}
      {isFree && (
        <p>
          The glued area of a form of my own comes from{" "}
          <Line
            label="Source of the glued area"
            value={d.area_source ?? ""}
            onChange={(area_source) => change({ area_source })}
            disabled={locked}
            placeholder="a drawing, a paper template …"
            className="w-64"
            bad={view.forecast.problems.some((p) => p.field === "area_source")}
          />
          .
        </p>
      )}
      <p className="text-sm leading-6 text-faded">
        {method?.blurb}{" "}
        {view.forecast.areas.map((a) => (
          <span key={`${a.form} ${a.area_mm2}`} className="mr-3 inline-block">
            {a.name}:{" "}
            {a.faces.map((f) => `${f.name} ${units.text(f.area_mm2, "area")}${grainOf(f)}`).join(", ")}
            {a.faces.length > 1 && `, together ${units.text(a.area_mm2, "area")}`}.
          </span>
        ))}
      </p>
    </div>
  );
}

/** The grain of a glued face in brackets; nobody knows that of a stated area. */
const grainOf = (face: Schemas["GluedFace"]) => (face.grain === "stated" ? "" : ` (${face.grain} grain)`);

function HowMany({ draft, view, locked }: Omit<PlanProps, "catalogue">) {
  const { document: d, change } = draft;
  const a = d.assumptions;
  const own = view.forecast.own_cv_pct;
  const count = (label: string, value: number, onChange: (n: number) => void) => (
    <CountField label={label} min={0} className="w-16" value={value} disabled={locked} onChange={onChange} />
  );
  const percent = (label: string, value: number, onChange: (share: number) => void) => (
    <QuantityField
      label={label}
      dimension="share"
      className="w-16"
      value={Math.round(1000 * value) / 10}
      disabled={locked}
      needed
      onChange={(v) => v !== null && onChange(v / 100)}
    />
  );
  const solid = count("Solid pieces", d.solid_reference, (n) => change({ solid_reference: n }));
  const spares = count("Spares of each", d.spares ?? 0, (n) => change({ spares: n }));
  const dummies = count("Dummies", d.dummies ?? 0, (n) => change({ dummies: n }));
  const scatter = percent("Expected scatter", a.cv, (cv) => change({ assumptions: { ...a, cv } }));
  return (
    <div>
      <p>
        I make {count("Pieces of each treatment", d.replicates, (replicates) => change({ replicates }))} of
        each, and {solid} solid pieces as reference; {spares} spares of each and {dummies} dummies that only
        fill a clamp: {counted(view.forecast.pieces, "piece")} from {counted(view.forecast.blanks, "blank")}.
        Sizes may be off by{" "}
        <QuantityField
          label="Tolerance of sizes"
          dimension="length"
          className="w-20"
          value={d.tolerance_mm ?? 1}
          disabled={locked}
          needed
          onChange={(tolerance_mm) => tolerance_mm !== null && change({ tolerance_mm })}
        />
        .
      </p>
      <p>
        I expect a scatter (CV) of {scatter}; a difference under{" "}
        {percent("Smallest difference that matters", a.matters, (matters) =>
          change({ assumptions: { ...a, matters } }),
        )}{" "}
        does not matter to me.
        {own !== null && (
          <span className="block text-sm leading-6 text-faded">
            Your own {counted(view.forecast.own_cv_pieces, "piece")} of this test scattered by{" "}
            {own.toFixed(0)} %.{" "}
            {!locked && Math.abs(own / 100 - a.cv) > 0.004 && (
              <button
                type="button"
                className="text-spruce underline underline-offset-4"
                onClick={() => change({ assumptions: { ...a, cv: Math.round(own * 10) / 1000 } })}
              >
                Take that
              </button>
            )}
          </span>
        )}
      </p>
    </div>
  );
}
