// Who else is at the order: told to others as a step is shown, and said where two are at one.
import { useEffect } from "react";
import { api, type Schemas } from "../../api/client";
import { Note } from "../../parts/said";

const [SETTLED_MS, AGAIN_MS] = [400, 20_000];
const ANYBODY = "Somebody";

export function Here({
  id,
  step,
  who,
  here,
}: {
  id: number;
  step: string;
  who: string;
  here: readonly Schemas["Somebody"][];
}) {
  useEffect(() => {
    const tell = () =>
      void api
        .POST("/api/jobs/{job_id}/here", { params: { path: { job_id: id } }, body: { name: who, step } })
        .catch(() => undefined); // away from the server nobody is told
    const first = setTimeout(tell, SETTLED_MS);
    const again = setInterval(tell, AGAIN_MS);
    return () => {
      clearTimeout(first);
      clearInterval(again);
    };
  }, [id, step, who]);
  const same = namesAt(here, step);
  return same ? (
    <Note kind="warn">
      <b>{same}</b> {same.includes(" and ") ? "are" : "is"} at this step too.
    </Note>
  ) : null;
}

// The names of those at a step, in words; empty where nobody is.
export function namesAt(here: readonly Schemas["Somebody"][], step: string): string {
  const names = [...new Set(here.filter((h) => h.step === step).map((h) => h.name || ANYBODY))];
  return names.length > 1 ? `${names.slice(0, -1).join(", ")} and ${names.at(-1) ?? ""}` : (names[0] ?? "");
}
