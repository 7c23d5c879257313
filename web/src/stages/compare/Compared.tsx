/** What the plan compares, in tables that can be sorted and narrowed; and the schools of averaging. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Explained } from "../../parts/Explained";
import { SCROLLS } from "../../parts/faces";
import { wayOfComparison } from "./explain";
import type { Look } from "./linked";
import { doubtOf } from "../../parts/figures";
import { useUnits } from "../../parts/units";

type View = Schemas["CompareView"];
type Compared = Schemas["ComparedView"];

const ROUTES: Readonly<Record<string, string>> = {
  means: "ratio of means",
  medians: "ratio of medians, fitted to limits too",
  blocks: "ratio of middles within blocks",
  order: "order alone",
  none: "not compared",
};

/** A ratio as a change in percent, or as so many times where it is large. */
export function change(ratio: number): string {
  if (ratio >= 2) return `${ratio.toFixed(1)} ×`;
  const percent = 100 * (ratio - 1);
  return `${percent < 0 ? "−" : "+"}${Math.abs(percent).toFixed(0)} %`;
}

const span = (c: Compared) =>
  c.low === null
    ? ""
    : c.high === null
      ? `${change(c.low)} or more`
      : `${change(c.low)} to ${change(c.high)}`;

const ORDERS: Readonly<Record<string, (a: Compared, b: Compared) => number>> = {
  "as planned": () => 0,
  "by size": (a, b) => Math.abs(Math.log(b.ratio ?? 1)) - Math.abs(Math.log(a.ratio ?? 1)),
  "by p": (a, b) => (a.p ?? 2) - (b.p ?? 2),
};

/** Which comparisons are shown, and in which order, stays in the link. */
export function ComparedTables({ view, look }: { view: View; look: Look }) {
  const [part, setPart] = useState(look.get("compared"));
  const [asked] = useState(part !== "");
  const order = ORDERS[look.get("order")] ? look.get("order") : "as planned";
  const units = useUnits();
  if (!view.families.length) return null;
  const label = new Map(view.treatments.map((t) => [t.letter, t.label]));
  const fits = (c: Compared) => {
    const text = [label.get(c.first), label.get(c.second), c.stratum].join(" ").toLowerCase();
    return part
      .toLowerCase()
      .split(/\s+/)
      .every((word) => text.includes(word));
  };
  return (
    <details open={asked || undefined} data-paper="open">
      <summary className="cursor-pointer text-lg font-bold">The planned comparisons</summary>
      <p className="my-2 flex flex-wrap items-baseline gap-x-6 text-sm no-print">
        <label>
          only with{" "}
          <input
            className="written w-40"
            aria-label="Comparisons that name"
            placeholder="a level or name"
            value={part}
            onChange={(e) => {
              setPart(e.target.value);
              look.set("compared", e.target.value.trim());
            }}
          />
        </label>
        <label>
          order{" "}
          <select
            className="written"
            value={order}
            onChange={(e) => look.set("order", e.target.value === "as planned" ? "" : e.target.value)}
          >
            {Object.keys(ORDERS).map((key) => (
              <option key={key}>{key}</option>
            ))}
          </select>
        </label>
      </p>
      <p className="mb-2 max-w-3xl text-sm text-faded">
        Intervals at 95 %, p adjusted within each family (Holm); an interval has the level of its step, so
        that it excludes “no difference” exactly where the two are told apart.
      </p>
      {view.families.map((f) => (
        <section key={f.id} aria-label={f.sentence} className="mb-4">
          <h3 className="font-semibold">{f.sentence}</h3>
          {f.blocks && <p className="text-sm">{f.blocks}</p>}
          {f.pooled.map((o) => (
            <p key={o.name} className="text-sm">
              {o.text}
            </p>
          ))}
          <div
            className="sheet mt-1 overflow-x-auto"
            tabIndex={SCROLLS}
            role="region"
            aria-label={`${f.sentence}, in figures`}
          >
            <table className="w-full min-w-2xl text-right text-sm">
              <thead className="border-b border-strong-rule">
                <tr>
                  {["First", "against", "change", "interval", "p", "outcome"].map((h, i) => (
                    <th
                      key={h}
                      scope="col"
                      className={`head px-3 py-1 ${i < 2 || i === 5 ? "text-left" : ""}`}
                    >
                      {h}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {f.comparisons
                  .filter(fits)
                  .toSorted(ORDERS[order])
                  .map((c) => (
                    <tr key={c.first + c.second} className="border-b border-rule last:border-b-0">
                      <th scope="row" className="px-3 py-1 text-left font-normal">
                        {label.get(c.first)}
                      </th>
                      <td className="px-3 text-left">{label.get(c.second)}</td>
                      <td className="px-3">
                        {c.ratio !== null && (
                          <Explained
                            label={`how ${label.get(c.first) ?? c.first} came about`}
                            why={wayOfComparison(units, view, c)}
                            className="no-underline hover:underline"
                          >
                            {change(c.ratio)}
                          </Explained>
                        )}
                      </td>
                      <td className="px-3 whitespace-nowrap">{span(c)}</td>
                      <td className="px-3">{c.p === null ? "" : c.p < 0.001 ? "< 0.001" : c.p.toFixed(3)}</td>
                      <td className="px-3 text-left">
                        {c.outcome}
                        {c.route !== "means" && <span className="text-faded"> ({ROUTES[c.route]})</span>}
                      </td>
                    </tr>
                  ))}
              </tbody>
            </table>
          </div>
        </section>
      ))}
    </details>
  );
}

/** Places by every school of averaging; what moves is marked. */
export function SchoolsTable({ view }: { view: View }) {
  const units = useUnits();
  const found = view.schools;
  if (!found || found.schools.length < 2) return null;
  const number = (v: number) => units.number(v, view.dimension, doubtOf(view));
  const rows = view.treatments.filter((t) => found.schools[0]?.places[t.letter] !== undefined);
  return (
    <details>
      <summary className="cursor-pointer text-lg font-bold">By every school of averaging</summary>
      {found.text && <p className="my-1 text-notice">{found.text}</p>}
      <div
        className="sheet mt-1 overflow-x-auto"
        tabIndex={SCROLLS}
        role="region"
        aria-label="Schools of averaging"
      >
        <table className="w-full min-w-3xl text-right text-sm" data-testid="schools">
          <thead className="border-b border-strong-rule">
            <tr>
              <th scope="col" className="head px-3 py-1 text-left">
                Treatment
              </th>
              {found.schools.map((s) => (
                <th key={s.key} scope="col" className="head px-3 py-1">
                  {s.name}
                </th>
              ))}
              <th scope="col" className="head px-3 py-1">
                first by mean
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map((t) => (
              <tr key={t.letter} className="border-b border-rule last:border-b-0">
                <th scope="row" className="px-3 py-1 text-left font-normal">
                  {t.label}
                </th>
                {found.schools.map((s) => {
                  const v = s.values[t.letter];
                  return (
                    <td key={s.key} className={`px-3 ${s.moved.includes(t.letter) ? "text-notice" : ""}`}>
                      {v === undefined ? "" : `${number(v)} (${s.places[t.letter]}.)`}
                    </td>
                  );
                })}
                <td className="px-3">{(100 * (found.first[t.letter] ?? 0)).toFixed(0)} %</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="text-sm text-faded">
        In brackets the place; where it is another than by the mean it is marked. The last column: in how many
        of 2,000 draws of the same pieces a treatment comes first.
      </p>
    </details>
  );
}
