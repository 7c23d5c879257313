/** Each figure with its own numbers in its formula, for whoever asks how it came about. */
import type { Schemas } from "../../api/client";
import { doubtOf } from "../../parts/figures";
import type { Units } from "../../parts/units";

type View = Schemas["CompareView"];
type Treatment = Schemas["TreatmentResult"];
type Compared = Schemas["ComparedView"];

const MOST = 12;

/** The exact figures of a treatment's pieces; null where it has bounds, or other units than pieces. */
function figuresOf(t: Treatment): number[] | null {
  const used = t.marks.filter((m) => !m.hollow);
  return t.bounded || used.length !== t.n ? null : used.map((m) => m.low);
}

export function waysOf(units: Units, view: View, t: Treatment) {
  const number = (v: number) => units.number(v, view.dimension, doubtOf(view));
  const own = figuresOf(t);
  const listed = own && own.length <= MOST ? `(${own.map(number).join(" + ")})` : "sum of all";
  const unit = units.symbol(view.dimension);
  const { mean, sd, n } = t;
  const ready = mean !== null && sd !== null && n > 1;
  const t975 = ready && t.ci_high !== null && sd > 0 ? ((t.ci_high - mean) * Math.sqrt(n)) / sd : null;
  return {
    mean: mean === null ? "" : `${listed} / ${n} = ${number(mean)} ${unit}`,
    sd: !ready ? "" : `√(sum of (piece − ${number(mean)})² / ${n - 1}) = ${number(sd)} ${unit}`,
    cv: !ready || t.cv_pct === null ? "" : `${number(sd)} / ${number(mean)} = ${t.cv_pct.toFixed(1)} %`,
    interval:
      t975 === null || mean === null || sd === null
        ? ""
        : `${number(mean)} ± ${t975.toFixed(2)} × ${number(sd)} / √${n}; ` +
          `${t975.toFixed(2)} is t of ${n - 1} degrees of freedom at 95 %`,
    wood:
      t.wood_failure_pct === null ? "" : `mean over the opened pieces: ${t.wood_failure_pct.toFixed(1)} %`,
    solid: solidOf(view, t, number),
  };
}

function solidOf(view: View, t: Treatment, number: (v: number) => string): string {
  if (t.efficiency_pct === null || t.mean === null || t.efficiency_pct === 0) return "";
  const base = (100 * t.mean) / t.efficiency_pct;
  const solid = view.treatments.find(
    (s) => s.role === "solid" && s.mean !== null && Math.abs(s.mean - base) < 1e-6 * base,
  );
  const name = solid?.label ?? "solid wood, loaded the same way";
  return `${number(t.mean)} / ${number(base)} (${name}); interval by Fieller`;
}

const ROUTES: Readonly<Record<string, string>> = {
  means: "by the means; interval by Welch’s test turned round, p by Welch’s test",
  medians: "by medians fitted with bounds as bounds; interval and p by the calibrated likelihood",
  blocks: "by means within blocks, what they share taken out; interval and p by t of what is left",
  order: "by the order of the loads alone, no ratio",
  none: "not compared",
};

export function wayOfComparison(units: Units, view: View, c: Compared): string {
  const [a, b] = [c.first, c.second].map((x) => view.treatments.find((t) => t.letter === x)?.estimate);
  const number = (v: number) => units.number(v, view.dimension, doubtOf(view));
  const ratio =
    c.route !== "blocks" && a && b && c.ratio !== null && !view.school
      ? `${number(a.value)} / ${number(b.value)} = ${c.ratio.toFixed(3)}; `
      : c.ratio === null
        ? ""
        : `ratio ${c.ratio.toFixed(3)}; `;
  const order = c.p_by_order === null ? "" : `; by order alone p = ${c.p_by_order.toPrecision(2)}`;
  return `${ratio}${ROUTES[c.route] ?? c.route}${order}; p adjusted by Holm within its question`;
}
