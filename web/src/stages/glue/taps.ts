/** Taps at the bench: kept on the device until the server has them, sent in order, each counted once. */
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { Problem, type Schemas } from "../../api/client";
import { writes } from "../../api/queries";

export interface Tap {
  key: string;
  body: Schemas["TapIn"];
}

/** What a tap is about; all that it does not state is empty. */
export type TapBody = Pick<Schemas["TapIn"], "kind"> & Partial<Omit<Schemas["TapIn"], "at">>;

const EMPTY = {
  codes: [] as string[],
  code: "",
  mix: "",
  text: "",
  ratio: "",
  air_c: null,
  humidity_pct: null,
  bottle: "",
  force_known: "unknown" as const,
  force_n: null,
};

const RETRY_MS = 3000;

const read = (name: string): Tap[] => {
  try {
    return JSON.parse(localStorage.getItem(name) ?? "[]") as Tap[];
  } catch {
    return [];
  }
};

export interface Taps {
  /** Made here and not yet with the server, oldest first. */
  waiting: readonly Tap[];
  away: boolean;
  refused: Problem | null;
  make: (body: TapBody) => string;
  /** Take back the last tap that is still here; false if there is none. */
  takeBack: () => boolean;
  /** Leave out the tap that was refused, and go on with the next. */
  skip: () => void;
}

export function useTaps(batch: number): Taps {
  const client = useQueryClient();
  const name = `adhaero taps ${batch}`;
  const [waiting, setWaiting] = useState<readonly Tap[]>(() => read(name));
  const [away, setAway] = useState(false);
  const [refused, setRefused] = useState<Problem | null>(null);
  const queue = useRef<Tap[]>([...waiting]);
  const sending = useRef(false);

  const keep = useCallback(() => {
    localStorage.setItem(name, JSON.stringify(queue.current));
    setWaiting([...queue.current]);
  }, [name]);

  const send = useCallback(async () => {
    if (sending.current) return;
    sending.current = true;
    try {
      while (queue.current[0]) {
        const first = queue.current[0];
        await writes.tap(batch, first.body, first.key);
        setAway(false);
        // What the server says is read before the tap leaves the queue, so that nothing flickers back.
        await client.invalidateQueries({ queryKey: ["batch", batch, "guide"] });
        queue.current = queue.current.filter((t) => t !== first);
        keep();
      }
      void client.invalidateQueries({ queryKey: ["batch", batch] });
      void client.invalidateQueries({ queryKey: ["today"] });
    } catch (error) {
      const problem = error instanceof Problem ? error : new Problem(0, String(error));
      if (problem.status >= 400 && problem.status < 500) setRefused(problem);
      else setAway(true);
    } finally {
      sending.current = false;
    }
  }, [batch, client, keep]);

  useEffect(() => {
    const first = setTimeout(() => void send(), 0);
    const timer = setInterval(() => {
      if (queue.current.length && !refused) void send();
    }, RETRY_MS);
    const back = () => void send();
    window.addEventListener("online", back);
    return () => {
      clearTimeout(first);
      clearInterval(timer);
      window.removeEventListener("online", back);
    };
  }, [send, refused]);

  const make = (body: TapBody) => {
    const tap: Tap = { key: crypto.randomUUID(), body: { ...EMPTY, ...body, at: new Date().toISOString() } };
    queue.current = [...queue.current, tap];
    keep();
    void send();
    return tap.key;
  };
  const takeBack = () => {
    if (queue.current.length < (sending.current ? 2 : 1)) return false;
    queue.current = queue.current.slice(0, -1);
    keep();
    return true;
  };
  const skip = () => {
    queue.current = queue.current.slice(1);
    setRefused(null);
    keep();
    void send();
  };
  return { waiting, away, refused, make, takeBack, skip };
}
