/** Copies of the data. */
import { useQuery } from "@tanstack/react-query";
import { api, take } from "./client";

export const useCopies = () =>
  useQuery({ queryKey: ["shop", "copies"], queryFn: () => take<"CopiesView">(api.GET("/api/copies")) });

export const takeCopy = () => take<"CopiesView">(api.POST("/api/copies"));

export const putBack = (name: string) => take<"CopiesView">(api.POST("/api/copies/back", { body: { name } }));
