/** Two factors as a table: each cell with its figure, its pieces and how they gave way, and a bar. */
import type { Schemas } from "../../api/client";
import { SCROLLS } from "../../parts/faces";
import { doubtOf } from "../../parts/figures";
import { MARK_NAMES, MarkIcon } from "../../parts/marks";
import { useUnits } from "../../parts/units";
import type { Look } from "./linked";

type View = Schemas["CompareView"];
type Treatment = Schemas["TreatmentResult"];

export function FactorTable({ view, look }: { view: View; look: Look }) {
  const units = useUnits();
  const factors = view.factors.filter((f) => f.levels.length > 1);
  const across = factors.find((f) => f.key === look.get("across")) ?? factors[1];
  const down = factors.find((f) => f !== across);
  if (!across || !down) return null;
  const others = factors.filter((f) => f !== across && f !== down);
  const number = (v: number) => units.number(v, view.dimension, doubtOf(view));
  const found = view.treatments.filter((t) => view.cells[t.letter]);
  const at = (row: string, column: string) =>
    found.filter(
      (t) => view.cells[t.letter]?.[down.key] === row && view.cells[t.letter]?.[across.key] === column,
    );
  const values = found.flatMap((t) => (t.estimate ? [t.estimate.value] : []));
  const own = Number(look.get("most")) / units.convert(1, view.dimension);
  const most = own > 0 ? own : Math.max(1e-9, ...values);
  const used = [...new Set(found.flatMap((t) => Object.keys(t.modes)))].sort();
  return (
    <figure className="sheet overflow-x-auto" tabIndex={SCROLLS} role="region" aria-label="Table of factors">
      <table className="w-full min-w-xl table-fixed border-collapse text-sm" data-testid="factor-table">
        <thead>
          <tr>
            <th scope="col" className="head px-2 py-1 text-left align-bottom">
              {down.name}
            </th>
            {across.levels.map((c) => (
              <th key={c.id} scope="col" className="head px-2 py-1 text-left align-bottom">
                {c.name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {down.levels.map((r) => (
            <tr key={r.id} className="border-t border-rule">
              <th scope="row" className="px-2 py-1 text-left font-normal">
                {r.name}
              </th>
              {across.levels.map((c) => (
                <td key={c.id} className="border-l border-rule p-0 align-top">
                  {at(r.id, c.id).map((t) => (
                    <Cell
                      key={t.letter}
                      t={t}
                      share={(t.estimate?.value ?? 0) / most}
                      number={number}
                      more={others
                        .map((f) => f.levels.find((x) => x.id === view.cells[t.letter]?.[f.key])?.name)
                        .join(" · ")}
                    />
                  ))}
                  {at(r.id, c.id).length === 0 && (
                    <span className="block px-2 py-1 text-faded">not planned</span>
                  )}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <figcaption className="flex flex-wrap items-center gap-x-4 px-2 py-1 text-sm text-faded">
        <span>
          {view.figure_name}, {units.symbol(view.dimension)}; the bar runs from 0 to{" "}
          <input
            key={most}
            className="written w-16"
            aria-label="End of the scale of the bars"
            inputMode="decimal"
            defaultValue={number(most)}
            onBlur={(e) => {
              const end = e.target.value.replace(/\s/g, "").replace(",", ".");
              if (e.target.value !== number(most)) look.set("most", Number(end) > 0 ? end : "");
            }}
          />
          . ≥: at least.
        </span>
        {used.map((mode) => (
          <span key={mode} className="inline-flex items-center gap-1">
            <MarkIcon mode={mode} />
            {MARK_NAMES[mode]}
          </span>
        ))}
        {factors.length > 1 && (
          <label className="no-print">
            across{" "}
            <select
              className="written"
              aria-label="Factor across"
              value={across.key}
              onChange={(e) => look.set("across", e.target.value)}
            >
              {factors.map((f) => (
                <option key={f.key} value={f.key}>
                  {f.name}
                </option>
              ))}
            </select>
          </label>
        )}
      </figcaption>
    </figure>
  );
}

interface CellProps {
  t: Treatment;
  share: number;
  number: (v: number) => string;
  more: string;
}

/** Empty, not run and fallen apart each say so: a tint alone would not. */
function Cell({ t, share, number, more }: CellProps) {
  const e = t.estimate;
  const modes = Object.entries(t.modes).sort((a, b) => b[1] - a[1]);
  const apart = t.fell_apart > 0 && t.fell_apart === t.pieces;
  return (
    <div className="relative px-2 py-1">
      <span
        aria-hidden
        className="absolute bottom-0 left-0 h-1.5 bg-spruce/60"
        style={{ width: `${Math.min(100, 100 * share)}%` }}
      />
      {more && <span className="block text-xs text-faded">{more}</span>}
      <span className={`text-base ${e ? "font-semibold" : "text-faded"}`}>
        {apart ? "all fell apart" : e ? `${e.of === "at least" ? "≥ " : ""}${number(e.value)}` : t.standing}
      </span>{" "}
      <span className="text-xs whitespace-nowrap text-faded">
        n {t.n}
        {e?.of === "median" && ", median"}
        {!apart && t.fell_apart > 0 && `, ${t.fell_apart} fell apart`}
      </span>
      <span className="block h-5 whitespace-nowrap">
        {modes.slice(0, 3).map(([mode, n]) => (
          <span key={mode} className="mr-2 text-xs text-faded">
            <MarkIcon mode={mode} />
            <span className="sr-only">{MARK_NAMES[mode]}: </span>
            {n}
          </span>
        ))}
      </span>
    </div>
  );
}
