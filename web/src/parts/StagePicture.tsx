/** A small drawing to each stage, for the help: what the stage is about, in the colours of the screen. */
import type { ReactNode } from "react";

const LINE = "stroke-ink fill-none";
const WOOD = "fill-wood-pale stroke-strong-rule";
const MARK = "fill-spruce stroke-none";

/** Treatments in rows, pieces as dots, the control ringed. */
const plan = (
  <>
    {[18, 42, 66, 90].map((y, row) => (
      <g key={y}>
        <rect x="10" y={y - 7} width="52" height="14" className={WOOD} />
        <path d={`M36 ${y - 7}v14`} className="stroke-glue" strokeWidth="2" />
        {Array.from({ length: row === 3 ? 3 : 6 }, (_, n) => (
          <circle key={n} cx={84 + 22 * n} cy={y} r="5" className={row === 3 ? LINE : MARK} />
        ))}
      </g>
    ))}
  </>
);

/** A board with its grain, blanks in it, each with a place for a code. */
const cut = (
  <>
    <rect x="8" y="22" width="224" height="66" className={WOOD} />
    {[34, 47, 60, 76].map((y) => (
      <path key={y} d={`M8 ${y}q60 -5 112 0t112 0`} className="fill-none stroke-wood" opacity="0.4" />
    ))}
    {[0, 1, 2, 3].map((n) => (
      <g key={n}>
        <rect x={18 + 52 * n} y="32" width="44" height="20" className="fill-sheet stroke-ink" />
        <rect x={18 + 52 * n} y="58" width="44" height="20" className="fill-sheet stroke-ink" />
        <path d={`M${24 + 52 * n} 42h20M${24 + 52 * n} 68h20`} className="stroke-spruce" strokeWidth="3" />
      </g>
    ))}
  </>
);

/** Runs on a time line: hands first, then clamps for hours. */
const glue = (
  <>
    <path d="M14 96H230" className={LINE} />
    {[24, 48, 72].map((y, n) => (
      <g key={y}>
        <rect x={20 + 42 * n} y={y - 8} width="22" height="16" className={MARK} />
        <rect x={42 + 42 * n} y={y - 8} width="96" height="16" className="fill-spruce-pale stroke-spruce" />
      </g>
    ))}
    <path d="M76 12V96" className="stroke-alarm" strokeDasharray="4 3" />
  </>
);

/** The load rises, cracks once, and falls; the peak is caught. */
const broken = (
  <>
    <path d="M20 10V96H230" className={LINE} />
    <path d="M20 96L104 48l5 8L166 22l6 74" className="fill-none stroke-glue" strokeWidth="2.5" />
    <circle cx="166" cy="22" r="6" className="fill-none stroke-alarm" strokeWidth="2.5" />
    <path d="M20 22h140" className="stroke-faded" strokeDasharray="3 4" />
  </>
);

/** Place from above, mean, and half of its interval. */
const MEANS: readonly (readonly [number, number, number])[] = [
  [24, 150, 34],
  [50, 142, 26],
  [76, 84, 20],
];

/** Pieces on a shared axis, each treatment with the interval of its mean. */
const compare = (
  <>
    <path d="M20 96H230" className={LINE} />
    {MEANS.map(([y, mean, half]) => (
      <g key={y}>
        <path d={`M${mean - half} ${y}h${2 * half}`} className="stroke-spruce" strokeWidth="3" />
        <path d={`M${mean} ${y - 8}v16`} className="stroke-spruce" strokeWidth="3" />
        {[-38, -17, 6, 21, 44].map((off) => (
          <circle key={off} cx={mean + off * (half / 26)} cy={y + 10} r="3.5" className="fill-wood" />
        ))}
      </g>
    ))}
  </>
);

/** What is due, the soonest on top. */
const today = (
  <>
    {[20, 48, 76].map((y, n) => (
      <g key={y}>
        <circle cx="24" cy={y + 6} r="9" className={LINE} />
        <path d={`M24 ${y}v6h${5 - n}`} className={LINE} />
        <rect x="46" y={y - 2} width={168 - 40 * n} height="16" className="fill-spruce-pale stroke-spruce" />
      </g>
    ))}
  </>
);

/** What stays: a bottle, a clamp, a weight. */
const shop = (
  <>
    <path d="M30 96V46l8-10V20h14v16l8 10v50z" className={WOOD} />
    <path d="M96 96V24h46v14M96 96h46V72M142 38v10m-10 0h20" className={LINE} strokeWidth="3" />
    <path d="M178 96l6-52h32l6 52zM194 44v-10h12v10" className="fill-spruce-pale stroke-spruce" />
  </>
);

const PICTURES: Readonly<Record<string, ReactNode>> = {
  plan,
  cut,
  glue,
  break: broken,
  compare,
  today,
  shop,
};

export function StagePicture({ stage }: { stage: string }) {
  return (
    <svg viewBox="0 0 240 108" aria-hidden className="h-28 w-60 shrink-0 self-start">
      {PICTURES[stage] ?? today}
    </svg>
  );
}
