// Hands a report over: numbered and frozen as it is now.
import { App, Button } from "antd";
import { useState } from "react";
import { api, ask } from "../api/client";
import { useAsSeen } from "../api/hooks";
import { useOnce } from "../parts/once";
import { Note } from "../parts/said";
import { useHandOver } from "./Papers";

export function HandReport({ id, revision }: { id: number; revision: number }) {
  const { hand } = useHandOver(id);
  const { message } = App.useApp();
  const [busy, once] = useOnce();
  const [said, setSaid] = useState("");
  const seen = useAsSeen(id);
  const go = () =>
    once(async () => {
      setSaid("");
      try {
        const done = await hand({
          kind: "report",
          plans: [],
          on: "",
          audience: "customer",
          revision,
          seen: null,
          version_of: null,
        });
        void message.success(`Handed over as ${done.number}.`);
      } catch (error) {
        setSaid(error instanceof Error ? error.message : "Not handed over.");
      }
    });
  const copy = () =>
    once(async () => {
      try {
        const words = await ask(
          api.GET("/api/jobs/{job_id}/report.{way}", {
            params: { path: { job_id: id, way: "txt" } },
            parseAs: "text",
          }),
        );
        await navigator.clipboard.writeText(String(words));
        void message.success("Copied, to be put into a mail.");
      } catch (error) {
        void message.error(error instanceof Error ? error.message : "Not copied.", 8);
      }
    });
  return (
    <>
      <Button loading={busy} disabled={!seen} onClick={() => void go()}>
        Hand it over
      </Button>
      <Button onClick={() => void copy()}>Copy as text</Button>
      {said ? <Note kind="warn">{said}</Note> : null}
    </>
  );
}
