/**
 * Quantities are read by the server: what is pressed while one is on its way there waits until it is
 * back.
 */
import type { SyntheticEvent } from "react";

const reading = new Set<Promise<boolean>>();

/** Take note of a quantity being read; it ends as true when it was understood. */
export function isRead(work: Promise<boolean>): void {
  reading.add(work);
  void work.finally(() => reading.delete(work));
}

/**
 * A handler for a form or a button that runs once every quantity is read, and not at all if one was
 * refused.
 */
export function whenRead<T extends HTMLElement>(act: () => void): (event: SyntheticEvent<T>) => void {
  return (event) => {
    event.preventDefault();
    const target: HTMLElement = event.currentTarget;
    if (!reading.size) {
      act();
      return;
    }
    // Pressed again by the program, it finds the state that the quantities have left.
    const again = () => (target instanceof HTMLFormElement ? target.requestSubmit() : target.click());
    void Promise.all(reading).then((understood) => understood.every(Boolean) && setTimeout(again));
  };
}
