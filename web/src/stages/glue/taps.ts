/** Taps at the bench: each with its own time, stored on the device until the desk has it. */
import type { Problem, Schemas } from "../../api/client";
import { deskStamp } from "../../api/deskClock";
import { drop, enter, takeBack, useEntries, type Entry } from "../../parts/queue";
import { useReach } from "../../parts/Reached";

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

export interface Taps {
  /** Made here and not yet with the desk, oldest first. */
  waiting: readonly Entry<"tap">[];
  away: boolean;
  refused: Problem | null;
  make: (body: TapBody) => string;
  /** Take back the last tap that is still here; false if there is none. */
  takeBack: () => boolean;
  /** Leave out the tap that was refused, and go on with the next. */
  skip: () => void;
}

export function useTaps(batch: number): Taps {
  const { waiting, refused } = useEntries("tap", batch);
  const { away } = useReach();
  return {
    waiting,
    away,
    refused: refused?.problem ?? null,
    make: (body) => enter("tap", batch, { ...EMPTY, ...body, at: deskStamp() }),
    takeBack: () => takeBack(waiting),
    skip: () => refused && drop(refused.entry.key),
  };
}
