/** A broken face as a grid: painted with mouse, finger or keys. */
import { useRef } from "react";

interface Props {
  label: string;
  columns: number;
  rows: number;
  cells: string;
  kinds: Readonly<Record<string, string>>;
  brush: string;
  /** Width over height of the face. */
  aspect: number;
  width: number;
  photo?: string | undefined;
  /** Where in the photo the face lies: left, top, right, bottom, as shares of it. */
  box?: readonly [number, number, number, number];
  onPaint: (cell: number, kind: string) => void;
  onBrush: (kind: string) => void;
}

/** Tints, each with a letter and a hatching of its own: no kind is told by its colour alone. */
const LOOKS: Readonly<Record<string, string>> = {
  g: "bg-glue/60",
  w: "bg-wood/70",
  v: "bg-ink/70 text-paper",
  b: "bg-wood-pale/80",
  s: "bg-sheet/80 outline-dashed outline-1 -outline-offset-3 outline-ink",
  ".": "",
};

const STEPS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/** The part of a photo that the face fills, stretched under all of the grid. */
const under = (photo: string, [left, top, right, bottom]: readonly [number, number, number, number]) => {
  const [wide, high] = [right - left, bottom - top];
  const place = (from: number, size: number) => (size < 1 ? (100 * from) / (1 - size) : 0);
  return {
    backgroundImage: `url(${photo})`,
    backgroundSize: `${100 / wide}% ${100 / high}%`,
    backgroundPosition: `${place(left, wide)}% ${place(top, high)}%`,
  };
};

export function FaceGrid(props: Props) {
  const {
    label,
    columns,
    rows,
    cells,
    kinds,
    brush,
    aspect,
    width,
    photo,
    box = [0, 0, 1, 1],
    onPaint,
    onBrush,
  } = props;
  const grid = useRef<HTMLDivElement>(null);
  const paint = (i: number, kind: string) => {
    if (i >= 0 && i < cells.length && cells[i] !== kind) onPaint(i, kind);
  };
  const fieldAt = (x: number, y: number) => {
    const found = document.elementFromPoint(x, y)?.closest<HTMLElement>("[data-cell]");
    return found && grid.current?.contains(found) ? Number(found.dataset["cell"]) : -1;
  };
  const go = (i: number) => grid.current?.querySelector<HTMLElement>(`[data-cell="${i}"]`)?.focus();
  return (
    <div
      ref={grid}
      role="grid"
      aria-label={label}
      className="grid touch-none border border-strong-rule bg-sheet bg-cover select-none"
      style={{
        gridTemplateColumns: `repeat(${columns}, 1fr)`,
        width,
        height: width / aspect,
        ...(photo ? under(photo, box) : {}),
      }}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        paint(fieldAt(e.clientX, e.clientY), brush);
      }}
      onPointerMove={(e) => {
        if (e.buttons > 0) paint(fieldAt(e.clientX, e.clientY), brush);
      }}
    >
      {Array.from({ length: rows }, (_, y) => (
        <div key={y} role="row" className="contents">
          {Array.from({ length: columns }, (_, x) => {
            const i = y * columns + x;
            const kind = cells[i] ?? ".";
            return (
              <div
                key={x}
                role="gridcell"
                data-cell={i}
                tabIndex={i === 0 ? 0 : -1}
                aria-label={`Row ${y + 1}, column ${x + 1}: ${kinds[kind] ?? "not judged"}`}
                className={`flex items-center justify-center border border-rule/60 text-[0.65rem] leading-none
                  focus-visible:z-10 focus-visible:outline-3 ${photo && kind !== "." ? "opacity-70" : ""}
                  ${LOOKS[kind] ?? ""}`}
                onKeyDown={(e) => {
                  const step = STEPS[e.key];
                  const key = e.key.toLowerCase();
                  if (step) {
                    const [nx, ny] = [x + step[0], y + step[1]];
                    if (nx >= 0 && nx < columns && ny >= 0 && ny < rows) go(ny * columns + nx);
                  } else if (key in kinds || e.key === " " || e.key === "Delete") {
                    const with_ = e.key === "Delete" ? "." : key in kinds ? key : brush;
                    if (key in kinds) onBrush(key);
                    paint(i, with_);
                    go(Math.min(i + 1, columns * rows - 1));
                  } else return;
                  e.preventDefault();
                  e.stopPropagation();
                }}
              >
                {kind === "." ? "" : kind}
              </div>
            );
          })}
        </div>
      ))}
    </div>
  );
}
