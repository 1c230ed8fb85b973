// A waiting list as a file: any address of the server takes it in, and each of its edits counts once.
import { entryOf, type Entry } from "./entry";

const FORMAT = "sphagnum-waiting";
const MOST_BYTES = 60 * 2 ** 20;
type Written = Omit<Entry, "file"> & { file?: string | null };

const asText = (blob: Blob): Promise<string> =>
  new Promise((done, failed) => {
    const reader = new FileReader();
    reader.onload = () => done(String(reader.result));
    reader.onerror = () => failed(new Error("A picture could not be read."));
    reader.readAsDataURL(blob);
  });

export async function written(entries: readonly Entry[]): Promise<Blob> {
  const list = await Promise.all(
    entries.map(async (e): Promise<Written> => ({ ...e, file: e.file ? await asText(e.file) : null })),
  );
  return new Blob([JSON.stringify({ format: FORMAT, entries: list })], { type: "application/json" });
}

function picture(data: string): Blob {
  const bytes = Uint8Array.from(atob(data.slice(data.indexOf(",") + 1)), (c) => c.charCodeAt(0));
  return new Blob([bytes], { type: "image/jpeg" });
}

export async function readList(file: File): Promise<Entry[]> {
  const wrong = new Error("This is no waiting list: choose the file that was kept from one.");
  if (file.size > MOST_BYTES) throw wrong;
  try {
    const found = JSON.parse(await file.text()) as { format?: unknown; entries?: unknown };
    if (found.format !== FORMAT || !Array.isArray(found.entries)) throw wrong;
    return found.entries.map((e: unknown) => {
      const entry = entryOf(e);
      if (!entry) throw wrong;
      const drawn = (e as Written).file;
      return { ...entry, file: drawn ? picture(drawn) : null };
    });
  } catch {
    throw wrong;
  }
}
