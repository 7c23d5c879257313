/** One piece in full, the doubt about it, and what counts as good enough. */
import { useQuery } from "@tanstack/react-query";
import { api, take, type Schemas } from "./client";

export const useStory = (batch_id: number, code: string) =>
  useQuery({
    queryKey: ["batch", batch_id, "story", code],
    enabled: code !== "",
    queryFn: () =>
      take<"Story">(
        api.GET("/api/batches/{batch_id}/story/{code}", { params: { path: { batch_id, code } } }),
      ),
  });

export const useBonds = (batch_id: number) =>
  useQuery({
    queryKey: ["batch", batch_id, "bonds"],
    queryFn: () =>
      take<"BondsView">(api.GET("/api/batches/{batch_id}/bonds", { params: { path: { batch_id } } })),
  });

export const doubt = (batch_id: number, body: Schemas["DoubtIn"]) =>
  take<"CodeIn">(api.POST("/api/batches/{batch_id}/doubts", { params: { path: { batch_id } }, body }));

export const rejudge = (batch_id: number, body: Schemas["RejudgeIn"]) =>
  take<"PlanView">(api.POST("/api/batches/{batch_id}/judging", { params: { path: { batch_id } }, body }));
