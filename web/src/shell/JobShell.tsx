// A job: head, the six stages with their live lines, the goal rule, and the stage that is open.
import { useQuery, useQueryClient, type QueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState, type ComponentType } from "react";
import { Navigate, useLocation, useNavigate, useParams } from "react-router";
import { useEdit } from "../api/edits";
import { jobPage, useJob, useWork } from "../api/hooks";
import { takeAlong } from "../api/lately";
import { useNarrow } from "../parts/narrow";
import { State } from "../parts/said";
import { STAGES, type StageName, type StageProps } from "../parts/stage";
import { ThumbSlot } from "../parts/thumb";
import { typing } from "../parts/typing";
import { Aside } from "./Aside";
import { Find } from "./Find";
import { Words } from "./Words";
import { NarrowHead, ThumbBar, WideHead, type HeadProps } from "./Head";
import { Kept } from "./Kept";

const LOADERS: Record<StageName, () => Promise<{ default: ComponentType<StageProps> }>> = {
  listen: () => import("../stages/listen/Listen"),
  trace: () => import("../stages/trace/Trace"),
  build: () => import("../stages/build/Build"),
  cut: () => import("../stages/cut/Cut"),
  fit: () => import("../stages/fit/Fit"),
  prove: () => import("../stages/prove/Prove"),
};

const OTHERS_MS = 1500;

// A stage's script as a query: fetched beside the job, kept, and its failure shown like any other.
const script = (name: StageName) => ({
  queryKey: ["script", name],
  queryFn: async () => ({ View: (await LOADERS[name]()).default }),
  staleTime: Infinity,
  gcTime: Infinity,
  structuralSharing: false,
});

// What an address of a job needs, asked for before anything of it is drawn.
export function ahead(client: QueryClient, path: string): void {
  const [, id, stage] = /^\/jobs\/(\d+)\/(\w+)/.exec(path) ?? [];
  const open = STAGES.find((s) => s === stage);
  if (!open) return;
  void client.prefetchQuery(script(open));
  void client.prefetchQuery(jobPage(Number(id)));
}

// How each stage of a job was last looked at in this window, so that coming back comes to the same view.
const lookKey = (id: number, stage: StageName) => `look.${id}.${stage}`;
const SURFACED: readonly StageName[] = ["build", "cut"];

function lookAt(id: number, stage: StageName, open: StageName | undefined, search: string): string {
  // the stage one stands in already is begun anew, at the surface in hand
  const kept = new URLSearchParams(stage === open ? "" : (sessionStorage.getItem(lookKey(id, stage)) ?? ""));
  const surface = new URLSearchParams(search).get("surface");
  // the surface in hand goes along from stack to pieces and back
  if (surface && SURFACED.includes(stage) && open && SURFACED.includes(open) && kept.get("surface") !== surface) {
    for (const name of [...kept.keys()]) kept.delete(name);
    kept.set("surface", surface);
  }
  return `/jobs/${id}/${stage}${kept.size ? `?${kept.toString()}` : ""}`;
}

export function JobShell() {
  const { jobId, stage } = useParams();
  const id = Number(jobId);
  const open = STAGES.find((s) => s === stage);
  const { search } = useLocation();
  const job = useJob(id);
  const edit = useEdit(id);
  const go = useNavigate();
  const client = useQueryClient();
  const narrow = useNarrow();
  const [slot, setSlot] = useState<HTMLElement | null>(null);
  const [finding, setFinding] = useState(false);
  const [words, setWords] = useState(false);
  useWork(id, job.data?.work ?? []);
  const to = (s: StageName) => lookAt(id, s, open, search);

  useEffect(() => {
    if (open) sessionStorage.setItem(lookKey(id, open), search);
  }, [id, open, search]);

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z" && !typing(e.target)) {
        e.preventDefault();
        void (e.shiftKey ? edit.redo() : edit.undo());
      } else if (!typing(e.target) && !e.ctrlKey && !e.metaKey && !e.altKey) {
        const chosen = STAGES[Number(e.key) - 1];
        if (chosen) void go(to(chosen));
        if (e.key === "/") {
          e.preventDefault();
          setFinding(true);
        }
        if (e.key === "?") {
          e.preventDefault();
          setWords(true);
        }
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });

  const page = job.data;
  const view = useQuery(script(open ?? "listen"));
  useEffect(() => {
    if (!view.data) return;
    // the other stages' scripts come once nobody waits for this one
    const timer = setTimeout(() => STAGES.forEach((name) => void client.prefetchQuery(script(name))), OTHERS_MS);
    return () => clearTimeout(timer);
  }, [client, view.data]);
  const seen = useRef(page);
  useEffect(() => {
    seen.current = page;
  }, [page]);
  const ready = page !== undefined;
  const laid = !job.data?.work?.length; // once all is laid out it is taken along anew
  useEffect(() => (ready ? takeAlong(client, id, () => seen.current) : undefined), [client, id, ready, laid]);
  if (!open) return <Navigate to={`/jobs/${jobId ?? ""}/${job.data?.overview.current ?? "listen"}`} replace />;
  const head: HeadProps = {
    page,
    open,
    kept: <Kept reached={job.reached} narrow={narrow} />,
    to,
    undo: () => void edit.undo(),
    redo: () => void edit.redo(),
    find: () => setFinding(true),
    words: () => setWords(true),
  };
  return (
    <ThumbSlot value={narrow ? slot : null}>
      {narrow ? <NarrowHead {...head} /> : <WideHead {...head} />}
      <State query={job}>
        <State query={view}>
          {page && view.data ? (
            <>
              <Aside rows={page.broken} edit={edit} />
              <main className="stage" data-stage={open}>
                <view.data.View key={open} id={id} page={page} edit={edit} here={job.here} settled={job.settled} />
              </main>
            </>
          ) : null}
        </State>
      </State>
      {narrow ? <ThumbBar {...head} slot={setSlot} /> : null}
      {finding ? <Find id={id} page={page} close={() => setFinding(false)} /> : null}
      {words ? <Words close={() => setWords(false)} /> : null}
    </ThumbSlot>
  );
}
