// Reading and editing a job: views are keyed by its revision, edits go one after another and carry the version seen.
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { App } from "antd";
import { createElement, useCallback, useState } from "react";
import { api, ask, Refused, type Schemas } from "./client";
import type { paths } from "./schema";

export type Collection = Exclude<keyof Schemas["JobDocument"], "job">;
export type Row = { id: number; version: number };
type Values = Record<string, unknown>;
type StageName = "listen" | "trace" | "build" | "cut" | "fit" | "prove";
type View<N extends StageName> = paths[`/api/jobs/{job_id}/${N}`]["get"]["responses"][200]["content"]["application/json"];

export const useShelf = () =>
  useQuery({ queryKey: ["shelf"], queryFn: () => ask(api.GET("/api/shelf")), staleTime: Infinity });

export const useJobs = () => useQuery({ queryKey: ["jobs"], queryFn: () => ask(api.GET("/api/jobs")) });

export const useJob = (id: number) =>
  useQuery({
    queryKey: ["job", id],
    queryFn: () => ask(api.GET("/api/jobs/{job_id}", { params: { path: { job_id: id } } })) as Promise<Schemas["JobPage"]>,
    refetchInterval: 6000,
    placeholderData: keepPreviousData,
  });

export function useStage<N extends StageName>(id: number, name: N, revision: number, query: Record<string, unknown> = {}) {
  return useQuery({
    queryKey: ["stage", id, name, revision, query],
    queryFn: () =>
      ask(api.GET(`/api/jobs/{job_id}/${name}` as "/api/jobs/{job_id}/trace", { params: { path: { job_id: id }, query } })) as unknown as Promise<View<N>>,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
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

let queue: Promise<unknown> = Promise.resolve();
const inTurn = <T,>(work: () => Promise<T>): Promise<T> => {
  const next = queue.then(work, work);
  queue = next.catch(() => undefined);
  return next;
};

// Versions this browser itself moved on: an edit made before the answer came back still counts as having seen them.
const moved = new Map<string, number>();
const latest = (key: string, version: number): number => {
  const next = moved.get(`${key}:${version}`);
  return next === undefined ? version : latest(key, next);
};

export function useEdit(jobId: number) {
  const client = useQueryClient();
  const { message, modal } = App.useApp();
  const path = { job_id: jobId };

  const refresh = useCallback(async () => {
    await Promise.all([client.invalidateQueries({ queryKey: ["job", jobId] }), client.invalidateQueries({ queryKey: ["jobs"] })]);
  }, [client, jobId]);

  const say = (error: unknown) => {
    void message.error(error instanceof Error ? error.message : "Something went wrong.", 8);
  };

  const run = async <T,>(work: () => Promise<T>): Promise<T | undefined> => {
    try {
      return await inTurn(work);
    } catch (error) {
      say(error);
      return undefined;
    } finally {
      await refresh();
    }
  };

  const send = (collection: Collection | "jobs", row: Row, changes: Values): Promise<{ rows: Values[] }> => {
    const key = `${collection}:${row.id}`;
    const version = latest(key, row.version);
    const body = { version, changes };
    const call =
      collection === "jobs"
        ? api.PATCH("/api/jobs/{job_id}", { params: { path }, body })
        : api.PATCH("/api/jobs/{job_id}/{collection}/{row_id}", { params: { path: { ...path, collection, row_id: row.id } }, body });
    return ask(call).then((done) => {
      const now = done.rows[0]?.["version"];
      if (typeof now === "number") moved.set(`${key}:${version}`, now);
      return done;
    });
  };

  // Throws a Refused for bad input, so that a form can keep what was typed; a conflict asks which version should stand.
  const change = async (collection: Collection | "jobs", row: Row, changes: Values): Promise<boolean> => {
    try {
      await inTurn(() => send(collection, row, changes));
      return true;
    } catch (error) {
      if (!(error instanceof Refused) || error.status !== 409) throw error;
      const stored = error.refusal.stored as (Values & Row) | null | undefined;
      const mine = await new Promise<boolean>((resolve) => {
        modal.confirm({
          title: error.message,
          width: 560,
          content: createElement(Versions, { stored: stored ?? null, sent: changes }),
          okText: "Put mine",
          cancelText: "Keep theirs",
          okButtonProps: { disabled: !stored },
          onOk: () => resolve(true),
          onCancel: () => resolve(false),
        });
      });
      if (mine && stored) await inTurn(() => send(collection, stored, changes));
      return mine;
    } finally {
      await refresh();
    }
  };

  return {
    refresh,
    say,
    run,
    change,
    tryChange: (collection: Collection | "jobs", row: Row, changes: Values) => change(collection, row, changes).catch(say),
    create: async (collection: Collection, rows: Values[]): Promise<Values[]> => {
      try {
        const done = await inTurn(() =>
          ask(api.POST("/api/jobs/{job_id}/{collection}", { params: { path: { ...path, collection } }, body: { rows } })),
        );
        return done.rows;
      } finally {
        await refresh();
      }
    },
    remove: (collection: Collection, row: Row) =>
      run(() =>
        ask(
          api.DELETE("/api/jobs/{job_id}/{collection}/{row_id}", {
            params: { path: { ...path, collection, row_id: row.id }, query: { version: latest(`${collection}:${row.id}`, row.version) } },
          }),
        ),
      ),
    undo: async () => {
      const done = await run(() => ask(api.POST("/api/jobs/{job_id}/undo", { params: { path } })));
      if (done) void message.success(`Undone: ${done.what}.`);
    },
  };
}

export type Editing = ReturnType<typeof useEdit>;

const shown = (value: unknown): string => (value === null || value === undefined ? "nothing" : typeof value === "object" ? JSON.stringify(value) : String(value));

function Versions({ stored, sent }: { stored: Values | null; sent: Values }) {
  const line = (label: string, values: Values) =>
    Object.keys(sent).map((k) => createElement("div", { key: label + k }, `${k.replaceAll("_", " ")}: ${shown(values[k]).slice(0, 200)}`));
  return createElement(
    "div",
    { className: "versions" },
    createElement("strong", null, "Theirs"),
    stored ? line("theirs", stored) : createElement("div", null, "removed"),
    createElement("strong", null, "Mine"),
    line("mine", sent),
  );
}
