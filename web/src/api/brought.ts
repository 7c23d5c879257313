/** Treatments of other studies beside a comparison. */
import { useQuery } from "@tanstack/react-query";
import { api, take } from "./client";

interface Asked {
  figure: string;
  /** As the comparison itself is looked at. */
  fallen_as_zero?: boolean;
  without: string[];
  strength: string;
  target: string;
  bring: string[];
  agreed: boolean;
  through: string;
}

export const useBrought = (id: number, asked: Asked, open: boolean) =>
  useQuery({
    queryKey: ["batch", id, "brought", asked],
    enabled: open,
    placeholderData: (old) => old,
    retry: false,
    queryFn: () =>
      take<"BroughtView">(
        api.GET("/api/batches/{batch_id}/brought", { params: { path: { batch_id: id }, query: asked } }),
      ),
  });
