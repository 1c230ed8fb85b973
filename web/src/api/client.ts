// The one door to the server: typed by its OpenAPI document, every edit signed, every refusal a sentence.
import createClient from "openapi-fetch";
import type { Answer, Entry } from "./queue";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Refusal = Schemas["Refusal"];
export type Doc = Schemas["JobDocument"];

const fresh = (): string =>
  Array.from(crypto.getRandomValues(new Uint8Array(12)), (b) => b.toString(16).padStart(2, "0")).join("");
function kept(storage: Storage, name: string): string {
  const found = storage.getItem(name);
  if (found) return found;
  const made = fresh();
  storage.setItem(name, made);
  return made;
}
// A browser is an author, whose edits it can undo; each of its windows sees and sends for itself.
export const author = (): string => kept(localStorage, "author");
export const tab = (): string => kept(sessionStorage, "tab");
// What an item of a list is known by.
export const itemId = (): string => fresh().slice(0, 10);

export const api = createClient<paths>({ baseUrl: "/", headers: { "X-Author": author(), "X-Tab": tab() } });

export class Refused extends Error {
  constructor(
    readonly refusal: Refusal,
    readonly status: number,
  ) {
    super(sentence(refusal));
  }
}

export function sentence(r: Refusal): string {
  const what = r.what.charAt(0).toUpperCase() + r.what.slice(1);
  return `${what}${r.where ? ` (${r.where})` : ""}${r.mend ? `. ${r.mend.charAt(0).toUpperCase()}${r.mend.slice(1)}` : ""}.`;
}

const LOST: Refusal = {
  what: "the program does not answer",
  where: "",
  mend: "check that it is running, then try again",
  stored: null,
  sent: null,
  step: null,
  forcible: null,
};

export async function ask<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let result;
  try {
    result = await call;
  } catch {
    throw new Refused(LOST, 0);
  }
  if (result.data === undefined) {
    const body = result.error as Partial<Refusal> | undefined;
    throw new Refused(
      body?.what ? (body as Refusal) : { ...LOST, what: `the program answered ${result.response.status}` },
      result.response.status,
    );
  }
  return result.data;
}

export async function upload<T>(url: string, fields: Record<string, string | Blob>): Promise<T> {
  const form = new FormData();
  for (const [name, value] of Object.entries(fields)) form.append(name, value);
  return ask<T>(
    fetch(url, { method: "POST", body: form, headers: { "X-Author": author(), "X-Tab": tab() } }).then(
      async (response) => {
        const body: unknown = await response.json().catch(() => undefined);
        return response.ok ? { data: body as T, response } : { error: body, response };
      },
    ),
  );
}

// Sends an edit of the queue under its own name.
export function deliver(entry: Entry): Promise<Answer> {
  const headers = {
    "Content-Type": "application/json",
    "X-Author": entry.author,
    "X-Tab": entry.tab,
    "X-Edit": entry.id,
    "X-Gesture": entry.gesture,
    ...(entry.seen == null ? {} : { "X-Seen": String(entry.seen) }),
  };
  const body = JSON.stringify(entry.steps.length ? { steps: entry.steps } : entry.body);
  return ask<Answer>(
    fetch(entry.url, { method: "POST", body, headers }).then(async (response) => {
      const got: unknown = await response.json().catch(() => undefined);
      return response.ok ? { data: got as Answer, response } : { error: got, response };
    }),
  );
}
