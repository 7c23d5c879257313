/** Paper: it takes all rows, and what stands behind a fold without which the page would say too little. */
import { useEffect, useState } from "react";
import { flushSync } from "react-dom";

/** Folds marked so are open on paper; of the others it has those that are open, and no dead lines. */
const OPENED = 'details[data-paper="open"]:not([open])';

export function openForPaper(): void {
  let opened: HTMLDetailsElement[] = [];
  window.addEventListener("beforeprint", () => {
    opened = [...document.querySelectorAll<HTMLDetailsElement>(OPENED)];
    opened.forEach((fold) => (fold.open = true));
  });
  window.addEventListener("afterprint", () => opened.forEach((fold) => (fold.open = false)));
}

/** Whether the page is being printed. */
export function usePrinting(): boolean {
  const [printing, setPrinting] = useState(false);
  useEffect(() => {
    const before = () => flushSync(() => setPrinting(true));
    const after = () => setPrinting(false);
    window.addEventListener("beforeprint", before);
    window.addEventListener("afterprint", after);
    return () => {
      window.removeEventListener("beforeprint", before);
      window.removeEventListener("afterprint", after);
    };
  }, []);
  return printing;
}
