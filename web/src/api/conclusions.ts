/** What is concluded, and what is said of sentences of the page. */
import { api, take, type Schemas } from "./client";

const of = (batch_id: number) => ({ params: { path: { batch_id } } });

export const conclude = (batch: number, body: Schemas["ConclusionIn"]) =>
  take<"Id">(api.POST("/api/batches/{batch_id}/conclusions", { ...of(batch), body }));

export const takeBack = (batch_id: number, conclusion: number) =>
  take<"Id">(
    api.POST("/api/batches/{batch_id}/conclusions/{conclusion}/gone", {
      params: { path: { batch_id, conclusion } },
    }),
  );

export const comment = (batch: number, body: Schemas["CommentIn"]) =>
  take<"Id">(api.POST("/api/batches/{batch_id}/comments", { ...of(batch), body }));
