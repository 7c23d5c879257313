/** What the plan can and cannot find out: the treatments, the smallest difference that shows, and what to mind. */
import type { Schemas } from "../../api/client";
import { Mind } from "../../parts/controls";
import { JointGlyph } from "../../parts/JointGlyph";
import { facesOf } from "../../parts/facts";
import { useUnits } from "../../parts/units";
import type { Document } from "./draft";

interface Props {
  view: Schemas["PlanView"];
  reference: Schemas["ReferenceView"];
  document: Document;
}

export function Outlook({ view, reference, document }: Props) {
  const units = useUnits();
  const reach = view.reach;
  return (
    <section aria-label="What it can find out" className="min-w-0 space-y-5">
      <div>
        <h2 className="mb-1 text-lg font-bold">Treatments</h2>
        {view.treatments.length === 0 && <p className="text-faded">They appear here once there are two levels.</p>}
        <ul>
          {view.treatments.map((t, i) => {
            const orientation = orientationOf(document, i) ?? "long-parallel";
            const faces = facesOf(reference, orientation);
            return (
              <li key={t.letter} className="grid grid-cols-[2rem_2.6rem_1fr_auto] items-center gap-x-2 border-t border-rule py-1">
                <span className="font-mono font-semibold">{t.letter}</span>
                <JointGlyph faces={t.role === "solid" ? null : faces.faces} angle={faces.angle} />
                <span className="min-w-0">
                  <span className="font-semibold wrap-anywhere">{t.label}</span>
                  {t.is_control && <span className="ml-2 text-sm text-spruce">control</span>}
                  {t.clamp_force_n !== null && (
                    <span className="block text-sm text-faded">press with {units.text(t.clamp_force_n, "force")} a joint</span>
                  )}
                </span>
                <Pieces n={t.replicates} />
              </li>
            );
          })}
        </ul>
      </div>
      {reach && <ReachView reach={reach} matters={document.assumptions.matters} cv={document.assumptions.cv} />}
      <div className="space-y-2">
        {view.problems.length > 0 && view.kind === "draft" && (
          <div className="text-sm text-faded">
            <p className="font-semibold">Before it can be locked:</p>
            <ul className="list-disc pl-5">
              {view.problems.map((p) => (
                <li key={p.field + p.message}>
                  {p.message}. {p.remedy}
                </li>
              ))}
            </ul>
          </div>
        )}
        {view.warnings.map((w) => (
          <Mind key={w.text}>
            {w.text} {w.remedy}
          </Mind>
        ))}
      </div>
    </section>
  );
}

function orientationOf(document: Document, index: number): string | undefined {
  const factor = document.factors[0];
  const level = factor?.key === "orientation" ? factor.levels[index] : document.constants["orientation"];
  return typeof level?.value === "string" ? level.value : undefined;
}

function Pieces({ n }: { n: number }) {
  return (
    <span className="flex max-w-32 flex-wrap justify-end gap-0.5" aria-label={`${n} pieces`} role="img">
      {n <= 24 ? Array.from({ length: n }, (_, i) => <span key={i} className="h-3.5 w-2 border border-ink bg-wood-pale" />) : <span className="tabular-nums">× {n}</span>}
    </span>
  );
}

const WIDTH = 420;
const HEIGHT = 120;

function ReachView({ reach, matters, cv }: { reach: Schemas["ReachView"]; matters: number; cv: number }) {
  const shown = reach.all_pairs_pct;
  return (
    <div>
      <h2 className="mb-1 text-lg font-bold">What {reach.n} of each can show</h2>
      {shown === null ? (
        <p>One piece shows that it can happen, not how often: no scatter, no test.</p>
      ) : (
        <p>
          Differences of <strong>{shown.toFixed(0)} %</strong> or more between any two treatments
          {reach.one_control_pct !== null && reach.one_control_pct < shown - 0.5 && <>, of {reach.one_control_pct.toFixed(0)} % against the control alone</>}. Smaller ones will mostly stay
          “can’t tell yet”.
        </p>
      )}
      {reach.needed !== null && (
        <p className="text-sm text-faded">
          To show {(100 * matters).toFixed(0)} % it takes {reach.needed} of each, at a scatter of {(100 * cv).toFixed(0)} % (risk 5 %, power 80 %).
        </p>
      )}
      <Curve reach={reach} matters={100 * matters} />
    </div>
  );
}

function Curve({ reach, matters }: { reach: Schemas["ReachView"]; matters: number }) {
  const points = reach.curve.filter(([n]) => n >= 3 || reach.n < 3);
  const most = Math.max(...points.map(([, d]) => d), matters) * 1.05;
  const last = Math.max(...points.map(([n]) => n));
  const x = (n: number) => 34 + ((WIDTH - 44) * (n - 2)) / (last - 2);
  const y = (d: number) => HEIGHT - 22 - (HEIGHT - 34) * (d / most);
  const here = points.find(([n]) => n === reach.n);
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="mt-1 w-full max-w-lg" role="img" aria-label={`Smallest difference against pieces of each: ${points.map(([n, d]) => `${n}: ${d.toFixed(0)} %`).join(", ")}`}>
      <path d={`M34 ${y(0)}H${WIDTH - 8}`} className="stroke-strong-rule" />
      <path d={`M34 ${y(matters)}H${WIDTH - 8}`} className="stroke-mind" strokeDasharray="4 3" />
      <text x={WIDTH - 8} y={y(matters) + 12} textAnchor="end" className="fill-mind text-[11px]">
        matters: {matters.toFixed(0)} %
      </text>
      <path d={points.map(([n, d], i) => `${i ? "L" : "M"}${x(n)} ${y(d)}`).join("")} className="fill-none stroke-ink" strokeWidth="1.6" />
      {points
        .filter(([n]) => [3, 6, 10, 15, 20, 30].includes(n))
        .map(([n]) => (
          <text key={n} x={x(n)} y={HEIGHT - 8} textAnchor="middle" className="fill-faded text-[11px]">
            {n}
          </text>
        ))}
      <text x={30} y={y(most * 0.93)} textAnchor="end" className="fill-faded text-[11px]">
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
