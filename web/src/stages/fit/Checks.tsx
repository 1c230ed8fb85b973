// What must work before a place is closed: passed or not, each by a large press, with a note where it did not.
import { Input } from "antd";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import type { Happened } from "./happened";
import css from "./fit.module.css";

export function Checks({ step, happened }: { step: Schemas["StepView"]; happened: Happened }) {
  return (
    <section className={css.checks} aria-label="Checks">
      {step.checks.map((c) => (
        <Check key={c.name} check={c} happened={happened} />
      ))}
    </section>
  );
}

function Check({ check, happened }: { check: Schemas["Check"]; happened: Happened }) {
  const [note, setNote] = useState(check.note ?? "");
  const say = (what: "passed" | "failed") => void happened(what, { item: check.name, note });
  return (
    <div role="group" aria-label={check.name} className={css.check} data-passed={check.passed ?? undefined}>
      <b>
        {check.name.charAt(0).toUpperCase()}
        {check.name.slice(1)}
      </b>
      <button className={css.chip} aria-pressed={check.passed === true} onClick={() => say("passed")}>
        ✓ works
      </button>
      <button className={`${css.chip} ${css.bad}`} aria-pressed={check.passed === false} onClick={() => say("failed")}>
        ✗ does not
      </button>
      {check.passed === false ? (
        <Input
          size="large"
          value={note}
          aria-label={`What is wrong: ${check.name}`}
          placeholder="what is wrong"
          onChange={(e) => setNote(e.target.value)}
          onBlur={() => {
            if (note !== check.note) say("failed");
          }}
        />
      ) : null}
    </div>
  );
}
