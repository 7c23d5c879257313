/**
 * A small drawing made from a specimen's own facts: two adherends with their grain (long grain as lines, end grain as dots), the glue line
 * between them, and the load arrows of the method. It stands wherever a treatment or a specimen is named.
 */
interface Props {
  /** Kind of each glued face; null for a solid piece. */
  faces: readonly [string, string] | null;
  /** Angle between the two grains, degrees. */
  angle?: number;
  /** No glue at all: a dry line. */
  dry?: boolean;
  size?: number;
}

export function JointGlyph({ faces, angle = 0, dry = false, size = 36 }: Props) {
  return (
    <svg viewBox="0 0 40 40" width={size} height={size} aria-hidden className="inline-block shrink-0 align-middle">
      {faces === null ? (
        <>
          <path d="M8 5h12v8h12v22H20v-8H8z" className="fill-wood-pale stroke-ink" strokeWidth="1.4" />
          <Grain x={8} y={5} width={12} height={22} kind="long" turn={0} />
          <Grain x={20} y={13} width={12} height={22} kind="long" turn={0} />
        </>
      ) : (
        <>
          <rect x="7" y="5" width="12" height="22" className="fill-wood-pale stroke-ink" strokeWidth="1.4" />
          <rect x="21" y="13" width="12" height="22" className="fill-wood-pale stroke-ink" strokeWidth="1.4" />
          <Grain x={7} y={5} width={12} height={22} kind={faces[0]} turn={0} />
          <Grain x={21} y={13} width={12} height={22} kind={faces[1]} turn={angle} />
          <path d="M20 13v14" className="stroke-spruce" strokeWidth="2.6" strokeDasharray={dry ? "2 2" : undefined} />
        </>
      )}
      <path d="M13.500 0v4m-2-2 2 2.400 2-2.400" className="fill-none stroke-ink" strokeWidth="1.3" />
      <path d="M26.500 40v-4m-2 2 2-2.400 2 2.400" className="fill-none stroke-ink" strokeWidth="1.3" />
    </svg>
  );
}

interface GrainProps {
  x: number;
  y: number;
  width: number;
  height: number;
  kind: string;
  turn: number;
}

function Grain({ x, y, width, height, kind, turn }: GrainProps) {
  const marks = [0.25, 0.5, 0.75];
  if (kind === "end") {
    const rows = [0.14, 0.32, 0.5, 0.68, 0.86];
    return (
      <g className="fill-wood">
        {rows.flatMap((r, i) => marks.map((m) => <circle key={`${r}${m}`} cx={x + width * (m + (i % 2 ? 0.08 : -0.04))} cy={y + height * r} r="0.9" />))}
      </g>
    );
  }
  const across = turn === 90;
  const rows = across ? [0.14, 0.28, 0.43, 0.57, 0.72, 0.86] : marks;
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
