// Cards beside Prove: whether it was fair, what must not get worse, when to look again.
import { Button, Input, Select } from "antd";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import type { Editing } from "../../api/edits";
import { Ask } from "../../parts/fields";
import { Note } from "../../parts/said";
import { num, signed } from "../../parts/words";
import css from "./prove.module.css";

type Doc = Schemas["JobDocument"];
const KIND = { "like for like": "good", "with caution": "warn", "not comparable": "danger" } as const;

export function FairCard({ fair }: { fair: Schemas["FairView"] | undefined }) {
  const changed = fair?.items.filter((f) => f.same === false) ?? [];
  const rest = fair?.items.filter((f) => f.same !== false) ?? [];
  return (
    <>
      <h2>Was it a fair comparison?</h2>
      {fair?.fairness ? (
        <Note kind={KIND[fair.fairness]}>
          <b>{fair.words}</b>
        </Note>
      ) : (
        <p className="small">Not known yet.</p>
      )}
      {changed.map((f) => (
        <div key={f.item} className={`${css.fairItem} ${f.weight === "forbids" ? css.forbids : ""}`}>
          <b>
            {f.item}: {f.before} → {f.after}
          </b>
          <span className="small">
            {f.worth_db != null ? `by itself worth about ${signed(f.worth_db)} dB` : `could be worth ${f.worth}`}
          </span>
        </div>
      ))}
      <details className={css.fairRest} open={changed.length === 0 || undefined}>
        <summary>
          {rest.filter((f) => f.same).length} the same, {rest.filter((f) => f.same == null).length} not noted
        </summary>
        <div className="rows">
          {rest.map((f) => (
            <div key={f.item}>
              <span>{f.item.charAt(0).toUpperCase() + f.item.slice(1)}</span>
              <span>{f.same ? `✓ ${f.after}` : <span className="small">not noted</span>}</span>
            </div>
          ))}
        </div>
      </details>
    </>
  );
}

export function SideEffects({ doc, view, edit }: { doc: Doc; view: Schemas["ProveView"]; edit: Editing }) {
  const [open, setOpen] = useState(false);
  const [draft, setDraft] = useState({ name: "", unit: "°C", value: "", load: "", allowed: "3" });
  const [round, setRound] = useState<number | undefined>(undefined);
  const [wrong, setWrong] = useState("");
  const at = round ?? view.after_id ?? doc.rounds.at(-1)?.id;
  const put = (key: keyof typeof draft) => (e: { target: { value: string } }) =>
    setDraft({ ...draft, [key]: e.target.value });
  const add = async () => {
    try {
      await edit.create("side_effects", [
        {
          round_id: at,
          name: draft.name,
          unit: draft.unit,
          value: draft.value,
          load: draft.load,
          allowed_change: draft.allowed,
        },
      ]);
      setDraft({ ...draft, value: "" });
      setWrong("");
    } catch (e) {
      setWrong(e instanceof Error ? e.message : "Not kept.");
    }
  };
  return (
    <>
      <h2>What must not get worse</h2>
      {view.side_effects.length ? (
        <div className="rows">
          {view.side_effects.map((s) => (
            <div key={s.name}>
              <span>
                {s.name}{" "}
                <span className="small">
                  {num(s.before)} → {num(s.after)} {s.unit}
                </span>
              </span>
              <span className={s.good === false ? css.louder : s.good ? "num" : ""}>
                {s.good ? "✓ " : s.good === false ? "✗ " : ""}
                {s.words}
              </span>
            </div>
          ))}
        </div>
      ) : (
        <p className="small">
          A quieter box may run hotter: note a temperature, a trip current or a closing force before and after, at the
          same load.
        </p>
      )}
      {open && at ? (
        <div className="form">
          <div className="two">
            <Ask label="What" wrong={wrong}>
              <Input value={draft.name} placeholder="Temperature of the machine" onChange={put("name")} />
            </Ask>
            <Ask label="In round">
              <Select
                value={at}
                options={doc.rounds.map((r) => ({ value: r.id, label: r.name }))}
                onChange={setRound}
              />
            </Ask>
            <Ask label="Reads">
              <Input value={draft.value} onChange={put("value")} />
            </Ask>
            <Ask label="Unit">
              <Input value={draft.unit} onChange={put("unit")} />
            </Ask>
            <Ask label="At which load">
              <Input value={draft.load} placeholder="full" onChange={put("load")} />
            </Ask>
            <Ask label="May rise by">
              <Input value={draft.allowed} suffix={draft.unit} onChange={put("allowed")} />
            </Ask>
          </div>
          <Button onClick={() => void add()}>Note it</Button>
        </div>
      ) : (
        <button className="chip" onClick={() => setOpen(true)}>
          note a figure
        </button>
      )}
    </>
  );
}

export function Reminders({ doc, edit }: { doc: Doc; edit: Editing }) {
  const add = (weeks: number) => {
    const day = new Date(Date.now() + weeks * 7 * 86_400_000).toISOString().slice(0, 10);
    void edit
      .create("reminders", [{ due_on: day, what: "Look and read again: what sagged, came loose, corroded?" }])
      .catch(edit.say);
  };
  return (
    <>
      <h2>Look again</h2>
      <div className="rows">
        {doc.reminders.map((r) => (
          <div key={r.id}>
            <span>
              {r.due_on} <span className="small">{r.what}</span>
            </span>
            <button
              className="chip"
              aria-pressed={r.done}
              onClick={() => void edit.tryChange("reminders", r, { done: !r.done })}
            >
              {r.done ? "done" : "open"}
            </button>
          </div>
        ))}
      </div>
      <div className="chips">
        <button className="chip" onClick={() => add(6)}>
          in six weeks
        </button>
        <button className="chip" onClick={() => add(26)}>
          in half a year
        </button>
      </div>
    </>
  );
}
