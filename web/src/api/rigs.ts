/** Rigs: their set-ups, check weights, and what a foreign indicator sends. */
import { useQuery } from "@tanstack/react-query";
import { api, take, type Schemas } from "./client";

export const saveRig = (body: Schemas["RigIn"]) => take<"ShopView">(api.PUT("/api/rig", { body }));

export const takeUp = (setup_id: number) =>
  take<"ShopView">(api.POST("/api/rig/again/{setup_id}", { params: { path: { setup_id } } }));

export const tellCheck = (body: Schemas["CheckIn"]) => take<"Id">(api.POST("/api/rig/check", { body }));

export const tellInspected = (note: string) => take<"Id">(api.POST("/api/rig/inspected", { body: { note } }));

/** How the last lines of the rig would be read: asked again every second while one looks. */
export const usePreview = (body: Schemas["PreviewIn"], on: boolean) =>
  useQuery({
    queryKey: ["rig", "preview", body],
    enabled: on,
    refetchInterval: 1000,
    retry: false,
    queryFn: () => take<"Preview">(api.POST("/api/rig/preview", { body })),
  });
