// The cards beside the board: places and conditions, context of a round, the goal and limits, what was heard.
import { Button, Segmented, Select } from "antd";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import type { Editing } from "../../api/edits";
import { Field } from "../../parts/fields";
import type { Gate } from "../../parts/gate";
import { Adder } from "./Adder";

type Props = { doc: Schemas["JobDocument"]; edit: Editing };

export function Context({
  doc,
  round,
  edit,
  items,
  gate,
}: Props & { round: Schemas["Round"]; items: readonly string[]; gate: Gate }) {
  const setState = (state: Schemas["Round"]["state"]) => {
    const go = (why: string) => edit.tryChange("rounds", round, { state, ...(why ? { without_baseline: why } : {}) });
    if (state === "stripped") gate.ask(go);
    else void go("");
  };
  const before = doc.rounds.find((r) => r.id === round.follows_id);
  const open = items.filter((item) => before?.context[item] && !round.context[item]);
  return (
    <>
      <h2>{before ? `Same as “${before.name}”?` : "What could make rounds differ"}</h2>
      <div className="two">
        <Field label="Name of the round" value={round.name} save={(name) => edit.change("rounds", round, { name })} />
        <label className="field">
          <span>State of the work</span>
          <Select
            value={round.state}
            options={["as found", "stripped", "in between", "finished"].map((value) => ({ value, label: value }))}
            onChange={setState}
          />
        </label>
      </div>
      <label className="field">
        <span>It follows</span>
        <Select
          value={round.follows_id ?? 0}
          options={[
            { value: 0, label: "nothing: it is a beginning" },
            ...doc.rounds.filter((r) => r.id !== round.id).map((r) => ({ value: r.id, label: r.name })),
          ]}
          onChange={(n) => void edit.tryChange("rounds", round, { follows_id: n || null })}
        />
      </label>
      {round.without_baseline ? (
        <p className="note warn">Stripped without a baseline: {round.without_baseline}</p>
      ) : null}
      {before && open.length ? (
        <div className="acts">
          <Button
            onClick={() =>
              void edit.tryOperate(
                "rounds",
                round,
                ...open.map((item) => ({ op: "set" as const, at: ["context", item], value: before.context[item] })),
              )
            }
          >
            {open.length === 1 ? `${open[0] ?? ""}: the same` : `All ${open.length} the same as then`}
          </Button>
          <span className="small">Only what somebody has said counts as the same; then note what differs.</span>
        </div>
      ) : null}
      {before ? (
        <Field
          label="What was changed since"
          value={round.changed}
          save={(changed) => edit.change("rounds", round, { changed })}
        />
      ) : null}
      <div className="two">
        {items.map((item) => {
          const was = before?.context[item];
          const now = round.context[item] ?? "";
          return (
            <Field
              key={item}
              label={was && now && was !== now ? `${item} (was ${was})` : item}
              value={now}
              placeholder={was}
              save={(value) => edit.operate("rounds", round, [{ op: "set", at: ["context", item], value }])}
            />
          );
        })}
      </div>
      <Field
        label="Read on (year-month-day)"
        value={round.taken_on}
        placeholder="2026-09-14"
        save={(taken_on) => edit.change("rounds", round, { taken_on })}
      />
      <Button danger onClick={() => void edit.remove("rounds", round)}>
        Remove this round and its readings
      </Button>
    </>
  );
}

export function Remarks({ doc, round, edit }: Props & { round: Schemas["Round"] }) {
  const [role, setRole] = useState<Schemas["Remark"]["role"]>("customer");
  const [heard, setHeard] = useState<Schemas["Remark"]["heard"]>("");
  return (
    <>
      <h2>What people hear, in their words</h2>
      <div className="rows">
        {doc.remarks.map((r) => (
          <div key={r.id}>
            <span>
              “{r.words}”{" "}
              <span className="small">
                {r.role}, {doc.rounds.find((x) => x.id === r.round_id)?.name}
              </span>
            </span>
            <button
              className="key"
              aria-label={`Remove remark of ${r.role}`}
              onClick={() => void edit.remove("remarks", r)}
            >
              remove
            </button>
          </div>
        ))}
      </div>
      <Segmented block value={role} onChange={setRole} options={["driver", "customer", "fitter", "neighbour"]} />
      {round.follows_id ? (
        <Segmented
          block
          value={heard}
          onChange={setHeard}
          options={[{ value: "", label: "no verdict" }, "quieter", "the same", "louder"]}
        />
      ) : null}
      <Adder
        label={`The ${role} says`}
        placeholder="A drone from behind …"
        add={(words) => edit.create("remarks", [{ round_id: round.id, role, words, heard }])}
      />
    </>
  );
}
