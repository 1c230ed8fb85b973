// Reading a job: its document with the edits on their way laid over it, and the stages' views by revision.
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState, useSyncExternalStore } from "react";
import { api, ask, type Schemas } from "./client";
import { overlay } from "./operations";
import { useEdits } from "./edits";
import type { paths } from "./schema";

type StageName = "listen" | "trace" | "build" | "cut" | "fit" | "prove";
type View<N extends StageName> = paths[`/api/jobs/{job_id}/${N}`]["get"]["responses"][200]["content"]["application/json"];

export const useShelf = () =>
  useQuery({ queryKey: ["shelf"], queryFn: () => ask(api.GET("/api/shelf")), staleTime: Infinity });

export const useJobs = () => useQuery({ queryKey: ["jobs"], queryFn: () => ask(api.GET("/api/jobs")) });

export function useJob(id: number) {
  const queue = useEdits();
  const client = useQueryClient();
  const job = useQuery({
    queryKey: ["job", id],
    queryFn: () => ask(api.GET("/api/jobs/{job_id}", { params: { path: { job_id: id } } })) as Promise<Schemas["JobPage"]>,
    // an answer asked for earlier may come later: what is newer stays
    structuralSharing: (old, now) => ((old as Schemas["JobPage"] | undefined)?.revision ?? 0) > (now as Schemas["JobPage"]).revision ? old : now,
    placeholderData: keepPreviousData,
  }, client);
  const { version } = useQueueStatus();
  const page = job.data;
  // what others did is asked for by a number; the document comes only when it rose
  const revision = useQuery({
    queryKey: ["revision", id],
    queryFn: () => ask(api.GET("/api/jobs/{job_id}/revision", { params: { path: { job_id: id } } })),
    refetchInterval: 6000,
  }, client);
  const risen = page !== undefined && (revision.data?.revision ?? 0) > page.revision;
  useEffect(() => {
    if (risen) void client.invalidateQueries({ queryKey: ["job", id] });
  }, [risen, client, id]);
  // an edit is let go of only once the document that holds it is shown, or it would flicker
  useEffect(() => {
    if (page) queue.forget(id, page.revision);
  }, [page, queue, id]);
  const data = useMemo(() => {
    const over = page && version >= 0 ? queue.over(id, page.revision) : [];
    return page && over.length ? { ...page, document: overlay(page.document, over) } : page;
  }, [page, version, queue, id]);
  return { ...job, data };
}

export function useQueueStatus() {
  const queue = useEdits();
  const version = useSyncExternalStore(queue.subscribe, () => queue.status().version);
  return { ...queue.status(), version };
}

const TRIED = ["build", "trace"] as const;
type Tried = (typeof TRIED)[number];

// A stage by the newest revision known, asked side by side with the document; while an edit of it is on its way, what it
// would say after that edit.
export function useStage<N extends StageName>(id: number, name: N, revision: number, query: Record<string, unknown> = {}) {
  const queue = useEdits();
  const { version } = useQueueStatus();
  const newest = Math.max(revision, queue.newest(id));
  // a row that has no number yet is not known to the server
  const known = Object.fromEntries(Object.entries(query).filter(([, v]) => typeof v !== "number" || v > 0));
  const kept = useQuery({
    queryKey: ["stage", id, name, newest, known],
    queryFn: () =>
      ask(api.GET(`/api/jobs/{job_id}/${name}` as "/api/jobs/{job_id}/trace", { params: { path: { job_id: id }, query: known } })) as unknown as Promise<View<N>>,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
  const stage = TRIED.find((t) => t === name);
  const steps = useMemo(() => (version >= 0 && stage ? queue.untried(id) : []), [version, stage, queue, id]);
  const preview = useQuery({
    queryKey: ["preview", id, name, newest, known, steps],
    enabled: steps.length > 0,
    queryFn: async () => {
      const body = { stage: stage as Tried, surface_id: null, alternative_id: null, condition_id: null, ...known, steps };
      const seen = await ask(api.POST("/api/jobs/{job_id}/preview", { params: { path: { job_id: id } }, body }));
      return (stage ? seen[stage] : null) as View<N> | null;
    },
    placeholderData: keepPreviousData,
    retry: false,
    gcTime: 5000,
  });
  // what was tried stays in sight until what was kept is there
  const [tried, setTried] = useState<View<N> | null>(null);
  const waiting = steps.length > 0 || kept.isPlaceholderData;
  if (waiting && preview.data && !preview.isPlaceholderData && preview.data !== tried) setTried(preview.data);
  if (!waiting && tried) setTried(null);
  return waiting && tried ? ({ ...kept, data: tried } as typeof kept) : kept;
}

// What a dialog does with its answer: work, then done; what was refused stands in it.
export function useKeeping(done: () => void) {
  const [wrong, setWrong] = useState("");
  const keep = async (work: () => Promise<unknown>) => {
    try {
      await work();
      setWrong("");
      done();
    } catch (error) {
      setWrong(error instanceof Error ? error.message : "Not kept.");
    }
  };
  return { wrong, keep };
}
