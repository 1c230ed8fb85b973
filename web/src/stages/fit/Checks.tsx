// What must work before a place is closed: passed or not, each by a large press, with a note where it did not.
import type { Schemas } from "../../api/client";
import type { Happened } from "./happened";
import { Jot } from "./Jot";
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
  const was = check.note ?? "";
  const say = (what: "passed" | "failed", note = was, over = was) =>
    void happened(what, { item: check.name, note, over });
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
        <Jot
          label={`What is wrong: ${check.name}`}
          value={was}
          placeholder="what is wrong"
          keep={(note, over) => say("failed", note, over)}
        />
      ) : null}
    </div>
  );
}
