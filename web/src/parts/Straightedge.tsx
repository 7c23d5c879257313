/** The batch as a straightedge: five stretches in the order of the work, each inked as far as it is done. */
import { NavLink } from "react-router";
import type { Schemas } from "../api/client";
import { STAGES, type Stage } from "../api/queries";

const NAMES: Record<Stage, string> = {
  plan: "Plan",
  cut: "Cut",
  glue: "Glue",
  break: "Break",
  compare: "Compare",
};

export function done(p: Schemas["Progress"]): Record<Stage, number> {
  const share = (n: number, of: number) => (of ? n / of : 0);
  return {
    plan: p.locked ? 1 : 0.4,
    cut: p.to_measure ? share(p.measured, p.pieces) : p.locked ? 1 : 0,
    glue: share(p.glued - 0.5 * p.in_clamps, p.joints),
    break: share(p.observed, p.pieces),
    compare: p.pieces > 0 && p.observed === p.pieces ? 1 : 0,
  };
}

/** The stage that is next: the first that is not done. */
export function nextStage(p: Schemas["Progress"]): Stage {
  if (!p.locked) return "plan";
  if (p.observed === p.pieces) return "compare";
  if (p.glued === p.joints && p.in_clamps === 0) return "break";
  if (p.to_measure && p.measured < p.pieces && p.glued === 0) return "cut";
  return "glue";
}

export function countOf(p: Schemas["Progress"], stage: Stage): string {
  switch (stage) {
    case "plan":
      return p.locked ? "locked" : "draft";
    case "cut":
      if (!p.locked) return "";
      return p.to_measure ? `${p.measured} of ${p.pieces} measured` : "nothing to measure";
    case "glue":
      return p.locked ? `${p.glued} of ${p.joints} glued` : "";
    case "break":
      return p.locked ? `${p.observed} of ${p.pieces} broken` : "";
    case "compare":
      return "";
  }
}

function Ticks() {
  return (
    <svg
      aria-hidden
      className="absolute inset-x-0 top-0 h-2 w-full text-strong-rule"
      preserveAspectRatio="none"
      viewBox="0 0 100 8"
    >
      {Array.from({ length: 10 }, (_, i) => (
        <path
          key={i}
          d={`M${i * 10 + 0.2} 0v${i === 0 ? 8 : i === 5 ? 6 : 4}`}
          stroke="currentColor"
          strokeWidth="1"
          vectorEffect="non-scaling-stroke"
        />
      ))}
    </svg>
  );
}

export function Straightedge({ progress }: { progress: Schemas["Progress"] }) {
  const shares = done(progress);
  return (
    <nav aria-label="Stages" className="no-print">
      <ol className="grid grid-cols-5 border border-strong-rule bg-sheet">
        {STAGES.map((stage) => (
          <li key={stage} className="relative border-r border-rule last:border-r-0">
            <NavLink
              to={`/batch/${progress.batch.id}/${stage}`}
              className={({ isActive }) =>
                `relative block px-1.5 pt-3 pb-2 sm:px-4 ${isActive ? "bg-spruce-pale" : "hover:bg-paper"}`
              }
            >
              <Ticks />
              <span className="block truncate text-sm font-semibold sm:text-lg">{NAMES[stage]}</span>
              <span className="hidden h-5 truncate text-sm text-faded sm:block">
                {countOf(progress, stage)}
              </span>
              <span aria-hidden className="absolute inset-x-0 bottom-0 h-1.5 bg-rule/60">
                <span className="block h-full bg-spruce" style={{ width: `${100 * shares[stage]}%` }} />
              </span>
            </NavLink>
          </li>
        ))}
      </ol>
    </nav>
  );
}

/** The same in one line of a list. */
export function Notches({ progress }: { progress: Schemas["Progress"] }) {
  const shares = done(progress);
  return (
    <span
      className="grid w-full max-w-52 grid-cols-5 gap-0.5"
      role="img"
      aria-label={STAGES.map((s) => `${NAMES[s]} ${Math.round(100 * shares[s])} %`).join(", ")}
    >
      {STAGES.map((stage) => (
        <span key={stage} className="h-2.5 bg-rule">
          <span className="block h-full bg-spruce" style={{ width: `${100 * shares[stage]}%` }} />
        </span>
      ))}
    </span>
  );
}
