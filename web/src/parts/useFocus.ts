/**
 * Puts the focus on the one thing to do next, when it can be done; never takes it from a field that
 * somebody is using.
 */
import { useEffect, useRef } from "react";

export function useFocus<E extends HTMLElement>(ready: boolean) {
  const target = useRef<E>(null);
  useEffect(() => {
    const now = document.activeElement;
    const free =
      !now ||
      now === document.body ||
      now.id === "main" ||
      !now.isConnected ||
      (now instanceof HTMLButtonElement && now.disabled);
    if (ready && free) target.current?.focus({ preventScroll: true });
  }, [ready]);
  return target;
}
