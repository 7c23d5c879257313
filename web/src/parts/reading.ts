/**
 * Quantities are read by the server: what is pressed while one is on its way there waits until it is
 * back, and is not done at all if that was refused.
 */
const reading = new Set<Promise<boolean>>();

/** Take note of a quantity being read; it ends as true when it was understood. */
export function isRead(work: Promise<boolean>): void {
  reading.add(work);
  void work.finally(() => reading.delete(work));
}

/** From now on every button and every form of the page waits. Once, before anything is drawn. */
export function waitForReading(page: Document): void {
  page.addEventListener("click", hold, { capture: true });
  page.addEventListener("submit", hold, { capture: true });
}

/** What was pressed and waits: pressed twice it is done once. */
const held = new Set<HTMLElement>();
/** So long a button may be out of use after it was pressed, while what was read is being saved. */
const PATIENCE_MS = 15_000;
/** The name of the event that tells the page of a press that could not be done; its detail is a sentence. */
export const LOST = "lost-press";

function hold(event: Event): void {
  if (!reading.size || !(event.target instanceof Element)) return;
  const pressed = event.target.closest<HTMLElement>(event.type === "submit" ? "form" : "button");
  if (!pressed) return;
  event.preventDefault();
  event.stopImmediatePropagation();
  if (held.has(pressed)) return;
  held.add(pressed);
  // Pressed again by the program, it finds the state that the quantities have left.
  const again = () => (pressed instanceof HTMLFormElement ? pressed.requestSubmit() : pressed.click());
  void Promise.all(reading).then((understood) => {
    held.delete(pressed);
    if (understood.every(Boolean)) setTimeout(() => whenAble(pressed, again));
  });
}

/** Do it as soon as the button can be pressed: what was read is often being saved first. */
function whenAble(pressed: HTMLElement, again: () => void, until = Date.now() + PATIENCE_MS): void {
  const able = pressed.isConnected && !(pressed instanceof HTMLButtonElement && pressed.disabled);
  if (able) return again();
  if (Date.now() < until && pressed.isConnected)
    return void setTimeout(() => whenAble(pressed, again, until), 50);
  const name = pressed.textContent.trim();
  const detail = `“${name}” was not done: it could not be pressed any more. Look, then try again.`;
  if (name) window.dispatchEvent(new CustomEvent(LOST, { detail }));
}
