// What happens to a step is kept as an event: told by what it is about, signed with who and when.
import type { Schemas } from "../../api/client";
import { author, heardAgo, serverNow } from "../../api/client";
import type { StageProps } from "../../parts/stage";

type Step = Schemas["StepView"];
type What = Schemas["StepEvent"]["what"];
export type Happened = (what: What, more?: Record<string, unknown>) => Promise<boolean>;

const DEVICE = `browser ${author().slice(0, 4)}`;

// The order in which this device saw things happen, whatever its clock says.
function nextSequence(): number {
  const next = Number(localStorage.getItem("sequence") ?? 0) + 1;
  localStorage.setItem("sequence", String(next));
  return next;
}

export function happenedTo(edit: StageProps["edit"], who: string, step: Step | null): Happened {
  return async (what, more = {}) => {
    const about = step ? { ...step.ref, text: step.text, like: step.like } : { phase: "day" };
    try {
      await edit.create("step_events", [
        {
          ...about,
          what,
          at: new Date(serverNow()).toISOString(),
          device_at: new Date().toISOString(),
          heard_s: Math.round(heardAgo()),
          sequence: nextSequence(),
          device: DEVICE,
          who,
          ...more,
        },
      ]);
      return true;
    } catch (error) {
      edit.say(error);
      return false;
    }
  };
}
