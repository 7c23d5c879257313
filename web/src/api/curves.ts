/** Curves that a logger left in a file: looked at, then taken as a pull. */
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
