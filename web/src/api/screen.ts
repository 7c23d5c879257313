/** Who this page is among the screens at the rig: no two are offered the same piece. */
import { newKey } from "./client";

const NAME = "adhaero.screen";

/** This page, also after it was loaded anew. */
export function screenHere(): string {
  const known = sessionStorage.getItem(NAME);
  if (known) return known;
  const made = newKey();
  sessionStorage.setItem(NAME, made);
  return made;
}

let taken: { batch: number; code: string } | null = null;

/** Note the piece that was taken here out of turn, or begun; `null` where the offered one is shown. */
export function noteTaken(batch: number, code: string | null): void {
  taken = code === null ? null : { batch, code };
}

/** The piece that was taken here, of a batch. */
export const took = (batch: number): string => (taken?.batch === batch ? taken.code : "");
