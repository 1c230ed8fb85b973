// A job: header, the six stages with their live lines, the goal rule, and the stage that is open.
import { App, Modal, Input, type InputRef } from "antd";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState, type ComponentType } from "react";
import { Link, Navigate, useNavigate, useParams } from "react-router";
import type { Schemas } from "../api/client";
import { askIn, useEdit, useEdits, type Editing } from "../api/edits";
import { useJob, useJobs, useQueueStatus, useWork } from "../api/hooks";
import { keeping } from "../api/queue";
import { STAGES, titled } from "./Board";
import { GoalRule } from "../parts/GoalRule";
import { State } from "../parts/parts";
import { useScheme } from "../parts/scheme";
import { typing } from "../parts/typing";

export type StageProps = { id: number; page: Schemas["JobPage"]; edit: Editing };

type StageName = (typeof STAGES)[number];
const LOADERS: Record<StageName, () => Promise<{ default: ComponentType<StageProps> }>> = {
  listen: () => import("../stages/listen/Listen"),
  trace: () => import("../stages/trace/Trace"),
  build: () => import("../stages/build/Build"),
  cut: () => import("../stages/cut/Cut"),
  fit: () => import("../stages/fit/Fit"),
  prove: () => import("../stages/prove/Prove"),
};

// A stage's script as a query: fetched beside the job, kept, and its failure shown like any other.
const script = (name: StageName) => ({
  queryKey: ["script", name],
  queryFn: async () => ({ View: (await LOADERS[name]()).default }),
  staleTime: Infinity,
  gcTime: Infinity,
  structuralSharing: false,
});

export function JobShell() {
  const { jobId, stage } = useParams();
  const id = Number(jobId);
  const job = useJob(id);
  const edit = useEdit(id);
  const go = useNavigate();
  const client = useQueryClient();
  const { scheme, flip } = useScheme();
  const [finding, setFinding] = useState(false);
  useWork(id, job.data?.work ?? []);

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z" && !typing(e.target)) {
        e.preventDefault();
        void (e.shiftKey ? edit.redo() : edit.undo());
      } else if (!typing(e.target) && !e.ctrlKey && !e.metaKey && !e.altKey) {
        const chosen = STAGES[Number(e.key) - 1];
        if (chosen) void go(`/jobs/${id}/${chosen}`);
        if (e.key === "/") {
          e.preventDefault();
          setFinding(true);
        }
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });

  const open = STAGES.find((s) => s === stage);
  const view = useQuery(script(open ?? "listen"));
  useEffect(() => {
    if (view.data) for (const name of STAGES) void client.prefetchQuery(script(name));
  }, [client, view.data]);
  if (!open) return <Navigate to={`/jobs/${jobId ?? ""}/${job.data?.overview.current ?? "listen"}`} replace />;
  const page = job.data;
  const name = page?.document.job.name ?? "…";
  const rule = page?.overview.goal_rule;
  return (
    <>
      <nav className="top">
        <Link to="/" className="brand" aria-label="Sphagnum, the job board">
          <img src="/mark.svg" alt="" /> Sphagnum
        </Link>
        <span className="where">
          {name} <span className="small">{[page?.document.job.customer, rule?.where].filter(Boolean).join(" · ")}</span>
        </span>
        <Kept reached={!job.error} />
        <button className="key" onClick={() => void edit.undo()} title="Undo my last edit (Ctrl Z)">
          undo
        </button>
        <button className="key" onClick={() => void edit.redo()} title="Bring back what I undid (Ctrl Shift Z)">
          redo
        </button>
        <button className="key" onClick={() => setFinding(true)} title="Find (/)">
          / find
        </button>
        <button className="key" onClick={flip}>
          {scheme === "dark" ? "light" : "dark"}
        </button>
      </nav>
      <div className="stages" role="navigation" aria-label="Stages">
        {STAGES.map((s, i) => {
          const line = page?.overview.stages[i];
          return (
            <Link
              key={s}
              to={`/jobs/${id}/${s}`}
              className={`${s === open ? "on" : ""} ${line?.done ? "done" : ""}`}
              aria-current={s === open ? "page" : undefined}
            >
              {i + 1} <b>{titled(s)}</b>{" "}
              {line?.done ? (
                <i className="tick" aria-label="done">
                  ✓
                </i>
              ) : null}
              <span>{line?.line ?? "…"}</span>
            </Link>
          );
        })}
      </div>
      <div className="rule">{rule ? <GoalRule rule={rule} /> : null}</div>
      <State query={job}>
        <State query={view}>
          {page && view.data ? (
            <main className="stage" data-stage={open}>
              <view.data.View key={open} id={id} page={page} edit={edit} />
            </main>
          ) : null}
        </State>
      </State>
      {finding ? <Find id={id} page={page} close={() => setFinding(false)} /> : null}
    </>
  );
}

// Whether everything is kept; edits left behind by a closed window are taken up here, and leaving too early is asked about.
function Kept({ reached }: { reached: boolean }) {
  const queue = useEdits();
  const client = useQueryClient();
  const status = useQueueStatus();
  const { message, modal } = App.useApp();
  useEffect(() => askIn(modal), [modal]);
  useEffect(() => {
    const quiet = queue.onRefused(
      (error) => void message.error(error instanceof Error ? error.message : "An edit was not kept.", 8),
    );
    const take = () => {
      queue.beat();
      if (queue.restore()) void queue.idle().then(() => client.invalidateQueries({ queryKey: ["job"] }));
    };
    take();
    const timer = setInterval(take, 3000);
    const leaving = (e: BeforeUnloadEvent) => {
      if (queue.status().pending) e.preventDefault();
    };
    window.addEventListener("beforeunload", leaving);
    return () => {
      quiet();
      clearInterval(timer);
      window.removeEventListener("beforeunload", leaving);
    };
  }, [queue, client, message]);
  const words = status.pending || reached ? keeping(status) : "not reached";
  return (
    <span className={`small kept ${status.failing ? "failing" : ""}`} aria-live="polite" data-testid="kept">
      {words}
    </span>
  );
}

function Find({ id, page, close }: { id: number; page: Schemas["JobPage"] | undefined; close: () => void }) {
  const [text, setText] = useState("");
  const field = useRef<InputRef>(null);
  const jobs = useJobs(0, text.trim());
  const go = useNavigate();
  const hits = useMemo(() => {
    const doc = page?.document;
    const all = [
      ...STAGES.map((s) => ({ name: titled(s), kind: "stage", to: `/jobs/${id}/${s}` })),
      ...(doc?.surfaces ?? []).map((s) => ({ name: s.name, kind: "surface", to: `/jobs/${id}/build?surface=${s.id}` })),
      ...(doc?.paths ?? []).map((p) => ({ name: p.name, kind: "path", to: `/jobs/${id}/trace` })),
      ...(doc?.rounds ?? []).map((r) => ({ name: r.name, kind: "round", to: `/jobs/${id}/listen?round=${r.id}` })),
      ...(jobs.data?.jobs ?? []).map((c) => ({ name: c.job.name, kind: "job", to: `/jobs/${c.job.id}` })),
    ];
    const wanted = text.trim().toLowerCase();
    return all.filter((h) => h.name.toLowerCase().includes(wanted)).slice(0, 9);
  }, [text, page, jobs.data, id]);
  const open = (to: string) => {
    close();
    void go(to);
  };
  return (
    <Modal
      open
      onCancel={close}
      footer={null}
      title="Find"
      afterOpenChange={(shown) => shown && field.current?.focus()}
    >
      <div className="form">
        <Input
          ref={field}
          autoFocus
          value={text}
          placeholder="a surface, a path, a round, a job"
          aria-label="Find"
          onChange={(e) => setText(e.target.value)}
          onPressEnter={() => hits[0] && open(hits[0].to)}
        />
        <div className="rows">
          {hits.map((h) => (
            <div key={h.kind + h.to + h.name}>
              <button className="key" onClick={() => open(h.to)}>
                {h.name}
              </button>
              <span className="small">{h.kind}</span>
            </div>
          ))}
          {hits.length ? null : <p className="small">Nothing of that name.</p>}
        </div>
      </div>
    </Modal>
  );
}
