/** A session at the rig: its checklist, weights hung one after another, tags, and which loading counts. */
import { useQuery } from "@tanstack/react-query";
import { api, take, type Schemas } from "./client";

const of = (batch_id: number, code: string) => ({ params: { path: { batch_id, code } } });

export const useWeights = (batch: number, code: string) =>
  useQuery({
    queryKey: ["batch", batch, "weights", code],
    queryFn: () => take<"WeightsView">(api.GET("/api/batches/{batch_id}/weights/{code}", of(batch, code))),
  });

export const hang = (batch: number, code: string, mass_g: number) =>
  take<"CodeIn">(
    api.POST("/api/batches/{batch_id}/weights/{code}", { ...of(batch, code), body: { mass_g } }),
  );

export const letCount = (batch: number, code: string, body: Schemas["CountsIn"]) =>
  take<"CodeIn">(api.POST("/api/batches/{batch_id}/loadings/{code}", { ...of(batch, code), body }));

export const tag = (batch_id: number, body: Schemas["TagIn"]) =>
  take<"CodeIn">(api.POST("/api/batches/{batch_id}/tags", { params: { path: { batch_id } }, body }));

export const tick = (batch_id: number, keys: string[]) =>
  take<"Id">(
    api.POST("/api/batches/{batch_id}/checklist", { params: { path: { batch_id } }, body: { keys } }),
  );

export const saveRack = (body: Schemas["RackIn"]) => take<"ShopView">(api.PUT("/api/rack", { body }));
