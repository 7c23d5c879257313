/**
 * What was entered and is not yet with the desk: taps at the bench and typed readings, stored on this
 * device under the keys they were made with, sent in their order from whatever screen is open, each
 * counted once.
 */
import { useQueryClient, type QueryClient } from "@tanstack/react-query";
import { useEffect, useSyncExternalStore } from "react";
import { newKey, Problem, shopNow, type Schemas } from "../api/client";
import { deskStamp } from "../api/deskClock";
import { writes } from "../api/queries";

interface Bodies {
  tap: Schemas["TapIn"];
  reading: Schemas["ObservationIn"];
}
export type What = keyof Bodies;

export interface Entry<W extends What = What> {
  key: string;
  /** The shop that it was made for: never sent to another one at the same address. */
  shop: string;
  what: W;
  batch: number;
  body: Bodies[W];
}

const NAME = "adhaero waiting";
const RETRY_MS = 3_000;
/** Read again before an entry leaves the queue, so that nothing flickers: the screen that it changes. */
const SCREEN: Record<What, string> = { tap: "guide", reading: "break" };

let text = "";
let entries: readonly Entry[] = [];
const refused = new Map<string, Problem>();
const listeners = new Set<() => void>();
/** Called when there is something new to send; that a sending failed is no reason to send at once. */
const wakes = new Set<() => void>();
let round = 0;

/** The list as it is stored: another tab of this device may have changed it. */
function stored(): readonly Entry[] {
  const now = localStorage.getItem(NAME) ?? "[]";
  if (now !== text) {
    text = now;
    try {
      entries = JSON.parse(now) as Entry[];
    } catch {
      entries = [];
    }
  }
  return entries;
}

function change(how: (list: readonly Entry[]) => readonly Entry[]): void {
  localStorage.setItem(NAME, JSON.stringify(how(stored())));
  announce();
  wakes.forEach((wake) => wake());
}

function announce(): void {
  round += 1;
  listeners.forEach((listener) => listener());
}

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  window.addEventListener("storage", listener);
  return () => {
    listeners.delete(listener);
    window.removeEventListener("storage", listener);
  };
}

/** Store an entry; it is sent as soon as it can be. Returns its key. */
export function enter<W extends What>(what: W, batch: number, body: Bodies[W], key = newKey()): string {
  change((list) => [...list, { key, shop: shopNow(), what, batch, body }]);
  return key;
}

/**
 * Sent to the desk; where that does not answer, a typed load is stored on this device, with the time at
 * which it was typed, and sent later. What a rig recorded lies at the desk, and is judged when that is back.
 * Returns whether the desk has it.
 */
export async function entered(batch: number, body: Bodies["reading"]): Promise<boolean> {
  // Sent again under its key it must be the very same, its time too: the first may have arrived.
  const isTyped = body.source === "typed";
  const [key, own] = [newKey(), isTyped ? { ...body, at: body.at ?? deskStamp() } : body];
  try {
    await writes.observe(batch, own, key);
    return true;
  } catch (error) {
    if (!isTyped || !(error instanceof Problem) || error.status !== 0) throw error;
    enter("reading", batch, own, key);
    return false;
  }
}

export function drop(key: string): void {
  refused.delete(key);
  sending.delete(key);
  change((list) => list.filter((e) => e.key !== key));
}

/** What was refused is sent once more, as it is or as it was answered. */
export function again<W extends What>(entry: Entry<W>, body: Bodies[W] = entry.body): void {
  refused.delete(entry.key);
  // A changed entry is another: the desk refuses other contents under a key that it knows.
  change((list) => list.map((e) => (e.key === entry.key ? { ...e, body, key: newKey() } : e)));
}

const sending = new Set<string>();
let trouble = "";

async function send(entry: Entry, client: QueryClient): Promise<boolean> {
  sending.add(entry.key);
  try {
    if (entry.what === "tap") await writes.tap(entry.batch, entry.body as Bodies["tap"], entry.key);
    else await writes.observe(entry.batch, entry.body as Bodies["reading"], entry.key);
  } catch (error) {
    sending.delete(entry.key);
    const problem = error instanceof Problem ? error : new Problem(0, String(error));
    if ([400, 404, 409, 413, 422].includes(problem.status)) refused.set(entry.key, problem);
    // The desk answers and can't: that is said, and tried again.
    trouble = problem.status >= 500 ? problem.message : "";
    announce();
    return false;
  }
  trouble = "";
  await client.invalidateQueries({ queryKey: ["batch", entry.batch, SCREEN[entry.what]] });
  drop(entry.key);
  void client.invalidateQueries({ queryKey: ["batch", entry.batch] });
  void client.invalidateQueries({ queryKey: ["today"] });
  return true;
}

/** One after another within a batch; a batch in which something was refused waits, and holds up no other. */
async function sendAll(client: QueryClient): Promise<void> {
  const held = new Set<string>();
  for (;;) {
    const next = stored().find((e) => isOwn(e) && !held.has(`${e.what} ${e.batch}`));
    if (!next) return;
    if (sending.has(next.key) || refused.has(next.key) || !(await send(next, client)))
      held.add(`${next.what} ${next.batch}`);
  }
}

/** Send what waits, wherever the user is. Once, in the frame of all screens. */
export function useSending(): void {
  const client = useQueryClient();
  useEffect(() => {
    const go = () => void sendAll(client);
    const timer = setInterval(go, RETRY_MS);
    const soon = () => setTimeout(go, 0);
    wakes.add(soon);
    window.addEventListener("online", go);
    go();
    return () => {
      clearInterval(timer);
      wakes.delete(soon);
      window.removeEventListener("online", go);
    };
  }, [client]);
}

const isOwn = (entry: Entry) => entry.shop === shopNow();
const all = () => stored();
const turn = () => round;

export interface OnDevice {
  /** How many entries wait on this device. */
  count: number;
  /** Why the desk cannot take them now, if it says so. */
  trouble: string;
  /** The first that it refused: its screen asks what is to become of it. */
  asks: Entry | undefined;
}

export function useOnDevice(): OnDevice {
  useSyncExternalStore(subscribe, turn);
  const own = useSyncExternalStore(subscribe, all).filter(isOwn);
  return { count: own.length, trouble, asks: own.find((e) => refused.has(e.key)) };
}

export interface Waiting<W extends What> {
  /** Made here and not yet with the desk, oldest first. */
  waiting: readonly Entry<W>[];
  /** The first of them, if the desk refused it, and why. */
  refused: { entry: Entry<W>; problem: Problem } | null;
}

export function useEntries<W extends What>(what: W, batch: number): Waiting<W> {
  useSyncExternalStore(subscribe, turn);
  const list = useSyncExternalStore(subscribe, all);
  const waiting = list.filter((e): e is Entry<W> => isOwn(e) && e.what === what && e.batch === batch);
  const first = waiting[0];
  const problem = first && refused.get(first.key);
  return { waiting, refused: first && problem ? { entry: first, problem } : null };
}

/** Take back the last entry that is still here and not on its way; false if there is none. */
export function takeBack(waiting: readonly Entry[]): boolean {
  const last = waiting.at(-1);
  if (!last || sending.has(last.key)) return false;
  drop(last.key);
  return true;
}
