// The job board: every job with its goal rule in small and where it stands.
import { FileInput } from "../parts/FileInput";
import { Phone } from "./Phone";
import { Trash, useTrash } from "./Trash";
import { useQueryClient } from "@tanstack/react-query";
import { App, Button, Input, Segmented } from "antd";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, ask, upload, type Schemas } from "../api/client";
import { useEdits } from "../api/edits";
import { useJobs } from "../api/hooks";
import { readList } from "../api/listfile";
import { BOARD } from "../api/keys";
import { Dialog } from "../parts/Dialog";
import { Ask } from "../parts/fields";
import { SmallRule } from "../parts/GoalRule";
import { Empty, Said, State } from "../parts/said";
import { titled } from "../parts/stage";
import { useScheme } from "../parts/scheme";
import "./board.css";

type Card = Schemas["JobCard"];
const KIND: Record<string, string> = { vehicle: "Vehicle", enclosure: "Enclosure", room: "Room" };

export function Board() {
  const [page, setPage] = useState(0);
  const jobs = useJobs(page);
  const { scheme, flip } = useScheme();
  const [adding, setAdding] = useState(false);
  const [seeing, setSeeing] = useState(false);
  const [phone, setPhone] = useState(false);
  const trash = useTrash();
  const picker = useRef<HTMLInputElement>(null);
  const client = useQueryClient();
  const go = useNavigate();
  const queue = useEdits();
  const { message } = App.useApp();
  const bring = async (file: File | undefined) => {
    if (!file) return;
    try {
      // a waiting list that another browser kept is a file too
      const list = await readList(file).catch(() => null);
      if (list) {
        const many = queue.takeIn(list);
        return void message.success(
          many ? `${many} changes of a waiting list taken in.` : "All of it is here already.",
        );
      }
      const made = await upload<Schemas["Created"]>("/api/jobs/import", { file });
      await client.invalidateQueries({ queryKey: BOARD });
      await go(`/jobs/${made.id}`);
    } catch (error) {
      void message.error(error instanceof Error ? error.message : "The file was not read.", 8);
    }
  };
  // those in hand first, the newest of them at the front; the proven ones after them
  const proven = (c: Card) => Number(c.overview?.stages.at(-1)?.done ?? false);
  const cards = [...(jobs.data?.jobs ?? [])].sort((a, b) => proven(a) - proven(b));
  const pages = Math.ceil((jobs.data?.count ?? 0) / (jobs.data?.page_size ?? 1));
  return (
    <>
      <nav className="top">
        <Link to="/" className="brand">
          <img src="/mark.svg" alt="" /> Sphagnum
        </Link>
        <span className="where small">the job board</span>
        <button className="key" onClick={flip}>
          {scheme === "dark" ? "light" : "dark"}
        </button>
      </nav>
      <main className="board">
        <div className="board-head">
          <Said
            sentence={boardSentence(cards, jobs.data?.count ?? 0)}
            detail="Each job says where it stands; open it at the stage that waits."
          />
          <div className="acts">
            <Link className="key board-link" to="/shelf">
              The Shelf
            </Link>
            <Link className="key board-link" to="/bench">
              The Bench
            </Link>
            {trash.length ? <Button onClick={() => setSeeing(true)}>Thrown away ({trash.length})</Button> : null}
            <Button onClick={() => setPhone(true)}>Open on a phone</Button>
            <Button onClick={() => picker.current?.click()}>Bring in a job file</Button>
            <Button type="primary" onClick={() => setAdding(true)}>
              New job
            </Button>
          </div>
          <FileInput picker={picker} label="Job file" accept=".json,application/json" take={bring} />
        </div>
        {jobs.data?.trouble ? (
          <p className="note danger trouble" role="alert">
            {jobs.data.trouble}
          </p>
        ) : null}
        <State query={jobs}>
          {cards.length ? (
            <>
              <div className="cards">
                {cards.map((card) => (
                  <JobCard key={card.job.id} card={card} />
                ))}
              </div>
              {pages > 1 ? (
                <div className="acts pages">
                  <Button disabled={page === 0} onClick={() => setPage(page - 1)}>
                    Newer jobs
                  </Button>
                  <span className="small">
                    page {page + 1} of {pages}, {jobs.data?.count} jobs
                  </span>
                  <Button disabled={page >= pages - 1} onClick={() => setPage(page + 1)}>
                    Older jobs
                  </Button>
                </div>
              ) : null}
            </>
          ) : (
            <Empty title="No job yet" text="Begin with the one that is loud: say what it is, then where it is heard.">
              <Button type="primary" size="large" onClick={() => setAdding(true)}>
                New job
              </Button>
            </Empty>
          )}
        </State>
      </main>
      {phone ? <Phone close={() => setPhone(false)} /> : null}
      {seeing ? <Trash close={() => setSeeing(false)} /> : null}
      {adding ? <NewJob close={() => setAdding(false)} /> : null}
    </>
  );
}

function boardSentence(cards: Card[], count: number): string {
  if (!cards.length) return "Nothing on the board.";
  if (count > cards.length) return `${count} jobs on the board.`;
  const met = cards.filter((c) => c.overview?.stages.at(-1)?.done).length;
  const open = cards.length - met;
  return `${open} ${open === 1 ? "job" : "jobs"} in hand, ${met} proven.`;
}

function JobCard({ card }: { card: Card }) {
  const { job, overview, older, offer } = card;
  if (!overview)
    return (
      <Link className="job-card" to={`/jobs/${job.id}`}>
        <div className="job-head">
          <h2>{job.name}</h2>
          <span className="small">{[KIND[job.kind], job.customer].filter(Boolean).join(" · ")}</span>
        </div>
        <p className="small no-goal">Being worked out …</p>
      </Link>
    );
  return (
    <Link className="job-card" to={`/jobs/${job.id}/${overview.current}`} data-older={older || undefined}>
      <div className="job-head">
        <h2>{job.name}</h2>
        <span className="small">{[KIND[job.kind], job.customer].filter(Boolean).join(" · ")}</span>
      </div>
      {overview.goal_rule ? (
        <>
          <SmallRule rule={overview.goal_rule} />
          <span className="small">
            at {overview.goal_rule.where}
            {older ? "; being renewed" : ""}
          </span>
        </>
      ) : (
        <p className="small no-goal">No goal set yet.</p>
      )}
      {offer ? <p className="small offered">{offer}</p> : null}
      <ol className="job-stages">
        {overview.stages.map((s) => (
          <li key={s.stage} className={s.done ? "done" : s.stage === overview.current ? "now" : ""}>
            <b>{titled(s.stage)}</b>
            <span>{s.line}</span>
          </li>
        ))}
      </ol>
    </Link>
  );
}

function NewJob({ close }: { close: () => void }) {
  const [name, setName] = useState("");
  const [customer, setCustomer] = useState("");
  const [kind, setKind] = useState<"vehicle" | "enclosure" | "room">("vehicle");
  const client = useQueryClient();
  const go = useNavigate();
  const save = async () => {
    const made = await ask(api.POST("/api/jobs", { body: { name, customer, kind } as Schemas["JobIn"] }));
    await client.invalidateQueries({ queryKey: BOARD });
    await go(`/jobs/${made.id}/listen`);
  };
  return (
    <Dialog title="New job" ok="Begin" save={save} close={close}>
      <Ask label="What is it?">
        <Input value={name} onChange={(e) => setName(e.target.value)} placeholder="Delivery van" autoFocus />
      </Ask>
      <Segmented
        block
        value={kind}
        onChange={setKind}
        options={Object.entries(KIND).map(([value, label]) => ({ value: value as typeof kind, label }))}
      />
      <Ask label="For whom? (may stay empty)">
        <Input value={customer} onChange={(e) => setCustomer(e.target.value)} />
      </Ask>
    </Dialog>
  );
}
