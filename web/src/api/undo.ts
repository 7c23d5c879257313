/** Undo and redo: what would be taken back, and taking it back. */
import { useQuery, useQueryClient, type QueryClient, type QueryKey } from "@tanstack/react-query";
import { api, take, type Schemas } from "./client";
import { at, useWrite, type Stage } from "./queries";

type View = Schemas["UndoView"];
type Way = "undo" | "redo";

/** What was done in a stage of a batch, last thing first. */
export function useUndo(batch: number, stage: Stage) {
  const ways = {
    undo: (seen: number | null) =>
      take<"UndoView">(api.POST("/api/batches/{batch_id}/undo", { ...at(batch), body: { stage, seen } })),
    redo: (seen: number | null) =>
      take<"UndoView">(api.POST("/api/batches/{batch_id}/redo", { ...at(batch), body: { stage, seen } })),
  };
  const read = () =>
    take<"UndoView">(
      api.GET("/api/batches/{batch_id}/undo/{stage}", { params: { path: { batch_id: batch, stage } } }),
    );
  return useActs(["batch", batch, "undo", stage], read, ways, batch);
}

/** The same for what belongs to no batch: settings, rig, hours, bottles, boards; or studies taken in. */
export function useShopUndo(of: "shop" | "imports") {
  const params = { query: { of } };
  const ways = {
    undo: (seen: number | null) => take<"UndoView">(api.POST("/api/shop/undo", { params, body: { seen } })),
    redo: (seen: number | null) => take<"UndoView">(api.POST("/api/shop/redo", { params, body: { seen } })),
  };
  return useActs(["shop", "undo", of], () => take<"UndoView">(api.GET("/api/shop/undo", { params })), ways);
}

/** What is seen as the last thing goes along: another device may have done something since. */
function useActs(
  queryKey: QueryKey,
  queryFn: () => Promise<View>,
  ways: Record<Way, (seen: number | null) => Promise<View>>,
  batch?: number,
) {
  const client = useQueryClient();
  const { data } = useQuery({ queryKey, queryFn });
  const act = async (way: Way) => {
    await otherWrites(client);
    return ways[way](client.getQueryData<View>(queryKey)?.[`${way}_id`] ?? null);
  };
  return {
    data,
    undo: useWrite(() => act("undo"), batch, UNDOING),
    redo: useWrite(() => act("redo"), batch, UNDOING),
  };
}

const UNDOING = ["undoing"];

/**
 * Once what is being written is written and read again. The hand is quicker than the wire: who presses
 * undo right after an act means that act, not the one before it.
 */
function otherWrites(client: QueryClient): Promise<void> {
  const none = () =>
    client.isMutating({ predicate: (write) => write.options.mutationKey?.[0] !== UNDOING[0] }) === 0;
  return new Promise((resolve) => {
    if (none()) return resolve();
    const leave = client.getMutationCache().subscribe(() => {
      if (!none()) return;
      leave();
      resolve();
    });
  });
}
