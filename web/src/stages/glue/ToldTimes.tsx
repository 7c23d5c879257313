/** When a glue-up really was, for one that is written down afterwards. */
import type { Schemas } from "../../api/client";

export interface Times {
  begun: string;
  ended: string;
  off: string;
  each: Record<string, string>;
}
export const NOW: Times = { begun: "", ended: "", off: "", each: {} };

/** A time typed in a field, as the server takes it; empty is now, or not yet. */
export const stamp = (local: string) => (local ? new Date(local).toISOString() : null);

type Pieces = readonly Schemas["GluePiece"][];

/** The times that were told, as the server takes them; empty ones are now, or not yet. */
export function told(t: Times, pieces: Pieces) {
  const closed = pieces.flatMap((p) => {
    const at = stamp(t.each[p.code] ?? "");
    return at ? [[p.code, at] as const] : [];
  });
  return {
    started_at: stamp(t.begun),
    ended_at: stamp(t.ended),
    unclamped_at: stamp(t.off),
    closed_at: Object.fromEntries(closed),
  };
}

interface Props {
  times: Times;
  pieces: Pieces;
  /** Without a clamp there is none to come off. */
  isFree: boolean;
  onChange: (times: Times) => void;
}

export function ToldTimes({ times, pieces, isFree, onChange }: Props) {
  const field = (label: string, value: string, set: (value: string) => void) => (
    <input
      type="datetime-local"
      aria-label={label}
      className="written"
      value={value}
      onChange={(e) => set(e.target.value)}
    />
  );
  return (
    <details className="text-sm">
      <summary className="cursor-pointer text-faded">
        {times.begun ? "written down afterwards" : "it was earlier: tell when"}
      </summary>
      <p className="leading-9">
        The first was closed at{" "}
        {field("First closed at", times.begun, (begun) => onChange({ ...times, begun }))}, the last at{" "}
        {field("Last closed at", times.ended, (ended) => onChange({ ...times, ended }))} (the others evenly
        between)
        {!isFree && (
          <>
            ; the clamps came off at {field("Clamps off at", times.off, (off) => onChange({ ...times, off }))}
          </>
        )}
        .
      </p>
      {pieces.length > 0 && (
        <details>
          <summary className="cursor-pointer text-faded">each joint its own time</summary>
          <ul className="grid gap-x-6 sm:grid-cols-2">
            {pieces.map((p) => (
              <li key={p.code} className="flex items-baseline gap-2 leading-9">
                <span className="font-mono">{p.code}</span> closed at{" "}
                {field(`${p.code} closed at`, times.each[p.code] ?? "", (at) =>
                  onChange({ ...times, each: { ...times.each, [p.code]: at } }),
                )}
              </li>
            ))}
          </ul>
        </details>
      )}
    </details>
  );
}
