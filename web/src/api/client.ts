/**
 * The one way to the server: typed by its own description, every refusal a Problem, every write safe to
 * send twice.
 */
import createClient from "openapi-fetch";
import { beginAnew } from "../aboard";
import { deskNow, learnClock } from "./deskClock";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];

export interface FieldProblem {
  field: string;
  message: string;
  remedy: string;
}

/** What the server refused, field by field; or that it could not be reached. */
export class Problem extends Error {
  readonly status: number;
  readonly errors: FieldProblem[];
  /** Only doubted: it can be saved all the same once its fields are sent back as confirmed. */
  readonly isDoubt: boolean;

  constructor(status: number, detail: string, errors: FieldProblem[] = [], type = "") {
    super(detail);
    this.status = status;
    this.errors = errors;
    this.isDoubt = type === "/problems/doubt";
  }

  /** The problem of one field, if it has one. */
  of(field: string): FieldProblem | undefined {
    return this.errors.find((e) => e.field === field || e.field.startsWith(`${field}.`));
  }
}

/** A key under which a write counts once. Made of plain random bytes: `randomUUID` asks for a secure page. */
export function newKey(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(16)), (b) => b.toString(16).padStart(2, "0")).join(
    "",
  );
}

const SHOP = "adhaero.shop";
let shop = localStorage.getItem(SHOP) ?? "";

/** The shop that this page belongs to: another program may answer at the same address one day. */
export const shopNow = (): string => shop;

/** Take note of the shop that answers; whether it is another one than before. */
export function belongTo(now: string): boolean {
  const isOther = shop !== "" && shop !== now;
  shop = now;
  localStorage.setItem(SHOP, now);
  return isOther;
}

let isMeeting = false;

/** Another shop is served here now: nothing of this page is of it, and it begins anew as that one's. */
async function meetOther(): Promise<void> {
  if (isMeeting) return;
  isMeeting = true;
  const door = (await (await fetch("/api/door")).json()) as Schemas["DoorView"];
  belongTo(door.shop);
  await beginAnew();
}

let person = "";
export function setPerson(name: string): void {
  person = name;
}

export const api = createClient<paths>({
  baseUrl: "/",
  fetch: async (request: Request) => {
    const headers = new Headers(request.headers);
    if (shop) headers.set("Adhaero-Shop", shop);
    if (person) headers.set("Adhaero-Person", encodeURIComponent(person));
    if (request.method !== "GET" && !headers.has("Idempotency-Key")) headers.set("Idempotency-Key", newKey());
    try {
      const answer = await sendTwice(new Request(request, { headers }));
      // Who was let in again begins with a new page: until then it is the door, whatever else is answered.
      tell({ away: false, ...(answer.status === 401 ? { shutOut: true } : {}) });
      if (answer.status === 421) void meetOther();
      return answer;
    } catch (error) {
      if (error instanceof Problem) tell({ away: true });
      throw error;
    }
  },
});

/** How the desk is reached: not at all, or not as a device that may come in. */
export interface Reach {
  away: boolean;
  /** Since when the desk no longer answers. */
  since: number;
  shutOut: boolean;
}

let reach: Reach = { away: false, since: 0, shutOut: false };
const listeners = new Set<() => void>();

function tell(change: Partial<Reach>): void {
  const next = { ...reach, ...change };
  if (next.away === reach.away && next.shutOut === reach.shutOut) return;
  reach = { ...next, since: next.away && !reach.away ? deskNow() : next.since };
  listeners.forEach((listener) => listener());
}

export const watchReach = {
  now: () => reach,
  subscribe(listener: () => void) {
    listeners.add(listener);
    return () => listeners.delete(listener);
  },
};

/**
 * What the bench and the rig ask for is answered at once or not at all: on a cable that was pulled a browser
 * would wait for minutes. What may take its time, an import or a comparison, has no limit.
 */
const QUICK = /\/(door|today|guide|break|taps|observations|live|quantities)$/;
const QUICK_MS = 6_000;

async function timed(request: Request, init?: RequestInit): Promise<Response> {
  const sent = Date.now();
  const answer = await fetch(request, init);
  learnClock(answer.headers.get("Adhaero-Now"), sent, Date.now());
  return answer;
}

function limited(request: Request): Promise<Response> {
  if (!QUICK.test(new URL(request.url).pathname)) return timed(request);
  const end = new AbortController();
  const overdue = new DOMException("no answer in time", "TimeoutError");
  const timer = setTimeout(() => end.abort(overdue), QUICK_MS);
  request.signal.addEventListener("abort", () => end.abort(request.signal.reason));
  return timed(request, { signal: end.signal }).finally(() => clearTimeout(timer));
}

/** A write whose answer got lost is sent once more; its key makes sure that it counts once. */
async function sendTwice(request: Request): Promise<Response> {
  const again = request.clone();
  try {
    return await limited(request);
  } catch (error) {
    if (isOverdue(error)) throw offline(error);
    if (again.method === "GET" || !again.headers.has("Idempotency-Key")) throw offline(error);
    await new Promise((done) => setTimeout(done, 700));
    return limited(again).catch((second) => {
      throw offline(second);
    });
  }
}

const isOverdue = (error: unknown) => error instanceof DOMException && error.name === "TimeoutError";

function offline(error: unknown): Error {
  if (error instanceof DOMException && error.name === "AbortError") return error;
  return new Problem(
    0,
    "Adhaero does not answer. Nothing was lost; see whether it still runs, then try again.",
  );
}

/** The data of an answer, as the named schema, or a thrown Problem. */
export async function take<Name extends keyof Schemas>(
  answer: Promise<{ data?: unknown; error?: unknown; response: Response }>,
): Promise<Schemas[Name]> {
  const { data, error, response } = await answer;
  if (data !== undefined && response.ok) return data as Schemas[Name];
  const body = error as { type?: string; detail?: string; errors?: FieldProblem[] } | undefined;
  throw new Problem(
    response.status,
    body?.detail ?? "The server could not do that. Nothing was changed.",
    body?.errors,
    body?.type,
  );
}
