// Reading a job: its document with the edits on their way laid over it, and the stages' views by revision.
import {
  keepPreviousData,
  useIsFetching,
  useQueries,
  useQuery,
  useQueryClient,
  type UseQueryResult,
} from "@tanstack/react-query";
import { useEffect, useMemo, useState, useSyncExternalStore } from "react";
import { api, ask, localPicture, query, Refused, type Schemas } from "./client";
import { isDue, TURNING_MS, useEdits } from "./edits";
import { earlier, jobKey, ofStages } from "./keys";
import { overlay, subject, type Step } from "./operations";
import { trier } from "./trier";
import { useListening } from "./news";
import type { Entry } from "./entry";
import type { paths } from "./schema";

type StageName = "listen" | "trace" | "build" | "cut" | "fit" | "prove";
type View<N extends StageName> =
  paths[`/api/jobs/{job_id}/${N}`]["get"]["responses"][200]["content"]["application/json"];

export const useShelf = () => query.useQuery("get", "/api/shelf", {}, { staleTime: 60_000 });

// A page of the board; while cards are renewed behind the page it is asked for again.
export const useJobs = (page: number, find = "") =>
  query.useQuery(
    "get",
    "/api/jobs",
    { params: { query: { page, find } } },
    {
      placeholderData: keepPreviousData,
      refetchInterval: (q) => (q.state.data?.jobs.some((j) => j.older) ? 1200 : false),
    },
  );

// Work behind the page: asked how far it is while it goes on; what it gave is then asked for anew.
export function useWork(id: number, keys: readonly string[]) {
  const client = useQueryClient();
  const asked = useQueries({
    queries: keys.map((key) => ({
      ...query.queryOptions("get", "/api/work/{work_id}", { params: { path: { work_id: key } } }),
      refetchInterval: (q: { state: { data?: Schemas["WorkState"] | undefined } }) =>
        q.state.data?.open === false ? false : 400,
      retry: false,
    })),
  });
  const told = asked
    .map((a) => `${a.data?.id ?? ""}${a.data?.found ? "r" : ""}${a.data?.open === false ? "x" : ""}`)
    .join();
  useEffect(() => {
    if (!told.replaceAll(",", "")) return;
    void client.invalidateQueries({ predicate: ofStages(id) });
    void client.invalidateQueries({ queryKey: jobKey(id) });
  }, [told, client, id]);
  return asked.flatMap((a) => (a.data?.open ? [a.data] : []));
}

// A picture on its way is seen as it lies here.
const pictured = (entry: Entry): Pick<Entry, "steps" | "temps"> =>
  entry.file
    ? {
        ...entry,
        steps: entry.steps.map((s) => ({ ...s, values: { ...s.values, file: localPicture(entry.file as Blob) } })),
      }
    : entry;

const FRESH_MS = 2000;
export const jobPage = (id: number) =>
  query.queryOptions("get", "/api/jobs/{job_id}", { params: { path: { job_id: id } } });

export function useJob(id: number) {
  const queue = useEdits();
  const client = useQueryClient();
  const job = useQuery({
    ...jobPage(id),
    staleTime: FRESH_MS, // asked for before it is drawn; whether it rose is asked all the time
    // an answer asked for earlier may come later: what is newer stays
    structuralSharing: (old, now) =>
      ((old as Schemas["JobPage"] | undefined)?.revision ?? 0) > (now as Schemas["JobPage"]).revision ? old : now,
    placeholderData: keepPreviousData,
  });
  const { version } = useQueueStatus();
  const page = job.data as Schemas["JobPage"] | undefined; // the reader of answers forgets the length of pairs
  // what others did is asked for by a number; the document comes only when it rose
  const shown = page?.revision;
  const revision = useQuery({
    ...query.queryOptions("get", "/api/jobs/{job_id}/revision", { params: { path: { job_id: id } } }),
    refetchInterval: useListening() ? QUIETLY_MS : OFTEN_MS,
    retry: false,
    // by how much it rose while a hand turns a number is nothing to draw anew for
    select: (d: Schemas["Revision"]) => ({ here: d.here, risen: shown !== undefined && d.revision > shown }),
  });
  const risen = revision.data?.risen ?? false;
  useEffect(() => {
    // it may have risen again while the document was on its way
    if (risen && !isDue(id)) void client.invalidateQueries({ queryKey: jobKey(id) });
  }, [shown, risen, client, id]);
  // an edit is let go of only once the document that holds it is shown, or it would flicker
  useEffect(() => {
    if (page) queue.forget(id, page.revision);
  }, [page, queue, id]);
  const data = useMemo(() => {
    const over = page && version >= 0 ? queue.over(id, page.revision).map(pictured) : [];
    return page && over.length ? { ...page, document: overlay(page.document, over) } : page;
  }, [page, version, queue, id]);
  return {
    isPending: job.isPending,
    error: job.error as Error | null,
    refetch: job.refetch,
    data,
    here: revision.data?.here ?? NOBODY,
    // what is shown may be what was kept in this browser
    reached: !job.error && !revision.error,
    // whether it is as the server has it now, or as good as can be had: what follows by itself waits for that
    settled: client.getQueryState(jobKey(id))?.isInvalidated === false || Boolean(job.error ?? revision.error),
  };
}

// Whether what is in sight is the job as the server has it: nothing on its way there, nothing on its way here. What is handed
// to a customer waits for it.
export function useAsSeen(id: number): boolean {
  const client = useQueryClient();
  const asking = useIsFetching({ queryKey: jobKey(id) });
  const { pending } = useQueueStatus();
  return pending === 0 && asking === 0 && client.getQueryState(jobKey(id))?.isInvalidated === false;
}

// How often the revision is asked for: while changes are told of, and where this browser does not hear them, ms.
const [QUIETLY_MS, OFTEN_MS] = [30_000, 1500];
const NOBODY: readonly Schemas["Somebody"][] = [];

export function useQueueStatus() {
  const queue = useEdits();
  const version = useSyncExternalStore(queue.subscribe, () => queue.status().version);
  return { ...queue.status(), version };
}

const TRIED = ["build", "trace"] as const;
const NONE: Step[] = [];
// What a hand has changed and not kept, if anything yet, and what it may change next.
export type Trying = { step: Step | null; next: readonly Step[] };

// What a stage would say after steps that are not kept; what it would say after the next of a hand that goes on is asked for
// meanwhile.
function usePreview<N extends StageName>(
  id: number,
  name: N,
  known: Record<string, unknown>,
  revision: number,
  steps: Step[],
  trying: Trying | null,
): View<N> | null {
  const stage = TRIED.find((t) => t === name);
  const [seen, setSeen] = useState<View<N> | null>(null);
  const [tries] = useState(() =>
    trier<{ job_id: number; body: Schemas["Trial"] }, View<N>>(async ({ job_id, body }) => {
      const got = await ask(api.POST("/api/jobs/{job_id}/preview", { params: { path: { job_id } }, body }));
      return got[body.stage] as unknown as View<N>;
    }, setSeen),
  );
  useEffect(() => {
    if (!stage) return;
    const blank = { surface_id: null, alternative_id: null, zone: "", condition_id: null };
    // of whichever version of a row: what is known of a hand stands when an edit of it was kept meanwhile
    const made = (of: Step[]) => ({
      job_id: id,
      body: { stage, ...blank, ...known, steps: of.map((s) => ({ ...s, version: 0 })) },
    });
    const now = trying?.step;
    const goesOn = now ? steps.includes(now) : !steps.length;
    const ahead = goesOn ? (trying?.next ?? []) : [];
    tries.want(
      steps.length ? made(steps) : null,
      ahead.map((one) => made(now ? steps.map((s) => (s === now ? one : s)) : [one])),
      String(revision),
    );
  });
  if (!steps.length && seen) setSeen(null);
  return seen;
}

// Whether a hand is at it, or was until a moment ago.
function useBusy(id: number, now: boolean): boolean {
  const [busy, setBusy] = useState(now);
  if (now && !busy) setBusy(true);
  useEffect(() => {
    if (now || !busy) return;
    const timer = setTimeout(() => setBusy(false), isDue(id) ? TURNING_MS : 150);
    return () => clearTimeout(timer);
  }, [id, now, busy]);
  return busy;
}

// A stage by the newest revision known, asked side by side with the document; while an edit of it is on its way, or a hand
// still drags (``trying``), what it would say after that.
export function useStage<N extends StageName>(
  id: number,
  name: N,
  revision: number,
  asked: Record<string, unknown> = {},
  trying: Trying | null = null,
) {
  const queue = useEdits();
  const { version, failing } = useQueueStatus();
  const newest = Math.max(revision, queue.newest(id));
  // a row that has no number yet is not known to the server
  const known = Object.fromEntries(Object.entries(asked).filter(([, v]) => typeof v !== "number" || v > 0));
  const tries = TRIED.some((t) => t === name);
  const steps = useMemo(() => {
    const all = version >= 0 && tries ? [...queue.untried(id), ...(trying?.step ? [trying.step] : [])] : NONE;
    const said = all.map(subject); // what is tried may be on its way already, or what a hand set before
    const once = all.filter((_, i) => said.lastIndexOf(said[i] ?? "") === i);
    return once.length ? once : NONE;
  }, [version, tries, queue, id, trying]);
  const seen = usePreview(id, name, known, newest, steps, trying);
  const busy = useBusy(id, steps.length > 0);
  const client = useQueryClient();
  const path = `/api/jobs/{job_id}/${name}` as const;
  const begun = client.getQueriesData({ predicate: ofStages(id, path) }).some(([, data]) => data !== undefined);
  const kept = useQuery({
    ...query.queryOptions("get", path as "/api/jobs/{job_id}/trace", {
      params: { path: { job_id: id }, query: known },
      revision: newest,
    }),
    // what was said of an earlier state stands until the newer is there: a stage never blanks
    placeholderData: (before) => before ?? earlier(client, id, path, known),
    staleTime: Infinity,
    enabled: !busy || failing || !begun, // what comes before the edits on their way is of no use
    // what is known stands while the server is not reached, and is asked for until it is
    retry: (n, error) => (begun || n < 2) && !(error instanceof Refused && error.status >= 400),
    retryDelay: (n) => Math.min(1000 * 2 ** n, 10_000),
  }) as unknown as UseQueryResult<View<N>, Error>;
  // what was tried stays in sight until what was kept is there
  const [last, setLast] = useState<View<N> | null>(null);
  if (seen && seen !== last) setLast(seen);
  const waiting = busy || kept.isPlaceholderData;
  if (!waiting && last) setLast(null);
  return waiting && last ? ({ ...kept, data: last } as typeof kept) : kept;
}
