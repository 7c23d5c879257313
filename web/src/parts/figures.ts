/** Figures of the comparison in words, one way for table, plot, side questions and claims. */
import type { Schemas } from "../api/client";
import type { Units } from "./units";

type View = Schemas["CompareView"];
type Treatment = Schemas["TreatmentResult"];

/** How far the typical reading is in doubt, in the base unit of the figure. */
export const doubtOf = (view: View): number => 10 ** -view.decimals;

/** A mean without its unit: a number, a bound, or what it lies between; empty where nothing is known. */
export function meanOf(units: Units, view: View, t: Treatment): string {
  const text = (v: number) => units.number(v, view.dimension, doubtOf(view));
  if (!t.bounded) return t.mean === null ? "" : text(t.mean);
  if (t.mean_low === null) return "";
  return t.mean_high === null
    ? `at least ${text(t.mean_low)}`
    : `${text(t.mean_low)} to ${text(t.mean_high)}`;
}

/** A treatment with its mean and number of pieces, for a sentence. */
export function inWords(units: Units, view: View, t: Treatment): string {
  const mean = meanOf(units, view, t);
  const figure = mean ? `mean ${mean} ${units.symbol(view.dimension)}`.trim() : "no mean";
  return `${t.label}: ${figure}, n ${t.n}`;
}
