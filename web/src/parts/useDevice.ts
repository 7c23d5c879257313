/** Choices that are kept on this device, not in the workshop: a tablet at the rig has others than a desk. */
import { useSyncExternalStore } from "react";

const listeners = new Set<() => void>();

const subscribe = (listener: () => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};

/** True or false as it was said on this device, null while nobody was asked. */
export function useDevice(key: string): [boolean | null, (on: boolean) => void] {
  const on = useSyncExternalStore(subscribe, () => {
    const said = localStorage.getItem(`adhaero.${key}`);
    return said === null ? null : said === "on";
  });
  return [
    on,
    (next) => {
      localStorage.setItem(`adhaero.${key}`, next ? "on" : "off");
      listeners.forEach((l) => l());
    },
  ];
}
