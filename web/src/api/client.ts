/**
 * The one way to the server: typed by its own description, every refusal a Problem, every write safe to
 * send twice.
 */
import createClient from "openapi-fetch";
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

let person = "";
export function setPerson(name: string): void {
  person = name;
}

export const api = createClient<paths>({
  baseUrl: "/",
  fetch: async (request: Request) => {
    const headers = new Headers(request.headers);
    if (person) headers.set("Adhaero-Person", encodeURIComponent(person));
    if (request.method !== "GET" && !headers.has("Idempotency-Key"))
      headers.set("Idempotency-Key", crypto.randomUUID());
    return sendTwice(new Request(request, { headers }));
  },
});

/** A write whose answer got lost is sent once more; its key makes sure that it counts once. */
async function sendTwice(request: Request): Promise<Response> {
  const again = request.clone();
  try {
    return await fetch(request);
  } catch (error) {
    if (again.method === "GET" || !again.headers.has("Idempotency-Key")) throw offline(error);
    await new Promise((done) => setTimeout(done, 700));
    return fetch(again).catch((second) => {
      throw offline(second);
    });
  }
}

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
