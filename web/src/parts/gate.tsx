// The gate: before a job is stripped without a baseline, the program asks and keeps the answer.
import { Input, Modal } from "antd";
import { useState } from "react";
import { Link } from "react-router";

export type Gate = {
  ask: (go: (why: string) => Promise<unknown>) => void;
  shown: boolean;
  close: () => void;
  go: (why: string) => Promise<unknown>;
};

// Lets an act through when there is a baseline; else asks first and hands the reason on.
export function useGate(baseline: boolean): Gate {
  const [act, setAct] = useState<((why: string) => Promise<unknown>) | null>(null);
  return {
    ask: (go) => (baseline ? void go("") : setAct(() => go)),
    shown: act !== null,
    close: () => setAct(null),
    go: async (why) => {
      const now = act;
      setAct(null);
      await now?.(why);
    },
  };
}

export function StripGate({ gate, id }: { gate: Gate; id: number }) {
  const [why, setWhy] = useState("");
  return (
    <Modal
      open={gate.shown}
      onCancel={gate.close}
      title="Stop: nothing was read as found"
      okText="Strip it all the same"
      okButtonProps={{ danger: true, disabled: !why.trim() }}
      onOk={() => void gate.go(why.trim())}
      destroyOnHidden
    >
      <div className="form">
        <p>
          Once the trim is out, the level as found can never be read again, and the result cannot be proven against it.
        </p>
        <p>
          <Link to={`/jobs/${id}/listen`} onClick={gate.close}>
            <b>Take the baseline first.</b>
          </Link>{" "}
          Ten minutes are enough.
        </p>
        <label className="field">
          <span>Or say why it must be stripped now; it stands in the report</span>
          <Input.TextArea
            rows={2}
            value={why}
            onChange={(e) => setWhy(e.target.value)}
            placeholder="It came in stripped"
          />
        </label>
      </div>
    </Modal>
  );
}
