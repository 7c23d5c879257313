/** Curves: of a pull, with marks to move; and those that a logger left in a file. */
import { useQuery } from "@tanstack/react-query";
import { api, take, type Schemas } from "./client";

const asText = (body: string) => ({
  body,
  headers: { "Content-Type": "text/csv" },
  bodySerializer: (b: string | undefined) => b ?? "",
});

export const useCurveLook = (file: string, text: string, columns: Schemas["Columns"] | null) =>
  useQuery({
    queryKey: ["curve look", file, text.length, columns],
    enabled: text !== "",
    retry: false,
    queryFn: () =>
      take<"CurveLook">(api.POST("/api/curves/look", { params: { query: columns ?? {} }, ...asText(text) })),
  });

export const takeCurve = (body: { code: string; text: string; columns: Schemas["Columns"] }) =>
  take<"Id">(
    api.POST("/api/curves", {
      params: { query: { code: body.code, ...body.columns } },
      ...asText(body.text),
    }),
  );

export const useCurve = (batch: number, pull: number | null) =>
  useQuery({
    queryKey: ["batch", batch, "pull", pull],
    enabled: pull !== null,
    queryFn: () =>
      take<"Curve">(api.GET("/api/pulls/{pull_id}", { params: { path: { pull_id: pull ?? 0 } } })),
  });

export const moveMark = (pull_id: number, mark: string, s: number) =>
  take<"CodeIn">(
    api.POST("/api/pulls/{pull_id}/marks", {
      params: { path: { pull_id } },
      body: { marks: { [mark]: s } },
    }),
  );
