/** Pictures on this device: made small at once, kept until the server has them, named by ids of their own till then. */
import { api, inWords, type Schemas } from "../api/client";
import { say } from "../words";

type Entry = Schemas["EntryIn"];
export type Picture = { id: string; blob: Blob };

/** What an id of this device begins with; the server's own are hashes. */
const HERE = "here:";
const MOST_PX = 1600;
const QUALITY = 0.9;
/** No, as the server puts it about the picture itself. */
const FINAL = [400, 403, 413, 422];

export const isHere = (id: string): boolean => id.startsWith(HERE);

/** A picture of the camera as it is kept: upright, at most 1600 pixels long, nothing in it but its pixels. */
export async function madeSmall(file: Blob): Promise<Picture | null> {
  try {
    const bitmap = await createImageBitmap(file);
    const scale = Math.min(1, MOST_PX / Math.max(bitmap.width, bitmap.height));
    const canvas = document.createElement("canvas");
    canvas.width = Math.max(1, Math.round(bitmap.width * scale));
    canvas.height = Math.max(1, Math.round(bitmap.height * scale));
    const pen = canvas.getContext("2d")!;
    pen.fillStyle = "#fff"; // what is clear in it would turn black
    pen.fillRect(0, 0, canvas.width, canvas.height);
    pen.drawImage(bitmap, 0, 0, canvas.width, canvas.height);
    bitmap.close();
    const blob = await new Promise<Blob | null>((done) => canvas.toBlob(done, "image/jpeg", QUALITY));
    return blob && { id: HERE + crypto.randomUUID(), blob };
  } catch {
    return null;
  }
}

/** The pictures of this device that an entry names. */
export function picturesOf(entry: Entry): string[] {
  const named = [...((entry.body.photo_ids as string[] | undefined) ?? []), entry.body.photo_id];
  return named.filter((id): id is string => typeof id === "string" && isHere(id));
}

/** The entry with the names the server gave its pictures. */
export function withIds(entry: Entry, ids: Record<string, string>): Entry {
  const named = (id: unknown): unknown => (typeof id === "string" ? (ids[id] ?? id) : id);
  const body = { ...entry.body };
  if (Array.isArray(body.photo_ids)) body.photo_ids = body.photo_ids.map(named);
  if (body.photo_id) body.photo_id = named(body.photo_id);
  return { ...entry, body };
}

/** Up to the server; sent twice it is stored once, as it is named by its content. */
export async function upload(picture: Picture): Promise<{ id: string } | { why: string } | { silent: true }> {
  const form = new FormData();
  form.append("file", picture.blob, `${picture.id.slice(HERE.length)}.jpg`);
  const { data, error, response } = await api.POST("/api/photos", {
    body: form as never,
    bodySerializer: (b) => b as unknown as FormData,
  });
  if (data) return { id: data.photo_id };
  return FINAL.includes(response.status) ? { why: inWords(error) } : { silent: true };
}

/** Files of a form as pictures to keep, or why one is none. */
export async function picturesFrom(files: FileList | null | undefined): Promise<{ pictures: Picture[]; refusal: string }> {
  const pictures: Picture[] = [];
  for (const file of files ?? []) {
    const picture = await madeSmall(file);
    if (!picture) return { pictures, refusal: say.photos.notAPicture(file.name) };
    pictures.push(picture);
  }
  return { pictures, refusal: "" };
}
