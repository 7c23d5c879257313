/** What counts as good enough: stated before the first break, and changed afterwards only with a reason. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { rejudge } from "../../api/pieces";
import { useWrite } from "../../api/queries";
import { Button, ProblemNote } from "../../parts/controls";
import { QuantityField } from "../../parts/QuantityField";
import { Line, type PlanProps } from "./common";
import { FormulaAndWords, named, Percent, SectionRule } from "./JudgingParts";

type Judging = Schemas["JudgingIn"];
type Limit = Schemas["LimitIn"];
type Rule = NonNullable<Judging["rule"]>;

const NOTHING: Judging = { limits: [] };
const NO_RULE: Rule = { figure: "strength", modes: [] };
const NEW_LIMIT: Limit = {
  name: "",
  value: 1,
  figure: "strength",
  source: "",
  usable: false,
  mark: "",
  id: "",
};
/** A limit of one's own, or where the control's own curves say that it gives for good. */
const MARKED = [
  ["", "a figure of my own"],
  ["limit", "where the control's curves leave the straight line"],
  ["first_drop", "the first drop of the control's curves"],
] as const;
const FIGURES = [
  ["strength", "as strength"],
  ["load", "as load"],
] as const;

export function GoodEnough({ draft, view, catalogue, locked }: PlanProps) {
  const stated: Judging = { ...NOTHING, ...draft.document.judging };
  const [changed, setChanged] = useState<Judging | null>(null);
  const [reason, setReason] = useState("");
  const write = useWrite((body: Schemas["RejudgeIn"]) => rejudge(view.batch_id, body), view.batch_id);
  const judging = changed ?? stated;
  const dimension = catalogue.methods.find((m) => m.key === draft.document.method)?.figure_dimension;
  const change = (part: Partial<Judging>) =>
    locked
      ? setChanged({ ...judging, ...part })
      : draft.change((now) => ({ judging: { ...NOTHING, ...now.judging, ...part } }));
  const rule = Object.entries(judging.rule ?? NO_RULE).some(
    ([key, v]) => key !== "figure" && (Array.isArray(v) ? v.length > 0 : v != null),
  );
  const any = rule || judging.limits.length > 0 || judging.formula || judging.words || judging.section;
  const wrong = view.forecast.problems.filter((p) => p.field.startsWith("judging"));
  return (
    <details className="mt-4" open={Boolean(any || changed) || undefined}>
      <summary className="cursor-pointer">
        <h2 className="head inline">What counts as good enough</h2>
      </summary>
      <div className="space-y-2 leading-10">
        <RuleFields
          rule={judging.rule ?? NO_RULE}
          dimension={dimension ?? "stress"}
          modes={catalogue.failure_modes}
          onChange={(rule) => change({ rule })}
        />
        <p>
          A mixed failure counts as one of the wood from{" "}
          <QuantityField
            label="Share of wood from which a mixed failure counts to the wood"
            dimension="number"
            className="w-14"
            needed
            disabled={locked}
            value={draft.document.assumptions.mixed_at_pct}
            onChange={(v) =>
              v !== null && draft.change((now) => ({ assumptions: { ...now.assumptions, mixed_at_pct: v } }))
            }
          />{" "}
          % of wood on, where the bond is asked for.
        </p>
        <Limits
          limits={judging.limits}
          dimension={dimension ?? "stress"}
          onChange={(limits) => change({ limits })}
        />
        <SectionRule
          section={judging.section ?? null}
          sizes={Object.keys(draft.document.sizes)}
          onChange={(section) => change({ section })}
        />
        <FormulaAndWords judging={judging} onChange={change} />
        {wrong.map((p) => (
          <p key={p.field + p.message} className="text-alarm">
            {p.message}. {p.remedy}
          </p>
        ))}
        {changed && (
          <p>
            Because{" "}
            <Line
              label="Reason for judging otherwise"
              value={reason}
              disabled={false}
              placeholder="the customer asks for more"
              className="w-72 max-w-full"
              onChange={setReason}
            />{" "}
            <Button
              disabled={write.isPending}
              onClick={() =>
                write.mutate({ judging: changed, reason }, { onSuccess: () => setChanged(null) })
              }
            >
              Judge by this from now on
            </Button>{" "}
            <Button look="quiet" onClick={() => setChanged(null)}>
              leave it as it was
            </Button>
          </p>
        )}
        <ProblemNote problem={write.error} />
      </div>
    </details>
  );
}

interface RuleProps {
  rule: Rule;
  dimension: string;
  modes: Readonly<Record<string, string>>;
  onChange: (rule: Rule) => void;
}

function RuleFields({ rule, dimension, modes, onChange }: RuleProps) {
  const put = (part: Partial<Rule>) => onChange({ ...rule, ...part });
  const figure = rule.figure;
  const share = (label: string, value: number | null | undefined, key: "of_solid" | "of_usable") => (
    <Percent label={label} value={value ?? null} onChange={(v) => put({ [key]: v })} />
  );
  const chosen = rule.modes;
  return (
    <fieldset>
      <legend className="sr-only">Rule for every piece</legend>A piece passes with at least{" "}
      <QuantityField
        label="Least a piece must reach"
        dimension={figure === "load" ? "force" : dimension}
        value={rule.least ?? null}
        placeholder="anything"
        onChange={(least) => put({ least })}
      />{" "}
      <Figure label="Figure of the rule" value={figure} onChange={(f) => put({ figure: f, least: null })} />
      {", "}
      {share("Least share of solid wood", rule.of_solid, "of_solid")} of solid wood,{" "}
      {share("Least share of the usable limit", rule.of_usable, "of_usable")} of the usable limit,{" "}
      <QuantityField
        label="Least wood failure in percent"
        dimension="number"
        className="w-14"
        placeholder="any"
        value={rule.wood_pct ?? null}
        onChange={(wood_pct) => put({ wood_pct })}
      />{" "}
      % wood failure, and gives way{" "}
      {Object.entries(modes).map(([key, name]) => (
        <label key={key} className="mr-3 inline-flex items-center gap-1 text-sm">
          <input
            type="checkbox"
            className="size-4"
            checked={chosen.includes(key)}
            onChange={(e) =>
              put({ modes: e.target.checked ? [...chosen, key] : chosen.filter((k) => k !== key) })
            }
          />
          {name.toLowerCase()}
        </label>
      ))}
      <span className="text-sm text-faded">(none ticked: anywhere)</span>
    </fieldset>
  );
}

interface FigureProps {
  label: string;
  value: "strength" | "load";
  onChange: (value: "strength" | "load") => void;
}

function Figure({ label, value, onChange }: FigureProps) {
  return (
    <select
      aria-label={label}
      className="written"
      value={value}
      onChange={(e) => onChange(e.target.value === "load" ? "load" : "strength")}
    >
      {FIGURES.map(([key, words]) => (
        <option key={key} value={key}>
          {words}
        </option>
      ))}
    </select>
  );
}

interface LimitsProps {
  limits: readonly Limit[];
  dimension: string;
  onChange: (limits: Limit[]) => void;
}

function Limits({ limits, dimension, onChange }: LimitsProps) {
  const set = (i: number, part: Partial<Limit>) =>
    onChange(limits.map((x, n) => (n === i ? { ...x, ...part } : x)));
  return (
    <>
      {limits.map((x, i) => (
        <p key={i}>
          A line at{" "}
          <select
            aria-label={`Where limit ${i + 1} comes from`}
            className="written max-w-full"
            value={x.mark}
            onChange={(e) => set(i, { mark: e.target.value as Limit["mark"], usable: e.target.value !== "" })}
          >
            {MARKED.map(([key, words]) => (
              <option key={key} value={key}>
                {words}
              </option>
            ))}
          </select>{" "}
          {!x.mark && (
            <QuantityField
              label={`Limit ${i + 1}`}
              dimension={x.figure === "load" ? "force" : dimension}
              value={x.value}
              needed
              onChange={(value) => value !== null && set(i, { value })}
            />
          )}{" "}
          <Figure
            label={`Figure of limit ${i + 1}`}
            value={x.figure}
            onChange={(figure) => set(i, { figure })}
          />
          : {named(`Name of limit ${i + 1}`, x.name, "promised", (name) => set(i, { name }))}
          {!x.mark && (
            <>
              , from{" "}
              {named(`Source of limit ${i + 1}`, x.source, "data sheet", (source) => set(i, { source }))}
            </>
          )}{" "}
          <label className="inline-flex items-center gap-1">
            <input
              type="checkbox"
              className="size-4"
              checked={x.usable}
              onChange={(e) => set(i, { usable: e.target.checked })}
            />
            where the control begins to give for good
          </label>{" "}
          <Button look="quiet" onClick={() => onChange(limits.filter((_, n) => n !== i))}>
            take away
          </Button>
        </p>
      ))}
      <Button look="quiet" onClick={() => onChange([...limits, NEW_LIMIT])}>
        A line in the picture
      </Button>
    </>
  );
}
