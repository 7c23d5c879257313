/**
 * The live signal of the rig: the state several times a second, and the recent points for the curve. It
 * is asked for over and over instead of held open, so that any number of tabs share the few connections
 * that a browser allows.
 */
import { useEffect, useRef, useState } from "react";
import { api, take, type Schemas } from "../api/client";

export type Live = Schemas["Live"];
const KEEP = 6000;
const PERIOD_MS = 60;
const AWAY_MS = 1500;

export interface Signal {
  live: Live | null;
  /** (s, N) in time order; the array is the same one all along, so that drawing it costs no copies. */
  points: React.RefObject<[number, number][]>;
  away: boolean;
}

/** A tab that nobody looks at asks less often. */
const pause = (failed: boolean) => (failed ? AWAY_MS : document.hidden ? 20 * PERIOD_MS : PERIOD_MS);

export function useLive(): Signal {
  const [live, setLive] = useState<Live | null>(null);
  const [away, setAway] = useState(false);
  const points = useRef<[number, number][]>([]);
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    let over = false;
    const seen = { sequence: 0, connection: -1 };
    const ask = async () => {
      let failed = false;
      try {
        const query = { since: seen.sequence, connection: seen.connection };
        const next = await take<"Live">(api.GET("/api/rig/live", { params: { query } }));
        if (over) return;
        // Points of an earlier connection are of another time: they do not belong on the same curve.
        if (next.connection !== seen.connection) points.current.length = 0;
        for (const p of next.points as [number, number][]) points.current.push(p);
        if (points.current.length > KEEP) points.current.splice(0, points.current.length - KEEP);
        Object.assign(seen, { sequence: next.sequence, connection: next.connection });
        setLive(next);
      } catch {
        failed = true;
      }
      if (over) return;
      setAway(failed);
      timer = setTimeout(() => void ask(), pause(failed));
    };
    void ask();
    return () => {
      over = true;
      clearTimeout(timer);
    };
  }, []);
  return { live, points, away };
}
