// What the workshop owns: read, and edited as one document beside the jobs, each edit sent at once.
import { useQueryClient } from "@tanstack/react-query";
import { App } from "antd";
import { api, ask, query, Refused, signedEdit, type Schemas } from "./client";
import { askWhich } from "./conflict";
import { SHELF_KEY, WORKSHOP_KEY } from "./keys";
import { BLANK, type Operation, type Step } from "./operations";

type Document = Schemas["WorkshopDocument"];
export type WorkshopCollection = Exclude<keyof Document, "workshop">;
type Row = { id: number; version: number };
const READ = query.queryOptions("get", "/api/workshop").queryKey;

const step = (collection: string, more: Partial<Step>): Step => ({ ...BLANK, collection, ...more });

// One edit after another, each from what the one before has left, however fast they come.
let turn: Promise<unknown> = Promise.resolve();
const inTurn = <T>(work: () => Promise<T>): Promise<T> => {
  const done = turn.then(work, work);
  turn = done;
  return done;
};

export function useWorkshop() {
  const client = useQueryClient();
  const { message, modal } = App.useApp();
  const asked = query.useQuery("get", "/api/workshop");
  const doc = asked.data?.document;
  const fresh = () =>
    Promise.all([
      client.invalidateQueries({ queryKey: WORKSHOP_KEY }),
      client.invalidateQueries({ queryKey: SHELF_KEY }),
    ]);
  const sent = async (steps: Step[]): Promise<Record<string, unknown>[]> => {
    try {
      const done = await ask(api.POST("/api/workshop/edits", { body: { steps }, headers: signedEdit() }));
      return done.rows as Record<string, unknown>[];
    } catch (error) {
      if (!(error instanceof Refused) || error.status !== 409) throw error;
      const removing = steps.some((s) => s.remove);
      const which = await askWhich(modal, error, removing);
      if (which === "later") throw error;
      return which === "theirs" ? [] : sent(steps.map((s) => ({ ...s, force: true })));
    }
  };
  const together = (made: Step[] | ((now: Document) => Step[])): Promise<Record<string, unknown>[]> =>
    inTurn(async () => {
      const now = client.getQueryData<Schemas["WorkshopPage"]>(READ)?.document ?? (doc as Document);
      try {
        const steps = typeof made === "function" ? made(now) : made;
        return await sent(steps);
      } finally {
        await fresh();
      }
    });
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
    // Held against what others did since the row was as given; what is made of it is made of the newest there is.
    change: (
      collection: WorkshopCollection | "workshops",
      row: Row,
      operations: Operation[] | ((now: Document) => Operation[]),
    ) =>
      together((now) => [
        step(collection, {
          row: row.id,
          version: row.version,
          operations: typeof operations === "function" ? operations(now) : operations,
        }),
      ]),
    remove: (collection: WorkshopCollection, row: Row) =>
      together([step(collection, { row: row.id, version: row.version, remove: true })]),
    // The row of a name changed, or added where there is none.
    put: (collection: WorkshopCollection, key: string, name: string, values: Record<string, unknown>) => {
      const of = (now: Document | undefined) =>
        ((now?.[collection] ?? []) as unknown as (Row & Record<string, unknown>)[]).find((r) => r[key] === name);
      const seen = of(doc as Document | undefined)?.version ?? 0;
      return together((now) => {
        const found = of(now);
        return [
          found
            ? step(collection, { row: found.id, version: seen, values })
            : step(collection, { values: { [key]: name, ...values } }),
        ];
      }).catch(say);
    },
    undo: () => back("undo"),
    redo: () => back("redo"),
  };
}
