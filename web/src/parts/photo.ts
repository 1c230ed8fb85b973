// A photograph brought to a size the page can work on, without leaving the browser; and kept with what it is of.
import type { Editing } from "../api/edits";

const [LONGEST_PX, MOST_BYTES] = [2000, 60 * 2 ** 20];

export type Photo = { url: string; width: number; height: number };

function jpegOf({ url }: Photo): Blob {
  const bytes = Uint8Array.from(atob(url.slice(url.indexOf(",") + 1)), (c) => c.charCodeAt(0));
  return new Blob([bytes], { type: "image/jpeg" });
}

export async function readPhoto(file: File): Promise<Photo> {
  if (file.size > MOST_BYTES)
    throw new Error("This photograph is larger than 60 MB; save it smaller and choose it again.");
  let whole: ImageBitmap;
  try {
    whole = await createImageBitmap(file);
  } catch {
    throw new Error("This cannot be read as a photograph; choose a JPEG, PNG or WebP of at most 60 megapixels.");
  }
  const k = Math.min(1, LONGEST_PX / Math.max(whole.width, whole.height));
  const canvas = document.createElement("canvas");
  canvas.width = Math.round(whole.width * k);
  canvas.height = Math.round(whole.height * k);
  canvas.getContext("2d")?.drawImage(whole, 0, 0, canvas.width, canvas.height);
  whole.close();
  return { url: canvas.toDataURL("image/jpeg", 0.88), width: canvas.width, height: canvas.height };
}

// Kept through the queue like any edit: seen at once, sent when the server is reached.
export async function keepPhoto(
  edit: Pick<Editing, "picture" | "say">,
  file: File | undefined,
  about: Record<string, unknown>,
): Promise<void> {
  if (!file) return;
  try {
    await edit.picture(jpegOf(await readPhoto(file)), about);
  } catch (error) {
    edit.say(error);
  }
}
