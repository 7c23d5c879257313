/** A photo to measure in: two points of a known length give the scale, two more a length. */
import { useRef, useState } from "react";
import { useWrite, writes } from "../api/queries";
import { Button, ProblemNote } from "./controls";
import { QuantityField } from "./QuantityField";
import { useUnits } from "./units";

type Point = readonly [number, number];

interface Props {
  src: string;
  alt: string;
  /** The joint whose line is measured, if it is one. */
  joint?: { batch: number; code: string } | undefined;
}

const apart = (a: Point, b: Point) => Math.hypot(a[0] - b[0], a[1] - b[1]);

export function Measured({ src, alt, joint }: Props) {
  const units = useUnits();
  const image = useRef<HTMLImageElement>(null);
  const [points, setPoints] = useState<readonly Point[]>([]);
  const [known, setKnown] = useState<number | null>(1);
  const note = useWrite(
    (mm: number) =>
      writes.jointRecord(joint?.batch ?? 0, {
        kind: "line",
        codes: [joint?.code ?? ""],
        value: { mm: Math.round(1000 * mm) / 1000, how: "photo" },
        note: "",
        at: null,
      }),
    joint?.batch,
  );
  const [a, b, c, d] = points;
  const scale = a && b && known ? known / apart(a, b) : null;
  const length = scale && c && d ? scale * apart(c, d) : null;
  return (
    <div>
      <div className="relative inline-block">
        <button
          type="button"
          aria-label="Place a point of the measurement"
          className="block cursor-crosshair"
          onClick={(e) => {
            const shown = image.current;
            // Pressed by a key there is no place to take.
            if (!shown || e.detail === 0) return;
            const box = shown.getBoundingClientRect();
            const natural = shown.naturalWidth / box.width;
            const p = [(e.clientX - box.left) * natural, (e.clientY - box.top) * natural] as const;
            setPoints((old) => (old.length >= 4 ? [...old.slice(0, 2), p] : [...old, p]));
            note.reset();
          }}
        >
          <img ref={image} src={src} alt={alt} className="max-h-[70vh] max-w-full" />
        </button>
        <Lines points={points} image={image} />
      </div>
      <p className="leading-9">
        {points.length < 2 ? "Press on both ends of something whose length is known: it is " : "The bar is "}
        <QuantityField
          label="Length of the bar"
          dimension="length"
          className="w-20"
          needed
          value={known}
          onChange={setKnown}
        />
        {points.length >= 2 && points.length < 4 && "; press on both ends of what is to be measured."}
        {length !== null && (
          <>
            ; what was measured is <strong>{units.text(length, "length")}</strong>{" "}
            <span className="text-faded">
              ({length.toFixed(3)} mm, {((1000 * length) / 25.4).toFixed(1)} thousandths of an inch)
            </span>
            .{" "}
            {joint && (
              <Button disabled={note.isPending || note.isSuccess} onClick={() => note.mutate(length)}>
                {note.isSuccess ? "Noted" : "Note it as the thickness of the line"}
              </Button>
            )}
          </>
        )}{" "}
        {points.length > 0 && (
          <Button look="quiet" onClick={() => setPoints([])}>
            begin anew
          </Button>
        )}
      </p>
      <ProblemNote problem={note.error} />
    </div>
  );
}

function Lines({
  points,
  image,
}: {
  points: readonly Point[];
  image: React.RefObject<HTMLImageElement | null>;
}) {
  const [size, setSize] = useState<Point>([1, 1]);
  return (
    <svg
      ref={() => {
        const shown = image.current;
        if (shown && shown.naturalWidth !== size[0] && shown.naturalWidth > 0)
          setSize([shown.naturalWidth, shown.naturalHeight]);
      }}
      viewBox={`0 0 ${size[0]} ${size[1]}`}
      className="pointer-events-none absolute inset-0 size-full"
      aria-hidden
    >
      {points.map(([x, y], i) => (
        <circle key={i} cx={x} cy={y} r={size[0] / 120} className={i < 2 ? "fill-notice" : "fill-alarm"} />
      ))}
      {[points.slice(0, 2), points.slice(2, 4)].map(
        ([p, q], i) =>
          p &&
          q && (
            <line
              key={i}
              x1={p[0]}
              y1={p[1]}
              x2={q[0]}
              y2={q[1]}
              strokeWidth={size[0] / 300}
              className={i ? "stroke-alarm" : "stroke-notice"}
            />
          ),
      )}
    </svg>
  );
}
