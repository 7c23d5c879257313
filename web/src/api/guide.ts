/** The bench: what is glued next, and how. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { ABOARD } from "../aboard";
import { api, take, type Schemas } from "./client";
import { OTHERS_MS } from "./queries";

interface Mix {
  bottle: string | null;
  air: number | null;
}

/** The bench; the glue's limits are those of the bottle and the air that are about to be used. */
export function useGuide(id: number, mix: Mix) {
  const client = useQueryClient();
  useQuery({
    queryKey: ["batch", id, "guide", mix],
    queryFn: () =>
      take<"Guide">(
        api.GET("/api/batches/{batch_id}/guide", {
          params: {
            path: { batch_id: id },
            query: {
              ...(mix.bottle === null ? {} : { bottle: mix.bottle }),
              ...(mix.air === null ? {} : { air_c: mix.air }),
            },
          },
        }),
      ),
    refetchInterval: OTHERS_MS,
    ...ABOARD,
  });
  // What was read last counts, for whatever bottle: another one changes the limits and not what was done, and
  // without the desk the bench goes on from there.
  const known = client.getQueryCache().findAll({ queryKey: ["batch", id, "guide"] });
  const read = known.filter((query) => query.state.data !== undefined);
  read.sort((a, b) => a.state.dataUpdatedAt - b.state.dataUpdatedAt);
  return read.at(-1)?.state.data as Schemas["Guide"] | undefined;
}
