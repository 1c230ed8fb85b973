// Editing a job: every edit goes through the one queue; undo and redo ask where others stand in the way.
import { useQueryClient } from "@tanstack/react-query";
import { App } from "antd";
import { createContext, createElement, useCallback, useContext, useRef } from "react";
import { api, ask, author, deliver, Refused, tab, type Schemas } from "./client";
import { askWhich, type Modal } from "./conflict";
import { BOARD, jobKey } from "./keys";
import { BLANK, type Operation, type Step } from "./operations";
import { windows } from "./lead";
import { type Answer, type Asked, type Door, type Entry } from "./entry";
import { makeQueue, type Queue } from "./queue";
import { idbStore } from "./store";

export type Collection = Exclude<keyof Schemas["JobDocument"], "job">;
export type Row = { id: number; version: number };
type Values = Record<string, unknown>;

const Edits = createContext<Queue | null>(null);
export const EditsProvider = Edits.Provider;

export function useEdits(): Queue {
  const queue = useContext(Edits);
  if (!queue) throw new Error("no queue of edits");
  return queue;
}

// A hand that turns a number has come to rest: one that presses a key now and then is still at it.
export const HOLD_MS = 700;
const asker: { ask: Door["ask"] } = { ask: () => Promise.resolve<Asked>("later") };
export const openQueue = (): Queue =>
  makeQueue(
    {
      send: deliver,
      ask: (entry, failure) => asker.ask(entry, failure),
      wait: (n) => Math.min(1000 * 2 ** n, 10_000),
      hold: HOLD_MS,
    },
    idbStore,
    windows(),
    { author: author(), tab: tab() },
  );

// Lets conflicts be asked about in a dialog.
export function askIn(modal: Modal): void {
  asker.ask = (entry: Entry, failure) =>
    askWhich(
      modal,
      failure as Refused,
      entry.steps.some((s) => s.remove),
    );
}

// Changes of one number while a key or the pointer is held, or in quick succession, are one gesture.
const GESTURE_MS = 1500;
let released = 0;
for (const name of ["keyup", "pointerup", "pointercancel"])
  window.addEventListener(name, () => (released = Date.now()), { capture: true, passive: true });
let gesture = { field: "", id: "", at: 0 };
function gestureOf(collection: string, row: Row, values: Values, operations: readonly Operation[]): string {
  const sets = operations.filter((o) => o.op === "set");
  const numbers = [...Object.values(values), ...sets.map((o) => o.value)];
  if (sets.length < operations.length || !numbers.length || !numbers.every((v) => typeof v === "number")) return "";
  const field = [collection, row.id, ...Object.keys(values), ...sets.flatMap((o) => o.at)].join(".");
  const now = Date.now();
  gesture = {
    field,
    id:
      field === gesture.field && (released < gesture.at || now - gesture.at < GESTURE_MS)
        ? gesture.id
        : `${field}@${now}`,
    at: now,
  };
  return gesture.id.slice(0, 80);
}

// The job is asked for anew once a quick hand pauses, of a hand that turns one number later; what was done is seen before,
// laid over it, and its curves are asked for by themselves.
const QUIET_MS = 80;
export const TURNING_MS = 500;
const due = new Map<number, ReturnType<typeof setTimeout>>();
// Whether a job will be asked for anew by itself once the hand pauses.
export const isDue = (jobId: number): boolean => due.has(jobId);

export function useEdit(jobId: number) {
  const client = useQueryClient();
  const queue = useEdits();
  const { message, modal } = App.useApp();

  // asked for many times at once, as after a burst of edits, it is done once
  const asked = useRef<Promise<unknown> | null>(null);
  const refresh = useCallback(async () => {
    asked.current ??= new Promise((go) => setTimeout(go, QUIET_MS)).then(() => {
      asked.current = null;
      return Promise.all([
        client.invalidateQueries({ queryKey: jobKey(jobId) }),
        client.invalidateQueries({ queryKey: BOARD }),
      ]);
    });
    await asked.current;
  }, [client, jobId]);

  const say = (error: unknown) => {
    void message.error(error instanceof Error ? error.message : "Something went wrong.", 8);
  };
  const turned = () => {
    clearTimeout(due.get(jobId));
    const go = () => {
      if (queue.status().pending) return wait(); // the hand goes on
      due.delete(jobId);
      void refresh();
    };
    const wait = () => void due.set(jobId, setTimeout(go, TURNING_MS));
    wait();
  };
  const kept = async <T>(work: Promise<T>, turning = false): Promise<T> => {
    try {
      return await work;
    } finally {
      if (turning || due.has(jobId)) turned();
      else if (!queue.status().pending) await refresh();
    }
  };
  const seen = () => client.getQueryData<Schemas["JobPage"]>(jobKey(jobId))?.revision ?? null;
  // answered, or, where nobody answers, written down here to be sent later
  const patiently = (answer: Promise<Answer>, turning = false): Promise<Values[]> =>
    Promise.race([kept(answer, turning).then((a) => a.rows), queue.waits().then((): Values[] => [])]);
  const together = (steps: Step[], name = "", tried = false) =>
    patiently(queue.edit(jobId, steps, name, seen(), tried), name !== "");
  const step = (collection: Collection | "jobs", row: Row, more: Partial<Step>): Step => ({
    ...BLANK,
    collection,
    row: row.id,
    version: row.version,
    ...more,
  });
  const adding = (collection: Collection, values: Values): Step => ({ ...BLANK, collection, values });

  // Throws a Refused for bad input, so that a form can keep what was typed; a conflict asks which version should stand.
  const change = (collection: Collection | "jobs", row: Row, values: Values): Promise<unknown> =>
    together([step(collection, row, { values })], gestureOf(collection, row, values, []));
  const operate = (collection: Collection | "jobs", row: Row, operations: Operation[], tried = false) =>
    together([step(collection, row, { operations })], gestureOf(collection, row, {}, operations), tried);

  // one step after another, however fast the keys come
  const turn = useRef<Promise<void>>(Promise.resolve());
  const inTurn = (way: "undo" | "redo"): Promise<void> => {
    turn.current = turn.current.then(() => back(way));
    return turn.current;
  };
  const back = async (way: "undo" | "redo", decided: { skip?: number; force?: number } = {}): Promise<void> => {
    try {
      if (queue.status().failing) throw new Error("The server is not reached: undo works again once it is.");
      await queue.idle();
      const done = await kept(
        queue.beside(() =>
          ask(api.POST(`/api/jobs/{job_id}/${way}`, { params: { path: { job_id: jobId }, query: decided } })),
        ),
      );
      void message.success(`${way === "undo" ? "Undone" : "Brought back"}: ${done.what}.`);
    } catch (error) {
      const step = error instanceof Refused ? error.refusal.step : null;
      if (!(error instanceof Refused) || step == null) return say(error);
      const refusal = error.refusal;
      const choice = await new Promise<"skip" | "force" | "leave">((resolve) => {
        const dialog = modal.confirm({
          title: way === "undo" ? "This step cannot simply be undone" : "This step cannot simply be brought back",
          content: createElement("p", null, `${refusal.what.charAt(0).toUpperCase()}${refusal.what.slice(1)}.`),
          width: 520,
          okText: "Skip this step",
          cancelText: "Leave it",
          onOk: () => resolve("skip"),
          onCancel: () => resolve("leave"),
          footer: (_, { OkBtn, CancelBtn }) => [
            createElement(CancelBtn, { key: "leave" }),
            refusal.forcible
              ? createElement(
                  "button",
                  {
                    key: "force",
                    className: "key danger",
                    onClick: () => {
                      dialog.destroy();
                      resolve("force");
                    },
                  },
                  way === "undo" ? "Undo it all the same" : "Bring it back all the same",
                )
              : null,
            createElement(OkBtn, { key: "skip" }),
          ],
        });
      });
      if (choice !== "leave") await back(way, { [choice]: step });
    }
  };

  return {
    refresh,
    say,
    change,
    operate,
    together: (steps: Step[]) => together(steps),
    adding,
    altering: (collection: Collection, row: Row, values: Values): Step => step(collection, row, { values }),
    tryChange: (collection: Collection | "jobs", row: Row, values: Values) =>
      change(collection, row, values).catch(say),
    tryOperate: (collection: Collection | "jobs", row: Row, ...operations: Operation[]) =>
      operate(collection, row, operations).catch(say),
    // Of a hand that turns a number and sees already what that does.
    turn: (collection: Collection, row: Row, operations: Operation[]) =>
      operate(collection, row, operations, true).catch(say),
    create: (collection: Collection, rows: Values[]): Promise<Values[]> =>
      together(rows.map((values) => adding(collection, values))),
    remove: (collection: Collection, row: Row) => together([step(collection, row, { remove: true })]).catch(say),
    // Another request that keeps something, through the same queue.
    post: (what: string, body: unknown) => patiently(queue.post(jobId, `/api/jobs/${jobId}/${what}`, body)),
    // A photograph, through the same queue: seen at once, sent when the server is reached.
    picture: (file: Blob, values: Values) =>
      patiently(queue.picture(jobId, `/api/jobs/${jobId}/photographs`, file, values)),
    // Work that is no edit of rows: files sent, instruments.
    run: <T>(work: () => Promise<T>): Promise<T | undefined> =>
      kept(queue.beside(work)).catch((error: unknown) => {
        say(error);
        return undefined;
      }),
    undo: () => inTurn("undo"),
    redo: () => inTurn("redo"),
  };
}

export type Editing = ReturnType<typeof useEdit>;
