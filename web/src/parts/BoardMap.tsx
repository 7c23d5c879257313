/** A board drawn to scale: its grain, its defects, every blank with its label, and the places left over. */
import type { Schemas } from "../api/client";
import { counted, useUnits } from "./units";

interface Props {
  board: Schemas["StoredBoard"];
  blanks?: readonly Schemas["CutBlank"][];
  /** Code of a piece -> letter of its treatment. */
  /** Strips that go to other batches. */
  taken?: readonly Schemas["Rect"][];
  letters?: Readonly<Record<string, string>>;
  onPick?: (code: string) => void;
  picked?: string | null;
}

export function BoardMap({ board, blanks = [], taken = [], letters = {}, onPick, picked }: Props) {
  const { length_mm: long, width_mm: wide } = board;
  const units = useUnits();
  const size = [long, wide].map((mm) => units.typed(mm, "length")).join(" by ");
  const codes = new Set(blanks.filter((b) => b.code).map((b) => b.code));
  // Grain lines that never cross, a little uneven, the same at every drawing.
  const grain = Array.from({ length: Math.floor(wide / 9) }, (_, i) => 5 + i * 9 + ((i * 7) % 5));
  const text = Math.max(6, Math.min(11, wide / 9));
  return (
    <svg
      viewBox={`-2 -2 ${long + 4} ${wide + 4}`}
      className="block w-full"
      role="img"
      aria-label={`Board ${board.label}, ${size}, with ${counted(codes.size, "piece")}`}
    >
      <rect width={long} height={wide} className="fill-wood-pale stroke-ink" strokeWidth="1.5" />
      {grain.map((y, i) => (
        <path
          key={y}
          d={`M4 ${y}q${long / 4} ${i % 2 ? 3 : -3} ${long / 2} 0t${long / 2 - 8} 0`}
          className="fill-none stroke-wood"
          strokeWidth="0.5"
          opacity="0.5"
        />
      ))}
      {board.defects.map((d, i) => (
        <g key={i}>
          <rect
            x={d.x}
            y={wide - d.y - d.width}
            width={d.length}
            height={d.width}
            className="fill-ink/25 stroke-ink"
            strokeWidth="1"
          />
          <path
            d={`M${d.x} ${wide - d.y - d.width}l${d.length} ${d.width}m0 ${-d.width}l${-d.length} ${d.width}`}
            className="stroke-ink"
            strokeWidth="1"
          />
        </g>
      ))}
      {taken.map((t, i) => (
        <g key={`taken ${i}`}>
          <rect
            x={t.x}
            y={wide - t.y - t.width}
            width={t.length}
            height={t.width}
            className="fill-wood/40 stroke-wood"
            strokeWidth="0.8"
            strokeDasharray="2 2"
          />
          <text
            x={long / 2}
            y={wide - t.y - t.width / 2 + text * 0.35}
            textAnchor="middle"
            fontSize={Math.min(text, t.width / 1.9)}
            className="fill-ink"
          >
            for another batch
          </text>
        </g>
      ))}
      {blanks.map((b, i) => {
        const { x, length, width } = b.rect;
        const y = wide - b.rect.y - width;
        const free = b.code === "";
        const spoiled = b.code === "spoiled";
        const size = Math.min(text, length / 3.2, width / 1.9);
        const label = spoiled ? "×" : b.code;
        return (
          <g
            key={i}
            onClick={onPick && !free && !spoiled ? () => onPick(b.code) : undefined}
            className={onPick && !free && !spoiled ? "cursor-pointer" : undefined}
          >
            <rect
              x={x}
              y={y}
              width={length}
              height={width}
              className={
                free
                  ? "fill-none stroke-ink"
                  : picked === b.code
                    ? "fill-spruce-pale stroke-spruce"
                    : "fill-sheet stroke-ink"
              }
              strokeWidth={picked === b.code ? 2 : 0.9}
              strokeDasharray={free ? "4 3" : undefined}
            />
            {!free && (
              <>
                <text
                  x={x + length / 2}
                  y={y + width / 2 + (width > 2.2 * size ? 0 : size * 0.35)}
                  textAnchor="middle"
                  fontSize={size}
                  className="fill-ink font-mono font-semibold"
                >
                  {label}
                </text>
                {width > 2.2 * size && !spoiled && (
                  <text
                    x={x + length / 2}
                    y={y + width / 2 + size}
                    textAnchor="middle"
                    fontSize={size * 0.85}
                    className="fill-faded"
                  >
                    {letters[b.code]} {b.side}
                  </text>
                )}
              </>
            )}
          </g>
        );
      })}
    </svg>
  );
}
