// The cards beside the board: places and conditions, context of a round, the goal and limits, what was heard.
import { Button, Input, Modal, Segmented, Select } from "antd";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import type { Editing } from "../../api/edits";
import { useKeeping, useShelf } from "../../api/hooks";
import { NO_OCTAVES, Octaves } from "../../parts/octaves";
import { Field, Note } from "../../parts/parts";
import type { Gate } from "../../parts/gate";

type Doc = Schemas["JobDocument"];
type Props = { doc: Doc; edit: Editing };

export function Places({ doc, edit, open }: Props & { open: boolean }) {
  const shelf = useShelf();
  const spectra = (shelf.data?.spectra ?? []).map((s) => ({ value: s.id, label: s.name }));
  const start = shelf.data?.offers.starts?.find((x) => x.kind === doc.job.kind);
  const [typing, setTyping] = useState<number | null>(null);
  const typed = doc.conditions.find((c) => c.id === typing);
  return (
    <details className="places" open={open || undefined}>
      <summary>Places and conditions</summary>
      <div className="two">
        <div className="form">
          {doc.positions.map((p) => (
            <div key={p.id} className="line">
              <Field label="Place" value={p.name} save={(name) => edit.change("positions", p, { name })} />
              <button
                className="chip"
                aria-pressed={p.control}
                title="Nothing should change here: its drift is taken off the others"
                onClick={() => void edit.tryChange("positions", p, { control: !p.control })}
              >
                control
              </button>
              <button
                className="chip"
                aria-pressed={p.at_source}
                title="Near the source: the bands read here are what meets the paths"
                onClick={() => void edit.tryChange("positions", p, { at_source: !p.at_source })}
              >
                at the source
              </button>
              <button className="key" aria-label={`Remove ${p.name}`} onClick={() => void edit.remove("positions", p)}>
                remove
              </button>
            </div>
          ))}
          <Adder
            label="Another place"
            placeholder={start?.places[0] ?? "Driver's ear"}
            add={(name) => edit.create("positions", [{ name }])}
          />
          <Names
            taken={doc.positions}
            names={start?.places ?? []}
            add={(name) => edit.create("positions", [{ name }]).catch(edit.say)}
          />
        </div>
        <div className="form">
          {doc.conditions.map((c) => (
            <div key={c.id} className="line">
              <Field label="Condition" value={c.name} save={(name) => edit.change("conditions", c, { name })} />
              <label className="field">
                <span>Source</span>
                <Select
                  value={c.spectrum_db ? TYPED : c.spectrum}
                  options={[
                    { value: TYPED, label: c.spectrum_db ? "as typed by octave" : "type it by octave …" },
                    ...spectra,
                  ]}
                  onSelect={(spectrum) =>
                    spectrum === TYPED
                      ? setTyping(c.id)
                      : void edit.tryChange("conditions", c, { spectrum, spectrum_db: null })
                  }
                />
              </label>
              <button className="key" aria-label={`Remove ${c.name}`} onClick={() => void edit.remove("conditions", c)}>
                remove
              </button>
            </div>
          ))}
          <Adder
            label="Another condition"
            placeholder={start?.conditions[0]?.[0] ?? "80 km/h"}
            add={(name) => edit.create("conditions", [{ name, ...(start ? { spectrum: start.spectrum } : {}) }])}
          />
          <Names
            taken={doc.conditions}
            names={(start?.conditions ?? []).map((c) => c[0] ?? "")}
            add={(name) =>
              edit
                .create("conditions", [
                  { name, spectrum: start?.conditions.find((c) => c[0] === name)?.[1] ?? start?.spectrum },
                ])
                .catch(edit.say)
            }
          />
        </div>
      </div>
      {typed ? <TypedSpectrum condition={typed} edit={edit} close={() => setTyping(null)} /> : null}
    </details>
  );
}

// Names jobs of this kind usually have, to be taken with one press.
function Names({
  names,
  taken,
  add,
}: {
  names: readonly string[];
  taken: readonly { name: string }[];
  add: (name: string) => unknown;
}) {
  const free = names.filter((n) => !taken.some((t) => t.name === n));
  return free.length ? (
    <div className="chips" role="group" aria-label="Usual names">
      {free.map((n) => (
        <button key={n} className="chip" onClick={() => void add(n)}>
          + {n}
        </button>
      ))}
    </div>
  ) : null;
}

const TYPED = "typed";

// The source's own spectrum by octave, where it is known from a maker or an earlier job.
function TypedSpectrum({
  condition,
  edit,
  close,
}: {
  condition: Schemas["Condition"];
  edit: Editing;
  close: () => void;
}) {
  const [octaves, setOctaves] = useState(NO_OCTAVES);
  const { wrong, keep } = useKeeping(close);
  return (
    <Modal
      title={`Spectrum of ${condition.name}`}
      open
      onCancel={close}
      onOk={() => void keep(() => edit.change("conditions", condition, { spectrum_db: octaves }))}
      okText="Keep it"
    >
      <div className="form">
        <Octaves
          values={octaves}
          change={setOctaves}
          hint="Level of the source in each octave, dB, unweighted. Its shape counts; the level is held to what was read."
        />
        {wrong ? <Note kind="danger">{wrong}</Note> : null}
      </div>
    </Modal>
  );
}

export function Adder({
  label,
  placeholder,
  add,
}: {
  label: string;
  placeholder: string;
  add: (name: string) => Promise<unknown>;
}) {
  const [name, setName] = useState("");
  const { wrong, keep } = useKeeping(() => setName(""));
  const save = () => void (name.trim() && keep(() => add(name.trim())));
  return (
    <label className="field">
      <span>{label}</span>
      <span className="line">
        <Input
          value={name}
          placeholder={placeholder}
          aria-label={label}
          onChange={(e) => setName(e.target.value)}
          onPressEnter={save}
        />
        <Button onClick={save}>Add</Button>
      </span>
      {wrong ? (
        <span className="wrong" role="alert">
          {wrong}
        </span>
      ) : null}
    </label>
  );
}

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

const QUANTITIES = ["LAeq", "LCeq", "low band", "bass gain", "ring time", "level difference", "rattle"];
const LIMITS = [
  ["added_kg", "Added weight", "kg"],
  ["depth_mm", "Depth", "mm"],
  ["money", "Material", ""],
  ["hours", "Work", "h"],
] as const;

export function Goals({ doc, edit }: Props) {
  const goal = doc.goals.find((g) => g.headline);
  const first = { position_id: doc.positions[0]?.id, condition_id: doc.conditions[0]?.id };
  const pick = (rows: readonly { id: number; name: string }[]) => rows.map((r) => ({ value: r.id, label: r.name }));
  const limits = doc.job.limits;
  return (
    <>
      <h2>The goal</h2>
      {goal ? (
        <>
          <label className="field">
            <span>At this place</span>
            <Select
              value={goal.position_id}
              options={pick(doc.positions)}
              onChange={(position_id) => void edit.tryChange("goals", goal, { position_id })}
            />
          </label>
          <label className="field">
            <span>In this condition</span>
            <Select
              value={goal.condition_id}
              options={pick(doc.conditions)}
              onChange={(condition_id) => void edit.tryChange("goals", goal, { condition_id })}
            />
          </label>
          <label className="field">
            <span>Quantity</span>
            <Select
              value={goal.quantity}
              options={QUANTITIES.map((value) => ({ value, label: value }))}
              onChange={(quantity) => void edit.tryChange("goals", goal, { quantity })}
            />
          </label>
          <Segmented
            block
            value={goal.aim}
            options={["change by", "reach"]}
            onChange={(aim) => void edit.tryChange("goals", goal, { aim })}
          />
          <Field
            label={goal.aim === "reach" ? "Level to reach" : "By how much"}
            value={String(goal.value)}
            unit="dB"
            save={(value) => edit.change("goals", goal, { value })}
          />
        </>
      ) : first.position_id && first.condition_id ? (
        <Button
          type="primary"
          onClick={() => void edit.create("goals", [{ ...first, aim: "change by", value: 5 }]).catch(edit.say)}
        >
          Set a goal: 5 dB less
        </Button>
      ) : (
        <p className="small">Name a place and a condition first.</p>
      )}
      <h2>Limits</h2>
      <div className="two">
        {LIMITS.map(([key, label, unit]) => (
          <Field
            key={key}
            label={label}
            unit={unit || doc.job.currency}
            value={limits[key] == null ? "" : String(limits[key])}
            placeholder="none"
            save={(value) => edit.operate("jobs", doc.job, [{ op: "set", at: ["limits", key], value }])}
          />
        ))}
      </div>
      <Field
        label="Temperature where the treatment works"
        unit="°C"
        value={String(doc.job.temperature_c)}
        save={(temperature_c) => edit.change("jobs", doc.job, { temperature_c })}
      />
      <Field
        label="Absorption area where the listener is"
        unit="m²"
        value={String(doc.job.absorption_m2)}
        save={(absorption_m2) => edit.change("jobs", doc.job, { absorption_m2 })}
      />
      <div className="two">
        <Field label="Name of the job" value={doc.job.name} save={(name) => edit.change("jobs", doc.job, { name })} />
        <Field
          label="Customer"
          value={doc.job.customer}
          save={(customer) => edit.change("jobs", doc.job, { customer })}
        />
        <Field
          label="Workshop, for the report"
          value={doc.job.workshop}
          save={(workshop) => edit.change("jobs", doc.job, { workshop })}
        />
        <Field
          label="Currency"
          value={doc.job.currency}
          save={(currency) => edit.change("jobs", doc.job, { currency })}
        />
      </div>
      <Field
        label="What is heard and when"
        area
        value={doc.job.note}
        save={(note) => edit.change("jobs", doc.job, { note })}
      />
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
