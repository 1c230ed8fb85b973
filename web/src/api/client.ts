// The one door to the server: typed by its OpenAPI document, every edit signed, every refusal a sentence.
import createClient from "openapi-fetch";
import createQueries from "openapi-react-query";
import { fresh, type Answer, type Entry } from "./entry";
import type { paths } from "./schema";
import type { Refusal } from "./types";

export type { Schemas } from "./types";

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

const signed = (): Record<string, string> => ({ "X-Author": author(), "X-Tab": tab() });
// An edit under a name of its own, so that it counts once however often it is sent.
export const signedEdit = (): Record<string, string> => ({ "X-Edit": fresh() });

export class Refused extends Error {
  constructor(
    readonly refusal: Refusal,
    readonly status: number,
  ) {
    super(sentence(refusal));
  }
}

function sentence(r: Refusal): string {
  const what = r.what.charAt(0).toUpperCase() + r.what.slice(1);
  const mend = r.mend ? `. ${r.mend.charAt(0).toUpperCase()}${r.mend.slice(1)}` : "";
  return `${what}${r.where ? ` (${r.where})` : ""}${mend}.`;
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

async function refused(response: Response): Promise<Refused> {
  const body = (await response.json().catch(() => undefined)) as Partial<Refusal> | undefined;
  const told = body?.what ? (body as Refusal) : { ...LOST, what: `the program answered ${response.status}` };
  return new Refused(told, response.status);
}

export const api = createClient<paths>({ baseUrl: "/", headers: signed() });

const clockKept = (): { ahead: number; heard: number } => {
  try {
    return JSON.parse(localStorage.getItem("clock") ?? "") as { ahead: number; heard: number };
  } catch {
    return { ahead: 0, heard: 0 };
  }
};
let clock = clockKept();
// The time as the server has it, ms: a device's own clock may be hours off. It is known without a network too.
export const serverNow = (): number => Date.now() + clock.ahead;
// How far this device's clock is behind the server's, ms, and how long ago it last heard the server, s.
export const clockBehind = (): number => clock.ahead;
export const heardAgo = (): number => (clock.heard ? Math.max(0, (Date.now() - clock.heard) / 1000) : 0);
const [KEPT_MS, TOLD_MS] = [30_000, 2000];
function heard(response: Response): void {
  const at = Date.parse(response.headers.get("Date") ?? "");
  if (!Number.isFinite(at)) return;
  // told in whole seconds: a clock that is right within them is left alone
  const ahead = Math.abs(at + 500 - Date.now()) > TOLD_MS ? at + 500 - Date.now() : 0;
  const known = Math.abs(ahead - clock.ahead) < TOLD_MS && Date.now() - clock.heard < KEPT_MS;
  clock = { ahead: Math.abs(ahead - clock.ahead) < TOLD_MS ? clock.ahead : ahead, heard: Date.now() };
  if (!known) localStorage.setItem("clock", JSON.stringify(clock));
}

api.use({
  onResponse: async ({ response }) => {
    heard(response);
    if (!response.ok) throw await refused(response.clone());
  },
  onError: () => new Refused(LOST, 0),
});
// The same door as queries of the page.
export const query = createQueries(api);

// The answer of a request; what was refused is thrown.
export async function ask<T>(call: Promise<{ data?: T }>): Promise<T> {
  return (await call).data as T;
}

async function send<T>(url: string, body: BodyInit, headers: Record<string, string>): Promise<T> {
  const response = await fetch(url, { method: "POST", body, headers }).catch(() => {
    throw new Refused(LOST, 0);
  });
  heard(response);
  if (!response.ok) throw await refused(response);
  return (await response.json().catch(() => {
    throw new Refused(LOST, 0);
  })) as T;
}

export function upload<T>(url: string, fields: Record<string, string | Blob>, ticket = ""): Promise<T> {
  const form = new FormData();
  for (const [name, value] of Object.entries(fields)) form.append(name, value);
  return send<T>(url, form, { ...signed(), ...(ticket ? { "X-Ticket": ticket } : {}) });
}

// Sends an edit of the queue under its own name.
export function deliver(entry: Entry): Promise<Answer> {
  const headers = {
    "X-Author": entry.author,
    "X-Tab": entry.tab,
    "X-Edit": entry.id,
    "X-Gesture": entry.gesture,
    ...(entry.seen == null ? {} : { "X-Seen": String(entry.seen) }),
  };
  if (entry.file) {
    const form = new FormData();
    for (const [name, value] of Object.entries(entry.steps[0]?.values ?? {}))
      if (value !== null && value !== undefined) form.append(name, String(value));
    form.append("file", entry.file, "photograph.jpg");
    return send<Answer>(entry.url, form, headers).then((answer) => {
      const kept = answer.rows[0]?.["file"];
      // it stays in sight as it is here: what is drawn on it does not jump
      if (typeof kept === "string" && entry.file) here.set(kept, localPicture(entry.file));
      return answer;
    });
  }
  const body = JSON.stringify(entry.steps.length ? { steps: entry.steps } : entry.body);
  return send<Answer>(entry.url, body, { "Content-Type": "application/json", ...headers });
}

// Where a picture is to be had: here, while it waits to be sent.
const local = new WeakMap<Blob, string>();
export function localPicture(file: Blob): string {
  const known = local.get(file) ?? URL.createObjectURL(file);
  local.set(file, known);
  return known;
}
const here = new Map<string, string>();
export const pictureUrl = (file: string): string =>
  file.startsWith("blob:") ? file : (here.get(file) ?? `/api/pictures/${file}`);
