// What others do is heard as it happens: one window of a browser listens to the server and tells the others.
import { useSyncExternalStore } from "react";
import type { QueryClient } from "@tanstack/react-query";
import { author } from "./client";
import type { Queue } from "./queue";

const LOCK = "sphagnum listens";
const [AGAIN_MS, HEARD_MS] = [30_000, 75_000];
const listeners = new Set<() => void>();
let heardAt = 0;
let listening = false;

function hear(now: boolean): void {
  if (now) heardAt = Date.now();
  const next = Date.now() - heardAt < HEARD_MS;
  if (next === listening) return;
  listening = next;
  listeners.forEach((l) => l());
}

// Whether this browser is told of changes; else it asks for them now and then.
export const useListening = (): boolean =>
  useSyncExternalStore(
    (told) => {
      listeners.add(told);
      return () => listeners.delete(told);
    },
    () => listening,
  );

type News = { jobs?: number[]; all?: boolean; full?: boolean };

// Opens the one stream of this browser, once its window has the lock, and asks anew for what others changed.
export function listenIn(client: QueryClient, queue: Queue): void {
  queue.onNews((jobs) => {
    hear(true);
    if (jobs?.length === 0) return;
    void client.invalidateQueries({
      predicate: ({ queryKey: [, path, init] }) =>
        path === "/api/jobs/{job_id}/revision" &&
        (jobs === null || jobs.includes((init as { params: { path: { job_id: number } } }).params.path.job_id)),
    });
  });
  setInterval(() => hear(false), HEARD_MS / 3);
  const open = () =>
    new Promise<void>((over) => {
      const stream = new EventSource(`/api/stream?of=${author()}`);
      stream.onmessage = (e: MessageEvent<string>) => {
        const news = JSON.parse(e.data) as News;
        if (news.full) return end();
        queue.news(news.all ? null : (news.jobs ?? []));
      };
      const end = () => {
        stream.close();
        setTimeout(over, AGAIN_MS);
      };
      // one that ended is taken up by itself; one that was refused is tried again later
      stream.onerror = () => stream.readyState === EventSource.CLOSED && end();
    });
  const forever = async () => {
    for (;;) await open();
  };
  if ("locks" in navigator) void navigator.locks.request(LOCK, forever);
}
