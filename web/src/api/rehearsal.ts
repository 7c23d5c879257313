/** Made-up runs of a plan. */
import { useQuery } from "@tanstack/react-query";
import { api, take } from "./client";

interface RehearsalQuery {
  /** The place of the question. */
  question: number;
  /** The level that is supposed to differ; empty for what the plan expects. */
  level: string;
  percent: number | null;
}

/** Made-up runs of a plan: worked out only while somebody looks at them. */
export const useRehearsal = (id: number, version: number, open: boolean, asked: RehearsalQuery) =>
  useQuery({
    queryKey: ["batch", id, "rehearsal", version, asked],
    queryFn: () =>
      take<"Rehearsal">(
        api.GET("/api/batches/{batch_id}/rehearsal", {
          params: {
            path: { batch_id: id },
            query: { question: asked.question, level: asked.level, percent: asked.percent },
          },
        }),
      ),
    enabled: open,
    staleTime: Infinity,
    retry: false,
    placeholderData: (old) => old,
  });
