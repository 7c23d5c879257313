/** The numbers: one row a treatment; and all pairs with their simultaneous intervals. */
import type { Schemas } from "../../api/client";
import type { ReactNode } from "react";
import { Button } from "../../parts/controls";
import { waysOf } from "./explain";
import { Explained, Flags } from "../../parts/Explained";
import { counted, useUnits } from "../../parts/units";
import { SCROLLS } from "../../parts/faces";
import { doubtOf, meanOf } from "../../parts/figures";

type View = Schemas["CompareView"];

interface WhyProps {
  of: string;
  why: string | undefined;
  children: ReactNode;
}

/** A figure that explains itself, where there is anything to explain. */
const Why = ({ of, why, children }: WhyProps) =>
  why ? (
    <Explained label={`how the ${of} came about`} why={why} className="no-underline hover:underline">
      {children}
    </Explained>
  ) : (
    children
  );

export function Table({ view }: { view: View }) {
  const units = useUnits();
  const dimension = view.dimension;
  const num = (v: number | null) => (v === null ? "" : units.number(v, dimension, doubtOf(view)));
  const pct = (v: number | null, decimals = 0) => (v === null ? "" : v.toFixed(decimals));
  const unit = units.symbol(dimension);
  const ways = new Map(view.treatments.map((t) => [t.letter, waysOf(units, view, t)]));
  // Without solid pieces there is nothing to be a share of.
  const hasSolid = view.treatments.some((t) => t.role === "solid" || t.efficiency_pct !== null);
  const heads = [
    "n",
    `mean, ${unit}`,
    "SD",
    "CV, %",
    `95 % interval, ${unit}`,
    "min",
    "max",
    "wood failure, %",
    ...(hasSolid ? ["of solid, %"] : []),
  ];
  return (
    <div
      className="sheet overflow-x-auto"
      tabIndex={SCROLLS}
      role="region"
      aria-label="Treatments in figures"
    >
      <table className="w-full min-w-3xl border-collapse text-right" data-testid="treatments">
        <thead>
          <tr className="border-b border-strong-rule">
            <th scope="col" className="head px-3 py-2 text-left">
              Treatment
            </th>
            {heads.map((h) => (
              <th key={h} scope="col" className="head px-3 py-2">
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {view.treatments.map((t) => (
            <tr key={t.letter} className="border-b border-rule last:border-b-0">
              <th scope="row" className="max-w-64 px-3 py-1.5 text-left font-normal wrap-anywhere">
                <span className="mr-2 font-mono font-semibold">{t.letter}</span>
                {t.label}
                {t.is_control && (
                  <span className="ml-2 text-sm text-spruce">
                    {t.control && t.control !== "standard" ? `control: ${t.control}` : "control"}
                  </span>
                )}
                {t.guessed_n !== null && (
                  <span className="block text-sm text-faded">
                    guessed {units.typed(t.guessed_n, "force")}
                  </span>
                )}
                {t.left_out > 0 && (
                  <span className="block text-sm text-faded">
                    {t.left_out} not run: {t.left_out_reason}
                  </span>
                )}
                {t.flags.length > 0 && (
                  <span className="block text-sm">
                    <Flags items={t.flags.map((f) => `${f.text}: ${f.codes.join(", ")}`)} of={t.label} />
                  </span>
                )}
              </th>
              <td className="px-3">
                {t.n}
                {t.n < t.made && t.n === t.pieces && <span className="text-faded"> of {t.made}</span>}
                {t.n !== t.pieces && (
                  <span className="block text-sm whitespace-nowrap text-faded">
                    {counted(t.n, view.counted.name)} of {counted(t.pieces, "piece")}
                  </span>
                )}
              </td>
              <td className="px-3 font-semibold">
                <Why of={`mean of ${t.label}`} why={ways.get(t.letter)?.mean}>
                  {meanOf(units, view, t)}
                </Why>
              </td>
              <td className="px-3">
                <Why of={`SD of ${t.label}`} why={ways.get(t.letter)?.sd}>
                  {num(t.sd)}
                </Why>
              </td>
              <td className="px-3">
                <Why of={`CV of ${t.label}`} why={ways.get(t.letter)?.cv}>
                  {pct(t.cv_pct, 1)}
                </Why>
              </td>
              <td className="px-3 whitespace-nowrap">
                {t.ci_low === null ? (
                  <span className="text-faded">{t.bounded ? "has bounds" : ""}</span>
                ) : (
                  <Why of={`interval of ${t.label}`} why={ways.get(t.letter)?.interval}>
                    {`${num(t.ci_low)} to ${num(t.ci_high)}`}
                  </Why>
                )}
              </td>
              <td className="px-3">{num(t.min)}</td>
              <td className="px-3">{num(t.max)}</td>
              <td className="px-3">
                <Why of={`wood failure of ${t.label}`} why={ways.get(t.letter)?.wood}>
                  {pct(t.wood_failure_pct)}
                </Why>
              </td>
              {hasSolid && (
                <td className="px-3 whitespace-nowrap">
                  {t.efficiency_pct === null ? (
                    t.efficiency_missing && (
                      <Explained className="text-faded" label="why there is none" why={t.efficiency_missing}>
                        –
                      </Explained>
                    )
                  ) : (
                    <>
                      <Why of={`share of solid of ${t.label}`} why={ways.get(t.letter)?.solid}>
                        {pct(t.efficiency_pct)}
                      </Why>
                      {t.efficiency_low_pct !== null && (
                        <span className="text-faded">
                          {" "}
                          ({pct(t.efficiency_low_pct)}
                          {t.efficiency_high_pct === null ? " or more" : ` to ${pct(t.efficiency_high_pct)}`})
                        </span>
                      )}
                    </>
                  )}
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

export function Pairs({ view, onEvery }: { view: View; onEvery: () => void }) {
  const units = useUnits();
  const dimension = view.dimension;
  const num = (v: number | null) => (v === null ? "" : units.number(v, dimension, doubtOf(view)));
  const label = new Map(view.treatments.map((t) => [t.letter, t.label]));
  if (!view.pairs.length) return null;
  const f = view.welch?.["f"]?.toFixed(2);
  return (
    <details>
      <summary className="cursor-pointer text-lg font-bold">All pairs, by another method</summary>
      <p className="my-2 max-w-3xl text-sm text-faded">
        A second opinion beside the answer. Differences of means by Games-Howell: every treatment with its own
        scatter alone, intervals that hold for all pairs at once (95 %).
        {view.welch && (
          <>
            {" "}
            All means equal? Welch’s test: F = {f} on {view.welch["df_num"]} and{" "}
            {view.welch["df_den"]?.toFixed(1)} degrees of freedom, p = {p(view.welch["p"] ?? null)}.
          </>
        )}{" "}
        These are looked up afterwards; what the plan compares stands above, and is corrected for itself.
        Letters: treatments that share one were not told apart here:{" "}
        {view.treatments
          .filter((t) => t.letters)
          .map((t) => `${t.label} ${t.letters}`)
          .join(", ")}
        .
      </p>
      <div
        className="sheet overflow-x-auto"
        tabIndex={SCROLLS}
        role="region"
        aria-label="All pairs in figures"
      >
        <table className="w-full min-w-2xl text-right" data-testid="pairs">
          <thead className="border-b border-strong-rule">
            <tr>
              {["Pair", `difference, ${units.symbol(dimension)}`, "interval", "t", "df", "p"].map((h, i) => (
                <th key={h} scope="col" className={`head px-3 py-2 ${i === 0 ? "text-left" : ""}`}>
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {view.pairs.map((r) => (
              <tr key={r.first + r.second} className="border-b border-rule last:border-b-0">
                <th scope="row" className="px-3 py-1 text-left font-normal">
                  {label.get(r.first)} minus {label.get(r.second)}
                </th>
                <td className="px-3">{num(r.diff)}</td>
                <td className="px-3 whitespace-nowrap">
                  {r.ci_low === null ? "" : `${num(r.ci_low)} to ${num(r.ci_high)}`}
                </td>
                <td className="px-3">{r.t?.toFixed(2)}</td>
                <td className="px-3">{r.df?.toFixed(1)}</td>
                <td className="px-3">{p(r.p)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {view.pairs.length < view.pairs_in_all && (
        <p className="mt-2">
          These are the pairs with the control.{" "}
          <Button onClick={onEvery}>Show all {view.pairs_in_all}</Button>
        </p>
      )}
    </details>
  );
}

export function p(value: number | null): string {
  if (value === null) return "";
  return value < 0.0001 ? "< 0.0001" : value.toFixed(4);
}
