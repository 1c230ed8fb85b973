// What is seldom said of a step: time and note, somebody else's hands, left out, other material, a step of one's own.
import { Input, Select } from "antd";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useShelf } from "../../api/hooks";
import { Dialog } from "../../parts/Dialog";
import { Unfold } from "../../parts/Unfold";
import type { StageProps } from "../../parts/stage";
import { happenedTo, type Happened } from "./happened";
import { Jot } from "./Jot";
import css from "./fit.module.css";

type Step = Schemas["StepView"];
type Props = { step: Step; edit: StageProps["edit"]; happened: Happened; who: string; page: StageProps["page"] };

export function More({ step, edit, happened, who, page }: Props) {
  const [asks, setAsks] = useState<"skip" | "hand" | "own" | "used" | null>(null);
  const close = () => setAsks(null);
  const order = page.document.job.step_order ?? [];
  return (
    <div className={css.more}>
      <div className={css.notes}>
        <Jot
          label="Time taken"
          value={step.taken_minutes == null ? "" : String(step.taken_minutes)}
          suffix="min"
          placeholder="time taken"
          keep={(minutes) => void (minutes.trim() && happened("note", { minutes }))}
        />
        <Jot
          label="Note"
          value={step.note}
          placeholder="a note: what was found, what was used"
          keep={(note, over) => void happened("note", { note, over })}
        />
      </div>
      {step.who && step.done ? <p className="small">Done by {step.who}.</p> : null}
      {step.handed ? <p className="small">Handed to {step.handed}.</p> : null}
      {step.used.map((u) => (
        <p key={u.material} className="small">
          Really used: {u.material} {u.amount} {u.unit}
          {u.note ? `, ${u.note}` : ""}
        </p>
      ))}
      <Unfold summary="More about this step">
        <div className={css.row}>
          {step.skipped ? (
            <button className={css.chip} onClick={() => void happened("taken up")}>
              Do it after all
            </button>
          ) : (
            <button className={css.chip} onClick={() => setAsks("skip")}>
              Leave it out …
            </button>
          )}
          <button className={css.chip} onClick={() => setAsks("hand")}>
            Hand it to …
          </button>
          <button className={css.chip} onClick={() => setAsks("used")}>
            Something else was used …
          </button>
          <Split step={step} happened={happened} />
          <button className={css.chip} onClick={() => setAsks("own")}>
            A step of my own after it …
          </button>
          <button className={css.chip} onClick={() => void happenedTo(edit, who, null)("day ends", { item: step.key })}>
            To here today
          </button>
          <button
            className={css.chip}
            onClick={() =>
              void edit.tryChange("jobs", page.document.job, {
                step_order: [step.key, ...order.filter((k) => k !== step.key)],
              })
            }
          >
            As soon as it may
          </button>
          {order.length ? (
            <button
              className={css.chip}
              onClick={() => void edit.tryChange("jobs", page.document.job, { step_order: [] })}
            >
              Order as planned again
            </button>
          ) : null}
          {step.ref.own_id == null ? null : (
            <button
              className={css.chip}
              onClick={() => {
                const row = page.document.own_steps?.find((s) => s.id === step.ref.own_id);
                if (row) void edit.remove("own_steps", row);
              }}
            >
              Take this step out
            </button>
          )}
        </div>
      </Unfold>
      {asks === "skip" ? (
        <Ask
          title={`Leave out: ${step.what}`}
          label="Why"
          ok="Leave it out"
          close={close}
          keep={(text) => happened("skipped", { note: text })}
        />
      ) : null}
      {asks === "hand" ? (
        <Ask
          title={`Hand over: ${step.what}`}
          label="To whom"
          ok="Hand it over"
          close={close}
          keep={(text) => happened("handed", { who: text })}
        />
      ) : null}
      {asks === "own" ? (
        <Ask
          title={`After: ${step.what}`}
          label="What is done"
          ok="Add it"
          close={close}
          keep={(text) => edit.create("own_steps", [{ text, after: step.key }])}
        />
      ) : null}
      {asks === "used" ? <Used step={step} close={close} happened={happened} /> : null}
    </div>
  );
}

function Ask(props: {
  title: string;
  label: string;
  ok: string;
  close: () => void;
  keep: (text: string) => Promise<unknown>;
}) {
  const [text, setText] = useState("");
  return (
    <Dialog
      title={props.title}
      ok={props.ok}
      ready={Boolean(text.trim())}
      close={props.close}
      save={() => props.keep(text.trim())}
    >
      <label className="field">
        <span>{props.label}</span>
        <Input autoFocus value={text} maxLength={120} onChange={(e) => setText(e.target.value)} />
      </label>
    </Dialog>
  );
}

function Used({ step, close, happened }: { step: Step; close: () => void; happened: Happened }) {
  const shelf = useShelf();
  const [material, setMaterial] = useState<string | null>(null);
  const [amount, setAmount] = useState("");
  const [unit, setUnit] = useState("kg");
  const [why, setWhy] = useState("");
  return (
    <Dialog
      title={`Really used: ${step.what}`}
      ok="Keep it"
      ready={Boolean(material && why.trim())}
      close={close}
      save={() => happened("used", { material, amount: amount || null, unit, note: why.trim() })}
    >
      <Select
        showSearch={{ optionFilterProp: "label" }}
        aria-label="Material"
        placeholder="material"
        value={material}
        onChange={setMaterial}
        options={(shelf.data?.materials ?? []).map((m) => ({ value: m.material.id, label: m.material.name }))}
      />
      <div className={css.row}>
        <Input
          value={amount}
          aria-label="Amount"
          placeholder="amount, weighed or counted"
          onChange={(e) => setAmount(e.target.value)}
        />
        <Select
          aria-label="Unit"
          value={unit}
          onChange={setUnit}
          options={["kg", "m²", "m", "l", "pieces"].map((u) => ({ value: u }))}
        />
      </div>
      <label className="field">
        <span>Why</span>
        <Input value={why} onChange={(e) => setWhy(e.target.value)} />
      </label>
    </Dialog>
  );
}

// What is not laid yet becomes a step of its own, after the first that is laid; or goes back to it.
function Split({ step, happened }: { step: Step; happened: Happened }) {
  const from = step.pieces.findIndex((p) => !p.laid);
  const later = step.pieces[from];
  if (step.ref.part && !step.done)
    return (
      <button className={css.chip} onClick={() => void happened("joined", { part: 0 })}>
        One step again
      </button>
    );
  if (step.done || step.ref.part || from < 1 || !later) return null;
  return (
    <button className={css.chip} onClick={() => void happened("split", { item: later.id })}>
      From {later.label} on later
    </button>
  );
}
