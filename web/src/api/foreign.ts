/** A table of another shop: what it would become, and taking it in. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, take, type Schemas } from "./client";

export type Foreign = Schemas["ForeignIn"];

export const useForeign = (asked: Foreign) =>
  useQuery({
    queryKey: ["foreign", asked],
    enabled: asked.text.trim() !== "" && asked.method !== "",
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () => take<"TablePreview">(api.POST("/api/batches/import-table/preview", { body: asked })),
  });

export const takeForeign = (body: Foreign) =>
  take<"Imported">(api.POST("/api/batches/import-table", { body }));
