// What the workshop owns: read, and edited as one document beside the jobs, each edit sent at once.
import { useQueryClient } from "@tanstack/react-query";
import { App } from "antd";
import { api, ask, query, Refused, signedEdit, type Schemas } from "./client";
import { SHELF_KEY, WORKSHOP_KEY } from "./keys";
import type { Operation, Step } from "./operations";

type Document = Schemas["WorkshopDocument"];
export type WorkshopCollection = Exclude<keyof Document, "workshop">;
type Row = { id: number; version: number };

const step = (collection: string, more: Partial<Step>): Step => ({
  collection,
  row: null,
  version: 0,
  values: {},
  operations: [],
  remove: false,
  force: false,
  ...more,
});

export function useWorkshop() {
  const client = useQueryClient();
  const { message } = App.useApp();
  const asked = query.useQuery("get", "/api/workshop");
  const doc = asked.data?.document;
  const fresh = () =>
    Promise.all([
      client.invalidateQueries({ queryKey: WORKSHOP_KEY }),
      client.invalidateQueries({ queryKey: SHELF_KEY }),
    ]);
  const together = async (steps: Step[]): Promise<Record<string, unknown>[]> => {
    try {
      const done = await ask(api.POST("/api/workshop/edits", { body: { steps }, headers: signedEdit() }));
      return done.rows as Record<string, unknown>[];
    } finally {
      await fresh();
    }
  };
  const say = (error: unknown) => {
    void message.error(error instanceof Error ? error.message : "That did not work.", 8);
  };
  const back = async (way: "undo" | "redo") => {
    try {
      const done = await ask(api.POST(`/api/workshop/${way}`, { params: { query: {} } }));
      void message.success(`${way === "undo" ? "Undone" : "Brought back"}: ${done.what}.`);
    } catch (error) {
      if (error instanceof Refused) say(error);
    }
    await fresh();
  };
  return {
    asked,
    doc,
    say,
    fresh,
    together,
    add: (collection: WorkshopCollection, values: Record<string, unknown>) => together([step(collection, { values })]),
    addAll: (collection: WorkshopCollection, rows: readonly Record<string, unknown>[]) =>
      together(rows.map((values) => step(collection, { values }))),
    change: (collection: WorkshopCollection | "workshops", row: Row, operations: Operation[]) =>
      together([step(collection, { row: row.id, version: row.version, operations })]),
    remove: (collection: WorkshopCollection, row: Row) =>
      together([step(collection, { row: row.id, version: row.version, remove: true })]),
    // The row of a name changed, or added where there is none.
    put: (collection: WorkshopCollection, key: string, name: string, values: Record<string, unknown>) => {
      const rows = (doc?.[collection] ?? []) as unknown as (Row & Record<string, unknown>)[];
      const found = rows.find((r) => r[key] === name);
      return together([
        found
          ? step(collection, { row: found.id, version: found.version, values })
          : step(collection, { values: { [key]: name, ...values } }),
      ]).catch(say);
    },
    undo: () => back("undo"),
    redo: () => back("redo"),
  };
}
