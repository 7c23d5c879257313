import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { withSaved, type ShownView } from "./Stored";

/**
 * Go on to the next piece as soon as a reading is on record, and not once the whole queue was read again: a
 * key that is pressed meanwhile is meant for the next piece. Nothing follows where the piece left the screen
 * before its answer came.
 */
export function useGoOn(batch: number, onDone: (() => void) | undefined) {
  const client = useQueryClient();
  const here = useRef(true);
  useEffect(() => {
    here.current = true;
    return () => {
      here.current = false;
    };
  }, []);
  /** `kind` is of what is on record now; `null` where it is stored on this device. */
  return (code: string, kind: string | null) => {
    if (kind !== null)
      client.setQueriesData<ShownView>(
        { queryKey: ["batch", batch, "break"] },
        (view) => view && withSaved(view, code, kind),
      );
    if (here.current) onDone?.();
  };
}
