/** The live signal of the rig: the state several times a second, and the recent points for the curve. */
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";

export type Live = Schemas["Live"];
const KEEP = 6000;

export interface Signal {
  live: Live | null;
  /** (s, N) in time order; the array is the same one all along, so that drawing it costs no copies. */
  points: React.RefObject<[number, number][]>;
  away: boolean;
}

export function useLive(): Signal {
  const [live, setLive] = useState<Live | null>(null);
  const [away, setAway] = useState(false);
  const points = useRef<[number, number][]>([]);
  useEffect(() => {
    const source = new EventSource("/api/rig/stream");
    source.onmessage = (event: MessageEvent<string>) => {
      const next = JSON.parse(event.data) as Live;
      const kept = points.current;
      for (const p of next.points as [number, number][]) kept.push(p);
      if (kept.length > KEEP) kept.splice(0, kept.length - KEEP);
      setLive(next);
      setAway(false);
    };
    source.onerror = () => setAway(true);
    return () => source.close();
  }, []);
  return { live, points, away };
}
