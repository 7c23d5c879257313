/** Photos: read by their subject, made small enough on this device, and sent as they are. */
import { useQuery } from "@tanstack/react-query";
import { api, take, type Schemas } from "./client";

export type Kind = "piece" | "board" | "bottle";
/** The longer edge of what is sent, in pixels: a crack is still seen, and a day of photos fits. */
const LONG_EDGE = 1600;

export const usePhotos = (kind: Kind, name: string, batch?: number) =>
  useQuery({
    queryKey: [...(batch === undefined ? ["shop"] : ["batch", batch]), "photos", kind, name],
    queryFn: async () => {
      const { data } = await api.GET("/api/photos", { params: { query: { kind, name } } });
      return data ?? [];
    },
  });

export const sendPhoto = async (body: {
  kind: Kind;
  name: string;
  caption: string;
  member: string;
  file: File;
}) => {
  const photo = await smaller(body.file);
  return take<"Id">(
    api.POST("/api/photos", {
      params: { query: { kind: body.kind, name: body.name, caption: body.caption, member: body.member } },
      body: photo as unknown as string,
      headers: { "Content-Type": photo.type || "application/octet-stream" },
      bodySerializer: (b) => b as unknown as Blob,
    }),
  );
};

export const takePhotoAway = (id: Schemas["Photo"]["id"]) =>
  take<"Id">(api.POST("/api/photos/{photo_id}/away", { params: { path: { photo_id: id } } }));

/** A picture no larger than it need be; what is none goes as it is, and the server says so. */
async function smaller(file: File): Promise<Blob> {
  const picture = await createImageBitmap(file).catch(() => null);
  if (!picture) return file;
  const scale = Math.min(1, LONG_EDGE / Math.max(picture.width, picture.height));
  if (scale === 1 && file.size < 500_000) return file;
  const canvas = document.createElement("canvas");
  canvas.width = Math.round(picture.width * scale);
  canvas.height = Math.round(picture.height * scale);
  canvas.getContext("2d")?.drawImage(picture, 0, 0, canvas.width, canvas.height);
  const made = await new Promise<Blob | null>((done) => canvas.toBlob(done, "image/jpeg", 0.85));
  return made ?? file;
}
