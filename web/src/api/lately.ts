// Jobs opened lately are kept in this browser and open without a network: the newest answers, bounded in bytes, the oldest let go.
import { dehydrate, hydrate, type DehydratedState, type Query, type QueryClient } from "@tanstack/react-query";
import { pictureUrl, query, type Schemas } from "./client";
import { jobOf } from "./keys";
import { database, type Answered } from "./store";

const [MOST_BYTES, MOST_ONE, KEPT_MS, QUIET_MS] = [40 * 2 ** 20, 6 * 2 ** 20, 60 * 24 * 3600_000, 400];
const BOARD_PATHS = ["/api/jobs", "/api/shelf"];
const JOB_PATHS = ["", "/revision", "/listen", "/fit", "/cut", "/build", "/trace", "/prove"].map(
  (p) => `/api/jobs/{job_id}${p}`,
);

// One answer of each question: what was said of an earlier state of the job makes way.
const named = ({ queryKey: [, path, init] }: Query): string => {
  const asked = { ...((init ?? {}) as Record<string, unknown>) };
  delete asked["revision"];
  return `${String(path)} ${JSON.stringify(asked)}`;
};
const kept = ({ queryKey: [method, path], state }: Query): boolean =>
  method === "get" && state.data !== undefined && [...BOARD_PATHS, ...JOB_PATHS].includes(String(path));

async function keep(client: QueryClient, query: Query): Promise<void> {
  const state = dehydrate(client, { shouldDehydrateQuery: (q) => q === query, shouldDehydrateMutation: () => false });
  const data = JSON.stringify(state);
  if (data.length > MOST_ONE) return;
  const answer: Answered = {
    hash: named(query),
    key: query.queryKey,
    job: jobOf(query.queryKey) ?? 0,
    at: Date.now(),
    bytes: data.length,
    data,
  };
  const db = await database();
  const work = db.transaction("answers", "readwrite", { durability: "relaxed" });
  await work.store.put(answer);
  let bytes = 0;
  // from the newest back, until it is enough
  for (let at = await work.store.index("at").openCursor(null, "prev"); at; at = await at.continue()) {
    bytes += at.value.bytes;
    if (bytes > MOST_BYTES || Date.now() - at.value.at > KEPT_MS) await at.delete();
  }
  await work.done;
}

// Before anything is asked: what was kept of the board, the shelf and a job lies ready, and is asked for anew where it can be.
export async function recall(client: QueryClient): Promise<void> {
  for (const answer of await (await database()).getAll("answers"))
    try {
      const state = JSON.parse(answer.data) as DehydratedState;
      // shown at once, and asked for anew: whatever it says may have changed meanwhile
      for (const q of state.queries) q.state.isInvalidated = true;
      hydrate(client, state);
    } catch {
      // written by another version of the page: it is asked for anew
    }
}

export function remember(client: QueryClient): void {
  const timers = new Map<string, ReturnType<typeof setTimeout>>();
  client.getQueryCache().subscribe((event) => {
    if (event.type !== "updated" || event.action.type !== "success" || !kept(event.query)) return;
    const name = named(event.query);
    clearTimeout(timers.get(name));
    timers.set(
      name,
      setTimeout(() => {
        timers.delete(name);
        void keep(client, event.query).catch(() => undefined); // without room it is only not there later
      }, QUIET_MS),
    );
  });
}

const AHEAD_MS = 3000;
const HAND = ["keydown", "pointerdown", "pointermove", "wheel"] as const;
// What a phone needs of the job in hand, fetched once no hand has moved for a while, and when the page is left: order, sheets,
// readings, as they open, and its pictures. Where no worker opens the page without a network, nothing is taken along.
export function takeAlong(client: QueryClient, id: number, page: () => Schemas["JobPage"] | undefined): () => void {
  const take = async () => {
    const now = page();
    if (!now || !(await navigator.serviceWorker?.getRegistration())) return;
    const { rounds, surfaces, photos } = now.document;
    const asked = { fit: {}, cut: ids("surface_id", surfaces), listen: ids("round_id", rounds) };
    for (const [name, known] of Object.entries(asked))
      void client.prefetchQuery({
        ...query.queryOptions("get", `/api/jobs/{job_id}/${name}` as "/api/jobs/{job_id}/fit", {
          params: { path: { job_id: id }, query: known as never },
          revision: now.revision,
        }),
        staleTime: Infinity,
      });
    for (const p of photos ?? []) void fetch(pictureUrl(p.file)).catch(() => undefined); // the worker keeps them
  };
  const left = () => {
    if (document.visibilityState === "hidden") void take();
  };
  let timer: ReturnType<typeof setTimeout>;
  const rested = () => {
    over();
    void take();
  };
  const moved = () => {
    clearTimeout(timer);
    timer = setTimeout(rested, AHEAD_MS);
  };
  const over = () => {
    clearTimeout(timer);
    HAND.forEach((kind) => window.removeEventListener(kind, moved, true));
  };
  HAND.forEach((kind) => window.addEventListener(kind, moved, { capture: true, passive: true }));
  moved();
  document.addEventListener("visibilitychange", left);
  return () => {
    over();
    document.removeEventListener("visibilitychange", left);
  };
}

// A stage opens at the first of its rounds or surfaces.
const ids = (name: string, rows: readonly { id: number }[]): Record<string, number> =>
  rows[0] ? { [name]: rows[0].id } : {};
