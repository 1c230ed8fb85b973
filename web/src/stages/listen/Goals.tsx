// The goal, the limits and what the job is.
import { useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, ask } from "../../api/client";
import { BOARD, jobKey } from "../../api/keys";
import { App, Button, Segmented, Select } from "antd";
import type { Schemas } from "../../api/client";
import type { Editing } from "../../api/edits";
import { useAsking } from "../../parts/asking";
import { Field } from "../../parts/fields";
import { num } from "../../parts/words";

type Doc = Schemas["JobDocument"];

type Props = { doc: Doc; edit: Editing };

const QUANTITIES = [
  { value: "LAeq", label: "A-weighted level" },
  { value: "LCeq", label: "C-weighted level" },
  { value: "low band", label: "level in a low band" },
  { value: "bass gain", label: "loudspeaker level" },
  { value: "ring time", label: "ring time of a panel" },
  { value: "level difference", label: "level difference between rooms" },
  { value: "DnT", label: "level difference, of a room that rings half a second" },
  { value: "impact level", label: "level of steps overhead" },
  { value: "T", label: "how long the room rings" },
  { value: "rattle", label: "rattle" },
];

const UNITS: Record<string, string> = { LAeq: "dB(A)", LCeq: "dB(C)", "ring time": "ms", T: "s", rattle: "left" };
const IN_TIME: Record<string, string> = { "ring time": "ms", T: "s" };
// A goal this far from what was read is more likely the other kind of goal.
const FAR_DB = 30;

const LIMITS = [
  ["added_kg", "Added weight", "kg"],
  ["depth_mm", "Depth", "mm"],
  ["money", "Material", ""],
  ["hours", "Work", "h"],
  ["carries_kg", "More weight its axle or frame may carry", "kg"],
] as const;

// Thrown away as it is seen here: what somebody else did since is not thrown away unseen.
function ThrowAway({ id, revision }: { id: number; revision: number }) {
  const { modal, message } = App.useApp();
  const client = useQueryClient();
  const go = useNavigate();
  const away = async () => {
    try {
      // as it is seen when it is pressed: what was kept here of another day makes way for what comes first
      if (client.isFetching({ queryKey: jobKey(id) })) await client.refetchQueries({ queryKey: jobKey(id) });
      const seen = client.getQueryData<Schemas["JobPage"]>(jobKey(id))?.revision ?? revision;
      await ask(api.DELETE("/api/jobs/{job_id}", { params: { path: { job_id: id }, query: { revision: seen } } }));
      // the board that is come back to is one without it
      await Promise.all([
        client.invalidateQueries({ queryKey: BOARD, refetchType: "all" }),
        client.invalidateQueries({ queryKey: ["get", "/api/trash"] }),
      ]);
      await go("/");
      void message.success("Thrown away. The board brings it back for 30 days.");
    } catch (error) {
      void message.error(error instanceof Error ? error.message : "That did not work.", 8);
    }
  };
  return (
    <Button
      danger
      onClick={() =>
        modal.confirm({
          title: "Throw this job away?",
          content: "Its readings and files go with it. The board brings it back for 30 days.",
          okText: "Throw it away",
          cancelText: "Keep it",
          onOk: away,
        })
      }
    >
      Throw this job away
    </Button>
  );
}

// Name, what they said, photographs and papers go; numbers and sums of papers stay.
function Forget({ id }: { id: number }) {
  const { modal, message } = App.useApp();
  const client = useQueryClient();
  const forget = async () => {
    try {
      await ask(api.DELETE("/api/jobs/{job_id}/customer", { params: { path: { job_id: id } } }));
      await client.invalidateQueries();
      void message.success("The customer is taken out.");
    } catch (error) {
      void message.error(error instanceof Error ? error.message : "That did not work.", 8);
    }
  };
  return (
    <Button
      onClick={() =>
        modal.confirm({
          title: "Take the customer out of this job for good?",
          content:
            "Their name, what they said, the photographs and the papers go, and no undo brings them back. Numbers and sums of papers stay.",
          okText: "Take them out",
          okButtonProps: { danger: true },
          cancelText: "Keep it",
          onOk: forget,
        })
      }
    >
      Take the customer out
    </Button>
  );
}

export function Goals({ doc, edit, revision, asFound }: Props & { revision: number; asFound: number | null }) {
  const goal = doc.goals.find((g) => g.headline);
  const first = { position_id: doc.positions[0]?.id, condition_id: doc.conditions[0]?.id };
  const pick = (rows: readonly { id: number; name: string }[]) => rows.map((r) => ({ value: r.id, label: r.name }));
  const limits = doc.job.limits;
  const asking = useAsking();
  const meant = async (row: Schemas["Goal"], text: string): Promise<boolean> => {
    const value = Number(text.replace(",", "."));
    const far =
      row.aim === "reach" &&
      row.quantity !== "ring time" &&
      row.quantity !== "T" &&
      asFound !== null &&
      asFound - value > FAR_DB;
    if (!far) return true;
    const otherwise = await asking({
      title: `Reach ${text} dB, where ${num(asFound)} was read?`,
      content: `That is ${num(asFound - value)} dB less than it is. ${text} dB less is the other kind of goal: “change by”.`,
      yes: `Change by ${text} dB`,
      no: `Reach ${text} dB`,
    });
    if (otherwise) await edit.tryChange("goals", row, { aim: "change by", value: text });
    return !otherwise;
  };
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
              options={QUANTITIES}
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
            unit={goal.aim === "reach" ? (UNITS[goal.quantity] ?? "dB") : (IN_TIME[goal.quantity] ?? "dB")}
            save={async (value) => {
              if (await meant(goal, value)) await edit.change("goals", goal, { value });
            }}
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
        label="How much the listener’s place swallows"
        unit="m²"
        value={String(doc.job.absorption_m2)}
        save={(absorption_m2) => edit.change("jobs", doc.job, { absorption_m2 })}
      />
      {doc.job.kind === "room" ? (
        <Field
          label="How large the room listened in is"
          unit="m³"
          placeholder="nobody said"
          value={doc.job.volume_m3 == null ? "" : String(doc.job.volume_m3)}
          save={(volume_m3) => edit.change("jobs", doc.job, { volume_m3 })}
        />
      ) : null}
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
      <Forget id={doc.job.id} />
      <ThrowAway id={doc.job.id} revision={revision} />
    </>
  );
}
