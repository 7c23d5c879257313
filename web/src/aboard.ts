/**
 * What a device carries along: the answers behind the bench and the break screens, so that they open and
 * go on without the desk. The shipped files are kept by the service worker, where the browser allows one.
 */
import { createAsyncStoragePersister } from "@tanstack/query-async-storage-persister";
import { QueryClient, type Query } from "@tanstack/react-query";
import type { PersistQueryClientOptions } from "@tanstack/react-query-persist-client";
import { clear, del, get, set } from "idb-keyval";

const WEEK_MS = 7 * 24 * 3600_000;

/** Added to a query whose answer is carried along. */
export const ABOARD = { gcTime: WEEK_MS, meta: { aboard: true } };

export const client = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 1_000,
      retry: (n, e) => n < 2 && (e as { status?: number }).status === 0,
      refetchOnWindowFocus: true,
      // The desk is asked, not the browser: a desk without a network still answers itself.
      networkMode: "always",
    },
    mutations: { networkMode: "always" },
  },
});

const persister = createAsyncStoragePersister({
  // Where the browser stores nothing, nothing is carried along, and all else goes on.
  storage: {
    getItem: (name: string) => get<string>(name).catch(() => undefined),
    setItem: (name: string, value: string) => set(name, value).catch(() => undefined),
    removeItem: (name: string) => del(name).catch(() => undefined),
  },
  key: "adhaero answers",
  throttleTime: 1_000,
});

export const carried: Omit<PersistQueryClientOptions, "queryClient"> = {
  persister,
  maxAge: WEEK_MS,
  // Named by its content: answers that another build kept are read anew.
  buster: import.meta.url,
  dehydrateOptions: {
    shouldDehydrateQuery: (query: Query) => query.meta?.["aboard"] === true && query.state.data !== undefined,
    shouldDehydrateMutation: () => false,
  },
};

/** What is on this page is of another shop: begin without it. */
export async function beginAnew(): Promise<void> {
  await forgetAll();
  location.reload();
}

/** Let go of all that was read, of another shop or before it was turned away; not of what was entered. */
export async function forgetAll(): Promise<void> {
  client.removeQueries({ predicate: (query) => query.queryKey[0] !== "door" });
  await clear().catch(() => undefined);
}
