/**
 * A small drawing made from a specimen's own facts: two adherends with their grain (long grain as lines,
 * end grain as dots), the glue line in the shape of the joint form, and the load arrows of the method. It
 * stands wherever a treatment or a specimen is named.
 */
import type { ReactNode } from "react";

interface Props {
  /** Kind of each glued face; null for a solid piece. */
  faces: readonly [string, string] | null;
  /** Angle between the two grains, degrees. */
  angle?: number;
  /** Joint form and test method, as the plan names them. */
  form?: string;
  method?: string;
  /** How a solid piece is loaded, along its grain or across it. */
  grain?: string;
  /** No glue at all: a dry line. */
  dry?: boolean;
  size?: number;
}

const WOOD = "fill-wood-pale stroke-ink";
const NONE = "fill-none stroke-ink";

export function JointGlyph({
  faces,
  angle = 0,
  form = "lap",
  method = "compression-shear",
  grain = "",
  dry = false,
  size = 36,
}: Props) {
  return (
    <svg
      viewBox="0 0 40 40"
      width={size}
      height={size}
      aria-hidden
      className="inline-block shrink-0 align-middle"
    >
      <g strokeWidth="1.4" strokeLinejoin="round">
        {faces === null ? (
          <Solid method={method} grain={grain} />
        ) : (
          <Joint faces={faces} angle={angle} form={form} dry={dry} />
        )}
      </g>
      <g className={NONE} strokeWidth="1.3">
        <Load method={method} />
      </g>
    </svg>
  );
}

function Solid({ method, grain }: { method: string; grain: string }) {
  const across = grain === "across";
  const turn = across ? 90 : 0;
  if (method === "compression-shear")
    return (
      <>
        <path d="M8 5h12v8h12v22H20v-8H8z" className={WOOD} />
        <Grain x={8} y={5} width={12} height={22} kind="long" turn={turn} />
        <Grain x={20} y={13} width={12} height={22} kind="long" turn={turn} />
      </>
    );
  return (
    <>
      <rect x="3" y="15" width="34" height="10" className={WOOD} />
      <Grain x={3} y={15} width={34} height={10} kind="long" turn={across ? 0 : 90} />
    </>
  );
}

/** Pieces as outlines with their grain, and the glue line as a path, for each form of joint. */
function Joint({
  faces,
  angle,
  form,
  dry,
}: {
  faces: readonly [string, string];
  angle: number;
  form: string;
  dry: boolean;
}) {
  const drawn = FORMS[form] ?? FORMS["lap"]!;
  return (
    <>
      {drawn.pieces.map((p, i) => (
        <g key={i}>
          <path d={p.outline} className={WOOD} />
          <Grain
            {...p.grain}
            kind={drawn.free && !drawn.bar ? (faces[i] ?? "long") : "long"}
            turn={turnOf(drawn, p, i, faces, angle)}
          />
        </g>
      ))}
      {drawn.more}
      <path
        d={drawn.line}
        className="fill-none stroke-spruce"
        strokeWidth="2.6"
        strokeDasharray={dry ? "2 2" : undefined}
      />
    </>
  );
}

/** Seen from the side, the grain of a bar runs up to a glued end and along a glued edge. */
function turnOf(drawn: Drawn, p: Piece, i: number, faces: readonly [string, string], angle: number): number {
  if (drawn.bar) return faces[i] === "end" ? 90 : 0;
  const turn = p.turn ?? 0;
  return drawn.free && i === 1 && angle === 90 ? 90 - turn : turn;
}

interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}
interface Piece {
  outline: string;
  grain: Box;
  turn?: number;
}
interface Drawn {
  pieces: readonly [Piece, Piece];
  line: string;
  /** Whether the grain of the faces is the user's choice; the other forms bring their own. */
  free?: boolean;
  /** A bar that is seen from its side. */
  bar?: boolean;
  more?: ReactNode;
}

const block = (x: number, y: number, width: number, height: number, turn = 0): Piece => ({
  outline: `M${x} ${y}h${width}v${height}h${-width}z`,
  grain: { x, y, width, height },
  turn,
});
const BAR_LEFT = block(3, 15, 16, 10, 90);
const BAR_RIGHT = block(21, 15, 16, 10, 90);
const CORNER_A: Piece = { outline: "M5 5h10v20L5 35z", grain: { x: 6, y: 6, width: 8, height: 18 } };
const CORNER_B: Piece = {
  outline: "M5 35l10-10h20v10z",
  grain: { x: 17, y: 26, width: 17, height: 8 },
  turn: 90,
};
const REBATE_A: Piece = { outline: "M5 4h11v24h-5v8H5z", grain: { x: 5, y: 4, width: 10, height: 22 } };
const REBATE_B: Piece = {
  outline: "M12 29h24v7H12z",
  grain: { x: 13, y: 29, width: 22, height: 7 },
  turn: 90,
};
const REBATE_LINE = "M11.500 36v-7.500H16";
const UPRIGHT = block(5, 4, 11, 32);
const RAIL = block(18, 14, 18, 12, 90);

const FORMS: Record<string, Drawn> = {
  lap: { pieces: [block(7, 5, 12, 22), block(21, 13, 12, 22)], line: "M20 13v14", free: true },
  butt: { pieces: [BAR_LEFT, BAR_RIGHT], line: "M20 15v10", free: true, bar: true },
  edge: { pieces: [block(4, 8, 15, 24), block(21, 8, 15, 24)], line: "M20 8v24", free: true, bar: true },
  scarf: {
    pieces: [
      { outline: "M3 15h24l-14 10H3z", grain: { x: 3, y: 15, width: 16, height: 10 }, turn: 90 },
      { outline: "M28 15h9v10H14z", grain: { x: 22, y: 15, width: 15, height: 10 }, turn: 90 },
    ],
    line: "M27.500 15l-14 10",
  },
  finger: {
    pieces: [
      {
        outline: "M3 13h13l8 2.500-8 2.500 8 2.500-8 2.500 8 2.500-8 1H3z",
        grain: { x: 3, y: 13, width: 12, height: 14 },
        turn: 90,
      },
      {
        outline: "M37 13H17l8 2.500-8 2.500 8 2.500-8 2.500 8 2.500-8 1h20z",
        grain: { x: 26, y: 13, width: 11, height: 14 },
        turn: 90,
      },
    ],
    line: "M17 13l8 2.500-8 2.500 8 2.500-8 2.500 8 2.500-8 1",
  },
  vee: {
    pieces: [
      { outline: "M3 13h13l9 7-9 7H3z", grain: { x: 3, y: 13, width: 13, height: 14 }, turn: 90 },
      { outline: "M37 13H19l9 7-9 7h18z", grain: { x: 28, y: 13, width: 9, height: 14 }, turn: 90 },
    ],
    line: "M17.500 13l9 7-9 7",
  },
  "sheet-key": {
    pieces: [BAR_LEFT, BAR_RIGHT],
    line: "M20 15v10",
    free: true,
    bar: true,
    more: <path d="M12 20h16" className="stroke-spruce" strokeWidth="2" />,
  },
  "butt-corner": { pieces: [block(5, 4, 10, 22), block(5, 27, 31, 9, 90)], line: "M5 26.500h10" },
  "rebate-dowels": {
    pieces: [REBATE_A, REBATE_B],
    line: REBATE_LINE,
    more: <path d="M5 32.500h14" className="stroke-spruce" strokeWidth="2" />,
  },
  free: {
    pieces: [block(4, 8, 14, 24), block(22, 8, 14, 24)],
    line: "M20 8q-4 4 0 8t0 8 0 8",
    free: true,
  },
  mitre: { pieces: [CORNER_A, CORNER_B], line: "M5 35l10-10" },
  "mitre-spline-along": { pieces: [CORNER_A, CORNER_B], line: "M5 35l10-10M8.500 28.500l3.500 3.500" },
  "mitre-spline-across": { pieces: [CORNER_A, CORNER_B], line: "M5 35l10-10M7.500 27.500l5 5" },
  "mitre-key": { pieces: [CORNER_A, CORNER_B], line: "M5 35l10-10M5.500 30l4.500 4.500" },
  rebate: { pieces: [REBATE_A, REBATE_B], line: REBATE_LINE },
  comb: { pieces: [block(5, 4, 11, 24), block(17, 26, 19, 10, 90)], line: "M5 28h3v4h4v-4h4v8" },
  dovetail: { pieces: [block(5, 4, 11, 24), block(17, 26, 19, 10, 90)], line: "M5 28h3l-1 5h7l-1-5h3v8" },
  "half-lap": { pieces: [block(14, 3, 12, 34), block(3, 14, 34, 12, 90)], line: "M14 14h12v12H14z" },
  "mortise-tenon": { pieces: [UPRIGHT, RAIL], line: "M17 14v3H9v6h8v3" },
  dowelled: {
    pieces: [UPRIGHT, RAIL],
    line: "M17 14v12",
    more: <path d="M10 17.500h14M10 22.500h14" className="stroke-spruce" strokeWidth="2" />,
  },
  "loose-tenon-along": {
    pieces: [UPRIGHT, RAIL],
    line: "M10 17h14v6H10z",
    more: <path d="M11 19h12M11 21h12" className="stroke-wood" strokeWidth=".8" />,
  },
  "loose-tenon-across": {
    pieces: [UPRIGHT, RAIL],
    line: "M10 17h14v6H10z",
    more: <path d="M13 18v4m3-4v4m3-4v4m3-4v4" className="stroke-wood" strokeWidth=".8" />,
  },
};

/** Where the load acts: pushed along the line, pulled apart, bent over supports, levered. */
function Load({ method }: { method: string }) {
  switch (method) {
    case "lap-tension":
    case "lap-tension-double":
    case "withdrawal":
      return <path d="M13 4V0m-2 2 2-2 2 2M27 36v4m-2-2 2 2 2-2" />;
    case "butt-pull":
    case "cross-lap-pull":
    case "dissimilar-pull":
    case "corner-pull":
      return <path d="M4 20H0m2-2-2 2 2 2m34-2h4m-2-2 2 2-2 2" />;
    case "bend-three-point":
    case "edge-fold":
      return <path d="M20 3v8m-2-2 2 2 2-2M6 27l-3 5h6zM34 27l-3 5h6z" />;
    case "bend-four-point":
      return <path d="M15 3v8m-2-2 2 2 2-2M25 3v8m-2-2 2 2 2-2M6 27l-3 5h6zM34 27l-3 5h6z" />;
    case "racking":
    case "cantilever":
    case "framed":
    case "free-moment":
      return <path d="M34 3v8m-2-2 2 2 2-2M2 38h16" />;
    default:
      return <path d="M13.500 0v4m-2-2 2 2.400 2-2.400M26.500 40v-4m-2 2 2-2.400 2 2.400" />;
  }
}

interface GrainProps extends Box {
  kind: string;
  turn: number;
}

function Grain({ x, y, width, height, kind, turn }: GrainProps) {
  const marks = [0.25, 0.5, 0.75];
  if (kind === "end") {
    const rows = height > 15 ? [0.14, 0.32, 0.5, 0.68, 0.86] : [0.25, 0.55, 0.82];
    return (
      <g className="fill-wood">
        {rows.flatMap((r, i) =>
          marks.map((m) => (
            <circle
              key={`${r}${m}`}
              cx={x + width * (m + (i % 2 ? 0.08 : -0.04))}
              cy={y + height * r}
              r="0.9"
            />
          )),
        )}
      </g>
    );
  }
  const across = turn === 90;
  const rows = across && height > 15 ? [0.14, 0.28, 0.43, 0.57, 0.72, 0.86] : marks;
  return (
    <g className="stroke-wood" strokeWidth="0.9">
      {rows.map((m) =>
        across ? (
          <path key={m} d={`M${x + 1.5} ${y + height * m}h${width - 3}`} />
        ) : (
          <path key={m} d={`M${x + width * m} ${y + 1.5}v${height - 3}`} />
        ),
      )}
    </g>
  );
}
