// What the trade says of a stack: mended on a click where an edit mends it, gone against with a reason that is kept.
import { Button, Input } from "antd";
import { memo, useState } from "react";
import type { Schemas } from "../../api/client";
import type { Operation } from "../../api/operations";
import { itemId } from "../../api/client";
import { Note } from "../../parts/said";
import type { Change } from "./sectionDrawing";
import css from "./build.module.css";

type Spoken = Schemas["Spoken"];
const QUIET = ["info", "good"];

export const Rules = memo(function Rules({ rules, change }: { rules: readonly Spoken[]; change: Change }) {
  const loud = rules.filter((r) => !QUIET.includes(r.severity) && !r.overridden);
  const quiet = rules.filter((r) => QUIET.includes(r.severity) && !r.overridden);
  const against = rules.filter((r) => r.overridden);
  return (
    <div className={css.rules}>
      {loud.map((r) => (
        <Said key={r.rule} rule={r} change={change} />
      ))}
      {loud.length === 0 ? <p className="small">Nothing against it.</p> : null}
      {quiet.length ? (
        <details>
          <summary>Good to know ({quiet.length})</summary>
          {quiet.map((r) => (
            <Said key={r.rule} rule={r} change={change} />
          ))}
        </details>
      ) : null}
      {against.length ? (
        <details>
          <summary>Gone against, with a reason ({against.length})</summary>
          {against.map((r) => (
            <Note key={r.rule} kind="info">
              {r.text} <b>“{r.overridden}”</b>{" "}
              <button className="plain small" onClick={() => void change(unsaid(r.rule))}>
                take that back
              </button>
            </Note>
          ))}
        </details>
      ) : null}
    </div>
  );
});

const unsaid = (rule: string): Operation => ({ op: "remove", at: ["overrides"], id: rule });

// The server says which edit mends it; a layer that is added gets a name of its own first.
const ready = (operations: readonly Record<string, unknown>[]): Operation[] =>
  operations.map((o) =>
    o["op"] === "add" ? { ...o, item: { ...(o["item"] as object), id: itemId() } } : o,
  ) as unknown as Operation[];

function Said({ rule, change }: { rule: Spoken; change: Change }) {
  const [why, setWhy] = useState<string | null>(null);
  const loud = !QUIET.includes(rule.severity);
  const keep = () => {
    if (!why?.trim()) return;
    void change({ op: "add", at: ["overrides"], item: { id: rule.rule, reason: why.trim() }, after: null }).then(() =>
      setWhy(null),
    );
  };
  return (
    <Note kind={rule.severity}>
      <b>{rule.text}</b>{" "}
      <span className="mend">
        {rule.severity === "good" ? "" : rule.why}
        {rule.mend && !rule.operations?.length ? ` ${rule.mend}.` : ""}
      </span>
      <span className={css.ruleActs}>
        {rule.operations?.length ? (
          <Button size="small" onClick={() => void change(...ready(rule.operations ?? []))}>
            {rule.mend}
          </Button>
        ) : null}
        {loud && rule.rule !== "layer-makes-worse" && why === null ? (
          <button className="plain small" onClick={() => setWhy("")}>
            do it all the same …
          </button>
        ) : null}
      </span>
      {why === null ? null : (
        <span className={css.ruleActs}>
          <Input
            autoFocus
            value={why}
            aria-label="Why it is done all the same"
            placeholder="why: it is kept and shown in the report"
            onChange={(e) => setWhy(e.target.value)}
            onPressEnter={keep}
          />
          <Button size="small" onClick={keep} disabled={!why.trim()}>
            Keep the reason
          </Button>
        </span>
      )}
    </Note>
  );
}
