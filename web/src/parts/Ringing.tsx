/** What became due a moment ago, on every screen: named by its pieces, ringing until somebody heard it. */
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { Button } from "./controls";
import { useNow } from "./useNow";
import { useBeep, useSound } from "./useSound";

type Due = Schemas["DueView"];
/** How long after its time something rings; what is older stands under Today. */
const RINGS_MS = 5 * 60_000;
const keyOf = (d: Due) => `${d.batch_id} ${d.what} ${d.at}`;

export function Ringing({ due }: { due: readonly Due[] }) {
  const now = useNow(1000);
  const [heard, setHeard] = useState<readonly string[]>([]);
  const [loud, setLoud] = useSound();
  const past = (d: Due) => now - new Date(d.at).getTime();
  const rings = due.filter((d) => past(d) >= 0 && past(d) < RINGS_MS && !heard.includes(keyOf(d)));
  useBeep(loud === true && rings.length > 0);
  if (!rings.length) return null;
  return (
    <div
      role="alert"
      className="no-print sticky top-0 z-30 border-b-2 border-notice bg-notice-pale px-4 py-2 sm:px-6"
    >
      <div className="mx-auto flex max-w-7xl flex-wrap items-center gap-x-4 gap-y-1">
        <ul className="min-w-0 basis-full sm:flex-1 sm:basis-0">
          {rings.map((d) => (
            <li key={keyOf(d)}>
              <Link to={`/batch/${d.batch_id}/${d.stage}`} className="hover:underline">
                <strong>{d.what}</strong>: <span className="font-mono">{d.codes.join(", ")}</span>
                {d.pieces > d.codes.length && ` and ${d.pieces - d.codes.length} more`} of {d.batch}
              </Link>
            </li>
          ))}
        </ul>
        {loud === null && (
          <span className="text-sm">
            Ring at such times?{" "}
            <Button look="quiet" onClick={() => setLoud(true)}>
              yes
            </Button>{" "}
            <Button look="quiet" onClick={() => setLoud(false)}>
              no
            </Button>
          </span>
        )}
        <Button onClick={() => setHeard([...heard, ...rings.map(keyOf)])}>Heard</Button>
      </div>
    </div>
  );
}
