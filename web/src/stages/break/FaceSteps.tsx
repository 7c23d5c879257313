/** Wood failure at a glance: five steps with their definitions and a drawing each, or a share typed. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Button } from "../../parts/controls";
import { QuantityField } from "../../parts/QuantityField";

type View = Schemas["FaceView"];

/** Five steps with a drawing of each, for those in a hurry. */
interface StepsProps {
  view: View;
  busy: boolean;
  onPick: (how: "steps" | "typed", pct: number) => void;
}

export function Steps({ view, busy, onPick }: StepsProps) {
  const [typed, setTyped] = useState<number | null>(null);
  return (
    <div
      className="grid grid-cols-[repeat(auto-fit,minmax(8rem,1fr))] gap-2"
      role="group"
      aria-label="In steps"
    >
      {Object.entries(view.steps).map(([pct, words]) => (
        <button
          key={pct}
          type="button"
          disabled={busy}
          className="sheet p-2 text-left leading-tight"
          onClick={() => onPick("steps", Number(pct))}
        >
          <Drawn pct={Number(pct)} />
          <strong>{pct} % wood</strong>
          <span className="block text-faded">{words}</span>
        </button>
      ))}
      <p className="leading-9">
        or{" "}
        <QuantityField
          label="Wood failure judged"
          dimension="share"
          className="w-16"
          placeholder="35 %"
          value={typed}
          onChange={setTyped}
        />{" "}
        wood{" "}
        <Button disabled={busy} onClick={() => typed !== null && onPick("typed", typed)}>
          Judge it so
        </Button>
      </p>
    </div>
  );
}

/** So many of 24 fields in wood, scattered as torn wood is: the same picture each time. */
const TORN = [7, 8, 13, 14, 2, 9, 19, 12, 3, 15, 20, 1, 18, 6, 10, 4, 21, 16, 0, 11, 22, 5, 17, 23];

function Drawn({ pct }: { pct: number }) {
  const torn = new Set(TORN.slice(0, Math.round((24 * pct) / 100)));
  return (
    <svg viewBox="0 0 60 40" className="mb-1 h-10 w-full border border-rule" aria-hidden>
      <rect width="60" height="40" className="fill-glue" opacity="0.5" />
      {[...torn].map((i) => {
        const [x, y] = [10 * (i % 6), 10 * Math.floor(i / 6)];
        return (
          <g key={i}>
            <rect x={x} y={y} width="10" height="10" className="fill-wood" />
            <path d={`M${x + 1} ${y + 3}h8M${x} ${y + 6}h9M${x + 2} ${y + 8}h7`} className="stroke-ink" />
          </g>
        );
      })}
    </svg>
  );
}
