/** The testing sheet: what is still to be broken, printed and typed back. */
import { useQuery } from "@tanstack/react-query";
import { api, take, type Schemas } from "./client";

const at = (batch_id: number) => ({ params: { path: { batch_id } } });

export const useTestingSheet = (batch: number) =>
  useQuery({
    queryKey: ["batch", batch, "testing-sheet"],
    queryFn: () => take<"TestingSheet">(api.GET("/api/batches/{batch_id}/testing-sheet", at(batch))),
  });

export const typeBack = (batch: number, body: Schemas["TestingSheetIn"]) =>
  take<"Done">(api.POST("/api/batches/{batch_id}/testing-sheet", { ...at(batch), body }));
