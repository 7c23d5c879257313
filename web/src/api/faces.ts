/** Broken faces: their maps, the verdicts about them, and proposals from photos. */
import { useQuery } from "@tanstack/react-query";
import { api, take, type Schemas } from "./client";

const of = (batch_id: number, code: string) => ({ params: { path: { batch_id, code } } });

export const useFace = (batch: number, code: string, open: boolean) =>
  useQuery({
    queryKey: ["batch", batch, "face", code],
    enabled: open,
    queryFn: () => take<"FaceView">(api.GET("/api/batches/{batch_id}/faces/{code}", of(batch, code))),
  });

export const judgeFace = (batch: number, code: string, body: Schemas["JudgedIn"]) =>
  take<"CodeIn">(api.POST("/api/batches/{batch_id}/faces/{code}", { ...of(batch, code), body }));

export const proposeFace = (batch: number, code: string, body: Schemas["ProposalIn"]) =>
  take<"FaceMap">(api.POST("/api/batches/{batch_id}/faces/{code}/proposal", { ...of(batch, code), body }));
