// Papers of a job that were handed over: number, what became of them, their files; an offer is answered here.
import { useQueryClient } from "@tanstack/react-query";
import { App, Button, Input, Segmented } from "antd";
import { useState } from "react";
import { api, ask, query, signedEdit, type Schemas } from "../api/client";
import { BOARD, jobKey, ofStages } from "../api/keys";
import { Ask } from "../parts/fields";
import { Dialog } from "../parts/Dialog";
import { Note } from "../parts/said";
import { money } from "../parts/words";
import css from "./papers.module.css";

type Page = Schemas["PaperPage"];
type Kind = Page["kind"];

export const usePapers = (id: number) =>
  query.useQuery("get", "/api/jobs/{job_id}/papers", { params: { path: { job_id: id } } });

// Hands a paper over; afterwards all that speaks of papers is asked for anew.
export function useHandOver(id: number) {
  const client = useQueryClient();
  const refresh = () =>
    Promise.all([
      client.invalidateQueries({ queryKey: ["get", "/api/jobs/{job_id}/papers"] }),
      client.invalidateQueries({ queryKey: jobKey(id) }),
      client.invalidateQueries({ predicate: ofStages(id) }),
      client.invalidateQueries({ queryKey: BOARD }),
    ]);
  const hand = async (body: Schemas["HandOver"]) => {
    const done = await ask(
      api.POST("/api/jobs/{job_id}/papers", {
        params: { path: { job_id: id } },
        body,
        headers: signedEdit(),
      }),
    );
    await refresh();
    return done;
  };
  return { hand, refresh };
}

export function Papers({ id, kind }: { id: number; kind: Kind }) {
  const asked = usePapers(id);
  const { refresh } = useHandOver(id);
  const [answering, setAnswering] = useState<Page | null>(null);
  const papers = ((asked.data?.papers ?? []) as Page[]).filter((p) => p.kind === kind);
  return (
    <>
      {asked.data && !asked.data.confirmed ? <Confirm next={asked.data.next} done={refresh} /> : null}
      {papers.length ? <h2>{kind === "offer" ? "Offers handed over" : "Reports handed over"}</h2> : null}
      {papers.map((p) => (
        <div key={p.id} role="group" aria-label={`${p.kind} ${p.number}`} className={css["paper"]}>
          <p>
            <b>{p.number}</b> <span className={css[p.state.replace(" ", "-")]}>{p.state}</span>{" "}
            <span className="small">{p.made_at.slice(0, 10)}</span>
          </p>
          {p.paper.version_of ? (
            <p className="small">
              Follows {p.paper.version_of}. {p.paper.differs?.join(" ")}
            </p>
          ) : null}
          {p.paper.why ? <p className="small">{p.paper.why}</p> : null}
          {p.paper.answered ? <p className="small">{said(p)}</p> : null}
          <div className="acts">
            {p.files.map((way) => (
              <Button key={way} href={`/api/papers/${p.id}.${way}`} download>
                {way === "pdf" ? "PDF" : "As a page"}
              </Button>
            ))}
            {kind === "offer" && ["handed over", "lapsed"].includes(p.state) ? (
              <Button onClick={() => setAnswering(p)}>What they said …</Button>
            ) : null}
          </div>
        </div>
      ))}
      {answering ? <Answer paper={answering} close={() => setAnswering(null)} done={refresh} /> : null}
    </>
  );
}

function said(p: Page): string {
  const { plan, who, on, words } = p.paper.answered ?? {};
  return [plan ? `“${plan}”` : "", who, on, words ? `“${words}”` : ""].filter(Boolean).join(" · ");
}

// After a restore papers may be missing: the next number is said by somebody who knows.
function Confirm({ next, done }: { next: number; done: () => Promise<unknown> }) {
  const { message } = App.useApp();
  const [text, setText] = useState(String(next));
  const confirm = async () => {
    try {
      await ask(api.POST("/api/papers/numbers", { body: { next: Number(text) } }));
      await done();
    } catch (error) {
      void message.error(error instanceof Error ? error.message : "Not kept.", 8);
    }
  };
  return (
    <Note kind="warn">
      <b>The data were restored.</b> Papers handed over since then are not in them: which number does the next one get?
      <div className="acts">
        <Input aria-label="Next number" value={text} onChange={(e) => setText(e.target.value)} />
        <Button onClick={() => void confirm()}>That is the next</Button>
      </div>
    </Note>
  );
}

function Answer({ paper, close, done }: { paper: Page; close: () => void; done: () => Promise<unknown> }) {
  const plans = paper.paper.offer?.plans ?? [];
  const [state, setState] = useState<"accepted" | "refused">("accepted");
  const [plan, setPlan] = useState(plans[0]?.name ?? "");
  const [who, setWho] = useState("");
  const [words, setWords] = useState("");
  const keep = async () => {
    await ask(
      api.POST("/api/papers/{paper_id}/answer", {
        params: { path: { paper_id: paper.id } },
        body: { state, plan: state === "accepted" ? plan : "", who, words, on: "" },
        headers: signedEdit(),
      }),
    );
    await done();
  };
  return (
    <Dialog title={`What they said to ${paper.number}`} ok="Keep it" save={keep} close={close}>
      <Segmented
        block
        value={state}
        onChange={setState}
        options={[
          { value: "accepted", label: "accepted" },
          { value: "refused", label: "refused" },
        ]}
      />
      {state === "accepted" && plans.length > 1 ? (
        <Segmented
          block
          value={plan}
          onChange={setPlan}
          options={plans.map((p) => ({
            value: p.name,
            label: `${p.name}, ${money(p.price.gross, p.price.currency)}`,
          }))}
        />
      ) : null}
      <Ask label="Who">
        <Input value={who} onChange={(e) => setWho(e.target.value)} />
      </Ask>
      <Ask label={state === "accepted" ? "In which words" : "Why"}>
        <Input.TextArea rows={2} value={words} onChange={(e) => setWords(e.target.value)} />
      </Ask>
      {state === "accepted" ? (
        <p className="small">The plan is taken into Build, and Prove judges the work by the range it promised.</p>
      ) : null}
    </Dialog>
  );
}
