/**
 * What the plan can and cannot find out: the treatments, what to expect at the rig, the smallest
 * difference that shows, and what to mind.
 */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Button } from "../../parts/controls";
import { JointGlyph } from "../../parts/JointGlyph";
import { facesOf } from "../../parts/faces";
import { QuantityField } from "../../parts/QuantityField";
import { Word } from "../../parts/Word";
import { counted, useMoney, useUnits } from "../../parts/units";
import { applied, type Draft } from "./draft";
import { ExpectedLoads } from "./ExpectedLoads";

interface Props {
  view: Schemas["PlanView"];
  catalogue: Schemas["CatalogueView"];
  draft: Draft;
  locked: boolean;
}

export function Forecast({ view, catalogue, draft, locked }: Props) {
  const units = useUnits();
  const { document } = draft;
  const [all, setAll] = useState(false);
  const found = view.forecast;
  return (
    <section aria-label="What it can find out" className="min-w-0 space-y-5">
      <div className="space-y-2">
        {found.problems.length > 0 && !locked && (
          <div className="text-sm text-faded">
            <p className="font-semibold">Before it can be locked:</p>
            <ul className="list-disc pl-5">
              {found.problems.map((p) => (
                <li key={p.field + p.message}>
                  {p.message}. {p.remedy}
                </li>
              ))}
            </ul>
          </div>
        )}
        {found.caveats.map((c) => (
          <div
            key={c.text}
            className={`flex flex-wrap items-center justify-between gap-x-4 gap-y-1 border-l-4
              border-notice bg-notice-pale px-3 py-1.5 text-notice`}
          >
            <p className="min-w-56 flex-1">{c.text}</p>
            {c.change && !locked && (
              <Button
                className="text-ink"
                onClick={() => draft.change(applied(document, c.change as Record<string, unknown>))}
              >
                {c.remedy}
              </Button>
            )}
          </div>
        ))}
      </div>
      <div>
        <h2 className="mb-1 text-lg font-bold">Treatments</h2>
        {found.treatments.length === 0 && (
          <p className="text-faded">They appear here once there are two levels.</p>
        )}
        <ul>
          {found.treatments.slice(0, all ? undefined : FIRST).map((t) => (
            <li
              key={t.id}
              className="grid grid-cols-[2rem_2.6rem_1fr_auto] items-center gap-x-2 border-t border-rule py-1"
            >
              <span className="font-mono font-semibold">{t.letter}</span>
              <JointGlyph
                {...facesOf(catalogue, t.orientation)}
                faces={t.role === "solid" ? null : facesOf(catalogue, t.orientation).faces}
                form={t.form}
                method={document.method}
                grain={t.grain}
                dry={t.dry}
              />
              <span className="min-w-0">
                <span className="font-semibold wrap-anywhere">{t.label}</span>
                {t.is_control && <span className="ml-2 text-sm text-spruce">control</span>}
                {!t.is_control && t.control && t.role !== "solid" && (
                  <span className="ml-2 text-sm text-spruce">control: {t.control}</span>
                )}
                {t.press_by && !t.label.includes(t.press_by) && (
                  <span className="block text-sm text-faded">{t.press_by}</span>
                )}
                {!t.press_by && t.clamp_force_n !== null && (
                  <span className="block text-sm text-faded">
                    press with {units.text(t.clamp_force_n, "force")} a{" "}
                    {found.parent_kinds
                      .find((k) => k.key === document.parents?.kind && k.sawn)
                      ?.name.toLowerCase() ?? "joint"}
                  </span>
                )}
              </span>
              <span className="flex flex-col items-end gap-1">
                <Pieces n={t.replicates} />
                <QuantityField
                  label={`Load guessed for ${t.label}`}
                  dimension="force"
                  className="w-24 text-right text-sm"
                  placeholder="your guess"
                  disabled={locked}
                  value={document.guesses?.[t.id] ?? null}
                  onChange={(v) => {
                    const rest = Object.fromEntries(
                      Object.entries(document.guesses ?? {}).filter(([k]) => k !== t.id),
                    );
                    draft.change({ guesses: v === null ? rest : { ...rest, [t.id]: v } });
                  }}
                />
              </span>
            </li>
          ))}
        </ul>
        {!all && found.treatments.length > FIRST && (
          <Button look="quiet" onClick={() => setAll(true)}>
            Show all {found.treatments.length}
          </Button>
        )}
      </div>
      {(found.loads.length > 0 || (found.figure_unit && !found.problems.length)) && (
        <ExpectedLoads view={view} />
      )}
      {found.reach && (
        <ReachView found={found} matters={document.assumptions.matters} cv={document.assumptions.cv} />
      )}
    </section>
  );
}

/** Treatments shown at first; more would only slow a small tablet down. */
const FIRST = 24;

function Pieces({ n }: { n: number }) {
  return (
    <span className="flex max-w-32 flex-wrap justify-end gap-0.5" aria-label={counted(n, "piece")} role="img">
      {n <= 24 ? (
        Array.from({ length: n }, (_, i) => (
          <span key={i} className="h-3.5 w-2 border border-ink bg-wood-pale" />
        ))
      ) : (
        <span className="tabular-nums">× {n}</span>
      )}
    </span>
  );
}

const WIDTH = 420;
const HEIGHT = 120;

function ReachView({ found, matters, cv }: { found: Schemas["Forecast"]; matters: number; cv: number }) {
  const money = useMoney();
  const reach = found.reach!;
  const shown = reach.planned_pct;
  const cost = found.cost;
  return (
    <div>
      <h2 className="mb-1 text-lg font-bold">
        What {reach.each > 1 ? counted(reach.n, reach.unit) : reach.n} of each can show
      </h2>
      {shown === null ? (
        <p>One {reach.unit} shows that it can happen, not how often: no scatter, no test.</p>
      ) : (
        <p>
          Differences of <strong>{shown.toFixed(0)} %</strong> or more
          {reach.at_once > 1 && <> in each of the {reach.at_once} comparisons of one question</>}. Smaller
          ones will mostly stay “<Word of="can't tell yet">can’t tell yet</Word>”.
        </p>
      )}
      {reach.needed !== null && (
        <p className="text-sm text-faded">
          To show {(100 * matters).toFixed(0)} % it takes {reach.needed}
          {reach.each > 1 && ` ${reach.unit}s`} of each, at a scatter of {(100 * cv).toFixed(0)} % (risk 5 %,
          power 80 %).
        </p>
      )}
      {cost && (
        <p className="text-sm text-faded">
          It takes about {hours(cost.cut_h)} to cut, {hours(cost.glue_h)} to glue and {hours(cost.break_h)} at
          the rig; {cost.wood_dm3.toFixed(1)} dm³ of wood, {cost.glue_g.toFixed(0)} g of glue,{" "}
          {cost.money.toFixed(0)} {money}.
        </p>
      )}
      <Curve reach={reach} matters={100 * matters} />
      <Counts found={found} />
    </div>
  );
}

const hours = (h: number) => (h < 1 ? `${Math.round(60 * h)} min` : `${h.toFixed(1)} h`);

/** Number of pieces against what it shows and what it takes. */
function Counts({ found }: { found: Schemas["Forecast"] }) {
  const money = useMoney();
  const shows = new Map(found.reach?.curve as [number, number][]);
  const each = found.reach?.each ?? 1;
  const rows = found.costs.map((c) => ({ ...c, n: c.n / each }));
  return (
    <table className="mt-1 w-full max-w-lg text-right text-sm">
      <thead className="head">
        <tr>
          <th scope="col" className="text-left font-semibold">
            {each > 1 ? `${found.reach?.unit}s of each`.replace(/^./, (c) => c.toUpperCase()) : "Of each"}
          </th>
          <th scope="col" className="font-semibold">
            shows
          </th>
          <th scope="col" className="font-semibold">
            pieces
          </th>
          <th scope="col" className="font-semibold">
            hours
          </th>
          <th scope="col" className="font-semibold">
            {money === "in money" ? "money" : money}
          </th>
        </tr>
      </thead>
      <tbody>
        {rows
          .filter((c) => [3, 5, 8, 12, 20].includes(c.n) || c.n === found.reach?.n)
          .map((c) => (
            <tr key={c.n} className={`border-t border-rule ${c.n === found.reach?.n ? "font-semibold" : ""}`}>
              <td className="text-left">{c.n}</td>
              <td>{shows.has(c.n) ? `${shows.get(c.n)!.toFixed(0)} %` : ""}</td>
              <td>{c.pieces}</td>
              <td>{(c.cut_h + c.glue_h + c.break_h).toFixed(1)}</td>
              <td>{c.money.toFixed(0)}</td>
            </tr>
          ))}
      </tbody>
    </table>
  );
}

function Curve({ reach, matters }: { reach: Schemas["ReachView"]; matters: number }) {
  const points = reach.curve.filter(([n]) => n >= 3 || reach.n < 3);
  // Two of each would need a scale on which nothing else could be read.
  const most = Math.max(...points.filter(([n]) => n >= 3).map(([, d]) => d), matters) * 1.05;
  const last = Math.max(...points.map(([n]) => n));
  const x = (n: number) => 42 + ((WIDTH - 52) * (n - 2)) / (last - 2);
  const y = (d: number) => HEIGHT - 22 - (HEIGHT - 34) * Math.min(1, d / most);
  const here = points.find(([n]) => n === reach.n);
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="mt-1 w-full max-w-lg"
      role="img"
      aria-label={["Smallest difference against pieces of each"]
        .concat(points.map(([n, d]) => `${n}: ${d.toFixed(0)} %`))
        .join(", ")}
    >
      <path d={`M42 ${y(0)}H${WIDTH - 8}`} className="stroke-strong-rule" />
      <path d={`M42 ${y(matters)}H${WIDTH - 8}`} className="stroke-notice" strokeDasharray="4 3" />
      <text x={48} y={y(matters) - 4} className="fill-notice text-[11px]">
        matters: {matters.toFixed(0)} %
      </text>
      <path
        d={points.map(([n, d], i) => `${i ? "L" : "M"}${x(n)} ${y(d)}`).join("")}
        className="fill-none stroke-ink"
        strokeWidth="1.6"
      />
      {points
        .filter(([n]) => [3, 6, 10, 15, 20, 30].includes(n))
        .map(([n]) => (
          <text key={n} x={x(n)} y={HEIGHT - 8} textAnchor="middle" className="fill-faded text-[11px]">
            {n}
          </text>
        ))}
      <text x={38} y={y(most * 0.93)} textAnchor="end" className="fill-faded text-[11px]">
        {(most * 0.93).toFixed(0)} %
      </text>
      {here && (
        <g>
          <path d={`M${x(here[0])} ${y(0)}V${y(here[1])}`} className="stroke-spruce" strokeWidth="2.5" />
          <circle cx={x(here[0])} cy={y(here[1])} r="4.5" className="fill-spruce" />
        </g>
      )}
    </svg>
  );
}
