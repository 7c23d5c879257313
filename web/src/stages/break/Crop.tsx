/** A face in its photo: only the part that it fills is judged. */
import { useState, type PointerEvent } from "react";
import { Button } from "../../parts/controls";
import { QuantityField } from "../../parts/QuantityField";

/** Where in its photo a face lies: left, top, right, bottom, as shares of the picture. */
export type Box = readonly [number, number, number, number];
export const WHOLE: Box = [0, 0, 1, 1];

interface CropProps {
  src: string;
  side: string;
  box: Box;
  onChange: (box: Box) => void;
}

/** The face is drawn out of its photo: by dragging across it, or by typing where its edges are. */
export function Crop({ src, side, box, onChange }: CropProps) {
  const [from, setFrom] = useState<readonly [number, number] | null>(null);
  const at = (e: PointerEvent<HTMLElement>): readonly [number, number] => {
    const b = e.currentTarget.getBoundingClientRect();
    const within = (v: number) => Math.min(1, Math.max(0, v));
    return [within((e.clientX - b.left) / b.width), within((e.clientY - b.top) / b.height)];
  };
  const edges = ["left", "top", "right", "bottom"] as const;
  return (
    <details>
      <summary className="cursor-pointer text-faded">Where in the photo the face lies</summary>
      <div
        className="relative inline-block touch-none cursor-crosshair"
        onPointerDown={(e) => {
          e.preventDefault();
          e.currentTarget.setPointerCapture(e.pointerId);
          setFrom(at(e));
        }}
        onPointerMove={(e) => {
          if (!from) return;
          const [x, y] = at(e);
          const [left, right] = [Math.min(from[0], x), Math.max(from[0], x)];
          const [top, bottom] = [Math.min(from[1], y), Math.max(from[1], y)];
          if (right - left > 0.02 && bottom - top > 0.02) onChange([left, top, right, bottom]);
        }}
        onPointerUp={() => setFrom(null)}
      >
        <img
          src={src}
          alt={`Face ${side} as it was taken`}
          className="block max-h-56 max-w-64"
          draggable={false}
        />
        <span
          className="pointer-events-none absolute border-2 border-alarm"
          style={{
            left: `${100 * box[0]}%`,
            top: `${100 * box[1]}%`,
            width: `${100 * (box[2] - box[0])}%`,
            height: `${100 * (box[3] - box[1])}%`,
          }}
        />
      </div>
      <p className="flex flex-wrap items-baseline gap-x-2">
        {edges.map((edge, i) => (
          <label key={edge}>
            {edge}{" "}
            <QuantityField
              label={`Face ${side}: ${edge} edge in its photo`}
              dimension="share"
              className="w-16"
              needed
              value={Math.round(100 * (box[i] ?? 0))}
              onChange={(v) => {
                const next = box.map((old, j) => (j === i && v !== null ? v / 100 : old)) as unknown as Box;
                if (next[0] < next[2] && next[1] < next[3]) onChange(next);
              }}
            />
          </label>
        ))}
        <Button look="quiet" onClick={() => onChange(WHOLE)}>
          the whole photo
        </Button>
      </p>
    </details>
  );
}
