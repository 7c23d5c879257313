/** A table that somebody else wrote: pasted, told how to read it, seen cell by cell, then taken in. */
import { useDeferredValue, useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { takeForeign, useForeign, type Foreign } from "../../api/foreign";
import { useCatalogue, useWrite } from "../../api/queries";
import { Waiting } from "../../parts/controls";
import { QuantityField } from "../../parts/QuantityField";
import { ChoiceField } from "../../parts/ChoiceField";
import { Line, Value } from "../plan/common";
import { ColumnRoles } from "./ColumnRoles";
import { TableSeen } from "./TableSeen";

type Constants = Record<string, Schemas["LevelIn"]>;

/** What a table seldom tells: to be stated, or said not to be known, but never made up. */
const NOT_TOLD: Constants = {
  species: { value: "not told", unit: "", id: "", late: 0 },
  glue: { value: "not told", unit: "", id: "", late: 0 },
  prep: { value: "not told", unit: "", id: "", late: 0 },
  orientation: { value: "long-parallel", unit: "", id: "", late: 0 },
  pressure_mpa: { value: null, unit: "", id: "", late: 0 },
};

const START: Foreign = {
  name: "",
  text: "",
  layout: "rows",
  method: "",
  unit: "N",
  factor: "",
  key: "",
  heading: true,
  at_least: "> ≥ +",
  apart: "F",
  empty: "- – n/a",
  means: false,
  solid: "",
  control: "",
  sizes: {},
  constants: NOT_TOLD,
  columns: [],
  broken_on: "",
  leave_out: false,
};

const LAYOUTS = [
  ["rows", "each row is a treatment, its pieces side by side"],
  ["columns", "each column is a treatment, its pieces below each other"],
  ["long", "each row is a piece"],
] as const;

export default function ForeignTable() {
  const { data: catalogue } = useCatalogue();
  const [asked, setAsked] = useState(START);
  const seen = useForeign(useDeferredValue(asked));
  const take = useWrite(takeForeign);
  const go = useNavigate();
  if (!catalogue) return <Waiting what="the methods" />;
  const set = (more: Partial<Foreign>) => setAsked((now) => ({ ...now, ...more }));
  const method = catalogue.methods.find((m) => m.key === asked.method);
  const choose = (key: string) => {
    const found = catalogue.methods.find((m) => m.key === key);
    set({ method: key, sizes: Object.fromEntries(found?.sizes.map((s) => [s.key, s.nominal]) ?? []) });
  };
  return (
    <div className="grid gap-x-10 gap-y-6 lg:grid-cols-2">
      <section aria-labelledby="foreign" className="min-w-0">
        <h1 id="foreign" className="text-2xl font-bold">
          A table of another shop
        </h1>
        <p className="mb-2 text-faded">
          Copy the cells from the sheet and paste them here, headings and all.
        </p>
        <textarea
          aria-label="The table"
          className="sheet block h-40 w-full p-2 font-mono text-sm"
          placeholder={"Glue\t1\t2\t3\nHide\t410\t>395\tF"}
          value={asked.text}
          onChange={(e) => set({ text: e.target.value, columns: [] })}
        />
        <p className="mt-3 leading-8">
          It is called{" "}
          <Line
            label="Name of the batch"
            className="w-56"
            value={asked.name ?? ""}
            disabled={false}
            placeholder="name of the batch"
            onChange={(name) => set({ name })}
          />{" "}
          and was broken by{" "}
          <ChoiceField
            label="Method"
            className="w-56"
            value={asked.method}
            placeholder="which method?"
            choices={catalogue.methods.filter((m) => m.key !== "free-pass").map((m) => [m.key, m.name])}
            onChange={choose}
          />
          . In it{" "}
          <select
            aria-label="Layout"
            className="written max-w-full"
            value={asked.layout}
            onChange={(e) => set({ layout: e.target.value as Foreign["layout"], columns: [] })}
          >
            {LAYOUTS.map(([key, words]) => (
              <option key={key} value={key}>
                {words}
              </option>
            ))}
          </select>
          .
        </p>
        {asked.layout === "long" ? (
          <ColumnRoles
            heads={seen.data?.head[0] ?? []}
            columns={asked.columns?.length ? asked.columns : (seen.data?.columns ?? [])}
            sizes={method?.sizes ?? []}
            fields={catalogue.fields}
            onChange={(columns) => set({ columns })}
          />
        ) : (
          <Wide asked={asked} set={set} fields={catalogue.fields} />
        )}
        <Signs asked={asked} set={set} figure={method?.figure_dimension} units={catalogue.units} />
        {method && <Sizes method={method} asked={asked} set={set} />}
        <InCommon asked={asked} set={set} fields={catalogue.fields} varied={seen.data?.varied ?? []} />
      </section>
      <TableSeen
        seen={seen.data}
        asked={asked}
        refused={take.error ?? (seen.error as typeof take.error)}
        busy={take.isPending}
        onName={set}
        onTake={() =>
          take.mutate(
            { ...asked, leave_out: (seen.data?.refused.length ?? 0) > 0 },
            { onSuccess: (made) => void go(`/batch/${made.batch_id}/compare`) },
          )
        }
      />
    </div>
  );
}

interface PartProps {
  asked: Foreign;
  set: (more: Partial<Foreign>) => void;
}

function Wide({ asked, set, fields }: PartProps & { fields: readonly Schemas["FieldView"][] }) {
  return (
    <p className="leading-8">
      The treatments differ in{" "}
      <ChoiceField
        label="What the treatments differ in"
        className="w-44"
        placeholder="as the heading says"
        value={asked.key || (asked.factor ?? "")}
        freeText
        choices={fields.filter((f) => !f.key.startsWith("size:")).map((f) => [f.key, f.name] as const)}
        onChange={(value) => {
          const known = fields.find((f) => f.key === value);
          set({ key: known ? value : "", factor: known ? known.name : value });
        }}
      />
      .{" "}
      {asked.layout === "rows" && (
        <label className="inline-flex items-center gap-1.5">
          <input
            type="checkbox"
            className="size-4"
            checked={asked.heading}
            onChange={(e) => set({ heading: e.target.checked })}
          />
          the first row is a heading
        </label>
      )}
    </p>
  );
}

function Signs({
  asked,
  set,
  figure,
  units,
}: PartProps & {
  figure: string | undefined;
  units: readonly Schemas["UnitView"][];
}) {
  const able = units.filter((u) => u.dimension === "force" || u.dimension === figure);
  const sign = (key: "at_least" | "apart" | "empty", label: string) => (
    <Line
      label={label}
      className="w-20 font-mono"
      value={asked[key] ?? ""}
      disabled={false}
      onChange={(value) => set({ [key]: value })}
    />
  );
  return (
    <p className="leading-8">
      A bare number is in{" "}
      <select
        aria-label="Unit of the readings"
        className="written"
        value={asked.unit}
        onChange={(e) => set({ unit: e.target.value })}
      >
        {able.map((u) => (
          <option key={u.symbol}>{u.symbol}</option>
        ))}
      </select>
      ; {sign("at_least", "Signs of at least")} marks a load that was only reached,{" "}
      {sign("apart", "Words for apart")} a piece that fell apart, {sign("empty", "Words for none")} no
      reading.{" "}
      <label className="inline-flex items-center gap-1.5">
        <input
          type="checkbox"
          className="size-4"
          checked={asked.means}
          onChange={(e) => set({ means: e.target.checked })}
        />
        every number is an average of pieces that are not in the table
      </label>{" "}
      The pieces were broken on{" "}
      <Line
        label="Day of the break"
        className="w-28"
        value={asked.broken_on ?? ""}
        disabled={false}
        placeholder="2026-05-03"
        onChange={(broken_on) => set({ broken_on })}
      />{" "}
      (leave it empty if a column says so, or nobody knows).
    </p>
  );
}

function Sizes({ method, asked, set }: PartProps & { method: Schemas["MethodView"] }) {
  return (
    <fieldset className="mt-2">
      <legend className="head">Sizes of all pieces (check them: strengths are reckoned with these)</legend>
      <ul className="flex flex-wrap gap-x-6">
        {method.sizes.map((s) => (
          <li key={s.key} className="flex items-baseline gap-2">
            {s.name}
            <QuantityField
              label={s.name}
              dimension={s.unit.trim() === "mm" ? "length" : "number"}
              value={asked.sizes?.[s.key] ?? null}
              onChange={(value) =>
                set({ sizes: { ...asked.sizes, ...(value === null ? {} : { [s.key]: value }) } })
              }
            />
          </li>
        ))}
      </ul>
    </fieldset>
  );
}

function InCommon({
  asked,
  set,
  fields,
  varied,
}: PartProps & {
  fields: readonly Schemas["FieldView"][];
  varied: readonly string[];
}) {
  return (
    <fieldset className="mt-2">
      <legend className="head">The same for all pieces</legend>
      <ul className="grid gap-x-6 sm:grid-cols-2 lg:grid-cols-1 xl:grid-cols-[repeat(2,auto)]">
        {fields
          .filter((f) => f.needed && !f.key.startsWith("size:") && !varied.includes(f.key))
          .map((f) => (
            <li key={f.key} className="flex items-baseline gap-2">
              <span className="w-32 shrink-0 text-faded">{f.name}</span>
              <Value
                field={f}
                level={asked.constants?.[f.key]}
                onChange={(level) => set({ constants: { ...asked.constants, [f.key]: level } })}
              />
            </li>
          ))}
      </ul>
    </fieldset>
  );
}
