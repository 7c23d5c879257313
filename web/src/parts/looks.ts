/** How this device looks: light, for a dark shop, for bright sun, or as its system has it; and how large. */
import { chosen } from "./useDevice";

export const LOOKS = [
  ["", "as the system has it"],
  ["light", "light"],
  ["dark", "for a dark shop"],
  ["sun", "for bright sun"],
] as const;
export const SIZES = [
  ["", "usual"],
  ["larger", "larger"],
  ["largest", "largest"],
] as const;

const DARK = window.matchMedia("(prefers-color-scheme: dark)");
const CONTRAST = window.matchMedia("(prefers-contrast: more)");

/** Put on what was chosen; the system's wish counts where nothing was. */
export function wear(): void {
  const own = chosen("look");
  const asked = DARK.matches ? "dark" : CONTRAST.matches ? "sun" : "light";
  document.documentElement.dataset.look = own || asked;
  document.documentElement.dataset.text = chosen("text");
  const paper = getComputedStyle(document.documentElement).getPropertyValue("--color-paper").trim();
  document.querySelector('meta[name="theme-color"]')?.setAttribute("content", paper);
}

/** The same at the start, and whenever the system's wish changes. */
export function dress(): void {
  wear();
  DARK.addEventListener("change", wear);
  CONTRAST.addEventListener("change", wear);
  window.addEventListener("storage", wear);
}
