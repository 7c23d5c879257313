/** Choices that are kept on this device, not in the workshop: a tablet at the rig has others than a desk. */
import { useSyncExternalStore } from "react";

const listeners = new Set<() => void>();

const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};

/** What was chosen on this device; empty while nobody was asked. */
export const chosen = (key: string): string => localStorage.getItem(`adhaero.${key}`) ?? "";

/** A choice on this device, empty while nobody was asked. */
export function useChoice(key: string): [string, (next: string) => void] {
  const said = useSyncExternalStore(subscribe, () => chosen(key));
  return [
    said,
    (next) => {
      localStorage.setItem(`adhaero.${key}`, next);
      listeners.forEach((l) => l());
    },
  ];
}

/** True or false as it was said on this device, null while nobody was asked. */
export function useDevice(key: string): [boolean | null, (on: boolean) => void] {
  const [said, say] = useChoice(key);
  return [said === "" ? null : said === "on", (next) => say(next ? "on" : "off")];
}
