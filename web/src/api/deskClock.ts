/**
 * The clock of the desk, on every device. A tablet's own may be minutes off, and times of several devices are
 * subtracted from each other: open times, ages, what is due. Every answer says when it was made.
 */
const NAME = "adhaero.clock";
/** A device that is closer than this is right: the rest may be the way of the request. */
const CLOSE_MS = 1_000;

/** How much the desk is ahead of this device, ms; known from an earlier page until the first answer. */
let ahead = Number(localStorage.getItem(NAME)) || 0;
/** The best measure so far: it is right within half of the time that its request took. */
let best = { ahead, within: Infinity };

/** Take note of when an answer was made, by the desk, and when it was asked for and came, by this device. */
export function learnClock(made: string | null, sent: number, came: number): void {
  const desk = Date.parse(made ?? "");
  if (Number.isNaN(desk)) return;
  const measured = { ahead: desk - (sent + came) / 2, within: (came - sent) / 2 };
  const agrees = Math.abs(measured.ahead - best.ahead) <= measured.within + best.within;
  // A rougher measure says nothing new, unless one of the clocks was set meanwhile.
  if (agrees && measured.within >= best.within) return;
  best = measured;
  ahead = Math.abs(best.ahead) < CLOSE_MS ? 0 : Math.round(best.ahead);
  localStorage.setItem(NAME, String(ahead));
}

/** Now, by the desk's clock, ms. */
export const deskNow = (): number => Date.now() + ahead;

/** Now, by the desk's clock, as it is written down. */
export const deskStamp = (): string => new Date(deskNow()).toISOString();

/** Today's date, as a date field holds it. */
export const today = (): string =>
  new Date(deskNow() - new Date().getTimezoneOffset() * 60_000).toISOString().slice(0, 10);

/** How much the desk's clock is ahead of this device's, s; 0 where they agree. */
export const deskAhead = (): number => ahead / 1000;
