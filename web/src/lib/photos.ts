/** Pictures up to the server, before the entry that names them. */
import { api, inWords } from "../api/client";

/** The ids of the pictures, or why one was not taken. */
export async function sentPhotos(files: FileList | null | undefined): Promise<{ ids: string[]; refusal: string }> {
  const ids: string[] = [];
  for (const file of files ?? []) {
    const body = new FormData();
    body.append("file", file);
    const { data, error } = await api.POST("/api/photos", { body: body as never, bodySerializer: (b) => b as unknown as FormData });
    if (!data) return { ids, refusal: inWords(error) };
    ids.push(data.photo_id);
  }
  return { ids, refusal: "" };
}
