// What waits to be sent, and what the server refused: sent again, thrown away, or kept as a file that any address takes in.
import { App, Button, Modal } from "antd";
import { useRef } from "react";
import { useEdits } from "../api/edits";
import { useQueueStatus } from "../api/hooks";
import { readList, written } from "../api/listfile";
import { clock, type Entry } from "../api/entry";
import { ClockNote } from "../parts/ClockNote";
import { FileInput } from "../parts/FileInput";
import { Note } from "../parts/said";
import { save } from "../parts/save";

type Values = Record<string, unknown>;

// What an edit is about, for whoever made it.
function about(entry: Entry): string {
  const step = entry.steps[0];
  const values = (step?.values ?? {}) as Values;
  if (entry.file) return "a photograph";
  if (!step) {
    const text = (entry.body as Values | null)?.["text"];
    return typeof text === "string"
      ? `reading ${text.slice(0, 40)}`
      : (entry.url.split("/").at(-1)?.replaceAll("-", " ") ?? "");
  }
  if (step.collection === "step_events")
    return [values["what"], values["text"] || values["phase"]].map((v) => String(v).slice(0, 60)).join(": ");
  const what = [values["what"], values["phase"], values["name"] ?? values["kind"] ?? values["text"]]
    .filter((v): v is string => typeof v === "string" && v !== "")
    .map((v) => v.slice(0, 60));
  const named = step.collection.replaceAll("_", " ");
  return `${step.remove ? "remove from " : ""}${named}${what.length ? `: ${what.join(", ")}` : ""}`;
}

export function Waiting({ close }: { close: () => void }) {
  const queue = useEdits();
  const status = useQueueStatus();
  const picker = useRef<HTMLInputElement>(null);
  const { message, modal } = App.useApp();
  const [waiting, asides] = [queue.waiting(), queue.asides()];
  const keep = async () => save(await written([...waiting, ...asides.map((a) => a.entry)]), "sphagnum-waiting.json");
  const take = async (file: File | undefined) => {
    if (!file) return;
    try {
      const many = queue.takeIn(await readList(file));
      void message.success(many ? `${many} taken in.` : "All of it is here already.");
    } catch (error) {
      void message.error(error instanceof Error ? error.message : "The file was not read.", 8);
    }
  };
  const throwAway = (id: string, what: string) =>
    modal.confirm({
      title: `Throw this away: ${what}?`,
      content: "It was not kept anywhere else.",
      okText: "Throw it away",
      okButtonProps: { danger: true },
      onOk: () => queue.throwAway(id),
    });
  return (
    <Modal open title="Not on the server yet" onCancel={close} footer={null}>
      {status.signedOut ? (
        <Note kind="warn">
          <b>This device is signed out.</b> <a href={`/sign-in?to=${encodeURIComponent(location.pathname)}`}>Sign in</a>
          , and all of it goes on.
        </Note>
      ) : null}
      {status.unstored ? (
        <Note kind="danger">
          <b>This browser has no room for it.</b> Keep this window open, or keep the list as a file.
        </Note>
      ) : null}
      <ClockNote />
      <ol className="waiting">
        {waiting.map((e) => (
          <li key={e.id}>
            <span className="small">{clock(e.at)}</span> {about(e)}
          </li>
        ))}
      </ol>
      {!waiting.length && !asides.length ? <p>Nothing waits.</p> : null}
      {asides.map((a) => (
        <div key={a.entry.id} role="group" aria-label={`Set aside: ${about(a.entry)}`} className="aside-row">
          <p>
            <span className="small">{clock(a.entry.at)}</span> <b>{about(a.entry)}</b>
            <br />
            {a.why}
          </p>
          {a.entry.url ? <Button onClick={() => queue.sendAgain(a.entry.id)}>Send it again</Button> : null}
          <Button danger onClick={() => throwAway(a.entry.id, about(a.entry))}>
            Throw it away
          </Button>
        </div>
      ))}
      <div className="acts">
        <Button onClick={queue.poke} disabled={!waiting.length}>
          Try now
        </Button>
        <Button onClick={() => void keep()} disabled={!waiting.length && !asides.length}>
          Keep it as a file
        </Button>
        <Button onClick={() => picker.current?.click()}>Take a file in</Button>
      </div>
      <FileInput picker={picker} label="Waiting list" accept=".json,application/json" take={take} />
    </Modal>
  );
}
