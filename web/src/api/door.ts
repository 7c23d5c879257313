/** The door of the shop: whether this device may come in, and who else may. */
import { useQuery } from "@tanstack/react-query";
import { ABOARD, beginAnew } from "../aboard";
import { api, belongTo, take, type Schemas } from "./client";

export const useDoor = () =>
  useQuery({
    queryKey: ["door"],
    queryFn: async () => {
      const door = await take<"DoorView">(api.GET("/api/door"));
      if (belongTo(door.shop)) await beginAnew();
      return door;
    },
    ...ABOARD,
  });

export const pair = (body: Schemas["JoinIn"]) => take<"DoorView">(api.POST("/api/door", { body }));

/** Other devices come and go: while a code is open, the desk looks often. */
export const useNetwork = () =>
  useQuery({
    queryKey: ["shop", "network"],
    queryFn: () => take<"NetworkView">(api.GET("/api/network")),
    refetchInterval: (q) => (q.state.data?.code ? 2_000 : 20_000),
  });

export const openNetwork = (open: boolean) =>
  take<"NetworkView">(api.PUT("/api/network", { body: { open } }));
export const newCode = () => take<"NetworkView">(api.POST("/api/network/code"));
export const forgetDevice = (device_id: string) =>
  take<"NetworkView">(
    api.POST("/api/network/devices/{device_id}/forget", { params: { path: { device_id } } }),
  );
export const giveRight = (device_id: string, right: "bench" | "desk") =>
  take<"NetworkView">(
    api.POST("/api/network/devices/{device_id}/right", { params: { path: { device_id } }, body: { right } }),
  );
