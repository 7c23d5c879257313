/** A specimen's own facts, as the joint glyph draws them. */
import type { Schemas } from "../api/client";

export function facesOf(
  catalogue: Schemas["CatalogueView"] | undefined,
  orientation: string,
): { faces: readonly [string, string]; angle: number } {
  const found = catalogue?.faces[orientation] as [string, string, number] | undefined;
  return found ? { faces: [found[0], found[1]], angle: found[2] } : { faces: ["long", "long"], angle: 0 };
}

/** tabIndex of a part that scrolls: it must take the focus, so that the keyboard can scroll it. */
export const SCROLLS = 0;
