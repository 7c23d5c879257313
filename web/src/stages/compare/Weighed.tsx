/** Strength beside what else counts, by weights of the user's own: stated, in the link, never hidden. */
import type { Schemas } from "../../api/client";
import { SCROLLS } from "../../parts/faces";
import { doubtOf } from "../../parts/figures";
import { useCurrency, useUnits } from "../../parts/units";
import { titled } from "./Against";
import type { Look } from "./linked";

type View = Schemas["CompareView"];

interface Column {
  key: string;
  name: string;
  values: Readonly<Record<string, number>>;
  show: (v: number) => string;
}

/** A weight in the link: key, how much, and whether less of it is better. */
interface Weight {
  share: number;
  less: boolean;
}

const read = (texts: readonly string[]) =>
  new Map(
    texts.map((text): [string, Weight] => {
      const [key = "", share = "0", way = ""] = text.split(":");
      return [key, { share: Math.max(0, Number(share) || 0), less: way === "less" }];
    }),
  );

/** Between the least and the most of the treatments, 0 to 1; less is better turned round. */
function placed(c: Column, letter: string, less: boolean): number | null {
  const v = c.values[letter];
  if (v === undefined) return null;
  const all = Object.values(c.values);
  const [low, high] = [Math.min(...all), Math.max(...all)];
  const place = high > low ? (v - low) / (high - low) : 1;
  return less ? 1 - place : place;
}

export function Weighed({ view, look }: { view: View; look: Look }) {
  const units = useUnits();
  const money = useCurrency();
  if (!view.quantities.length) return null;
  const columns: Column[] = [
    {
      key: "strength",
      name: `${view.figure_name}, ${units.symbol(view.dimension)}`,
      values: Object.fromEntries(
        view.treatments.flatMap((t) =>
          t.estimate && t.role !== "solid" ? [[t.letter, t.estimate.value]] : [],
        ),
      ),
      show: (v) => units.number(v, view.dimension, doubtOf(view)),
    },
    ...view.quantities.map((q) => ({
      key: q.key,
      name: titled(q, money),
      values: q.means,
      show: (v: number) => Number(v.toPrecision(3)).toString(),
    })),
  ];
  const weights = read(look.all("weight"));
  const of = (key: string): Weight =>
    weights.get(key) ?? { share: key === "strength" && !weights.size ? 1 : 0, less: false };
  const put = (key: string, part: Partial<Weight>) => {
    const next = new Map(columns.map((c) => [c.key, of(c.key)]));
    next.set(key, { ...of(key), ...part });
    // Strength stays in the link at 0 too: without any weight it would count alone.
    const used = [...next].filter(([k, w]) => w.share > 0 || k === "strength");
    look.set(
      "weight",
      used.map(([k, w]) => [k, w.share, w.less ? "less" : "more"].join(":")),
    );
  };
  const total = columns.reduce((sum, c) => sum + of(c.key).share, 0);
  // No score is shown that nobody asked for: without weights of one's own the order is that of strength.
  const score = (letter: string) => {
    let sum = 0;
    for (const c of columns) {
      const w = of(c.key);
      if (!w.share) continue;
      const place = placed(c, letter, w.less);
      if (place === null) return null;
      sum += (w.share / total) * place;
    }
    return sum;
  };
  const rows = view.treatments
    .filter((t) => t.role !== "solid")
    .map((t) => ({ t, s: total > 0 ? score(t.letter) : null }))
    .sort((a, b) => (b.s ?? -1) - (a.s ?? -1));
  return (
    <details open={weights.size > 0 || undefined}>
      <summary className="cursor-pointer text-lg font-bold">Weighed with what else counts</summary>
      <p className="my-1 max-w-3xl text-sm text-faded">
        Your own weights. Each column runs from its least (0) to its most (1) among these treatments, turned
        round where less is better; the last column is the weighted mean, and says nothing about certainty.
      </p>
      <div className="sheet overflow-x-auto" tabIndex={SCROLLS} role="region" aria-label="Weighed">
        <table className="w-full min-w-2xl text-right text-sm" data-testid="weighed">
          <thead className="border-b border-strong-rule align-bottom">
            <tr>
              <th scope="col" className="head px-3 py-1 text-left">
                Treatment
              </th>
              {columns.map((c) => (
                <th key={c.key} scope="col" className="head px-3 py-1 font-normal">
                  <span className="block font-semibold">{c.name}</span>
                  <label className="block">
                    weight{" "}
                    <input
                      type="number"
                      min="0"
                      step="1"
                      className="written w-14 text-right"
                      aria-label={`Weight of ${c.name}`}
                      value={of(c.key).share}
                      onChange={(e) => put(c.key, { share: Math.max(0, Number(e.target.value) || 0) })}
                    />
                  </label>
                  <label className="inline-flex items-center gap-1">
                    <input
                      type="checkbox"
                      className="size-4"
                      aria-label={`Less ${c.name} is better`}
                      checked={of(c.key).less}
                      onChange={(e) => put(c.key, { less: e.target.checked, share: of(c.key).share || 1 })}
                    />
                    less is better
                  </label>
                </th>
              ))}
              <th scope="col" className="head px-3 py-1">
                weighed
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map(({ t, s }) => (
              <tr key={t.letter} className="border-b border-rule last:border-b-0">
                <th scope="row" className="px-3 py-1 text-left font-normal">
                  {t.label}
                </th>
                {columns.map((c) => {
                  const v = c.values[t.letter];
                  return (
                    <td key={c.key} className="px-3">
                      {v === undefined ? "" : c.show(v)}
                    </td>
                  );
                })}
                <td className="px-3 font-semibold">{s === null ? "not known" : s.toFixed(2)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </details>
  );
}

interface OnlyProps {
  view: View;
  only: string[];
  onChange: (only: string[]) => void;
}

/** Only pieces whose quantity lies in a range: a filter that is stated as long as it holds. */
export function Only({ view, only, onChange }: OnlyProps) {
  const money = useCurrency();
  if (!view.quantities.length && !only.length) return null;
  const name = (key: string) => {
    const q = view.quantities.find((x) => x.key === key);
    return q ? titled(q, money) : key;
  };
  return (
    <div className="flex flex-wrap items-baseline gap-x-4 text-sm no-print">
      {only.map((text) => {
        const [key = "", low = "", high = ""] = text.split(":");
        const set = (ends: readonly [string, string]) =>
          onChange(only.map((x) => (x === text ? [key, ...ends].join(":") : x)));
        return (
          <span key={key} className="text-notice">
            only pieces with {name(key)} from{" "}
            <input
              className="written w-16"
              aria-label={`Least ${name(key)}`}
              defaultValue={low}
              onBlur={(e) => set([e.target.value.replace(",", "."), high])}
            />{" "}
            to{" "}
            <input
              className="written w-16"
              aria-label={`Most ${name(key)}`}
              defaultValue={high}
              onBlur={(e) => set([low, e.target.value.replace(",", ".")])}
            />{" "}
            <button
              type="button"
              className="underline underline-offset-4"
              onClick={() => onChange(only.filter((x) => x !== text))}
            >
              all again
            </button>
          </span>
        );
      })}
      <select
        className="written"
        aria-label="Only pieces by"
        value=""
        onChange={(e) => e.target.value && onChange([...only, `${e.target.value}::`])}
      >
        <option value="">only some pieces, by …</option>
        {view.quantities
          .filter((q) => !only.some((x) => x.startsWith(`${q.key}:`)))
          .map((q) => (
            <option key={q.key} value={q.key}>
              {titled(q, money)}
            </option>
          ))}
      </select>
    </div>
  );
}
