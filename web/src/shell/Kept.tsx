// Whether everything is kept; edits left behind by a closed window are taken up here, and leaving too early is asked about.
import { useQueryClient } from "@tanstack/react-query";
import { App } from "antd";
import { useEffect } from "react";
import { askIn, useEdits } from "../api/edits";
import { useQueueStatus } from "../api/hooks";
import { EVERY_JOB } from "../api/keys";
import { keeping } from "../api/queue";

export function Kept({ reached, narrow }: { reached: boolean; narrow: boolean }) {
  const queue = useEdits();
  const client = useQueryClient();
  const status = useQueueStatus();
  const { message, modal } = App.useApp();
  useEffect(() => askIn(modal), [modal]);
  useEffect(() => {
    const quiet = queue.onRefused(
      (error) => void message.error(error instanceof Error ? error.message : "An edit was not kept.", 8),
    );
    const take = () => {
      queue.beat();
      if (queue.restore()) void queue.idle().then(() => client.invalidateQueries({ queryKey: EVERY_JOB }));
    };
    take();
    const timer = setInterval(take, 3000);
    const leaving = (e: BeforeUnloadEvent) => {
      if (queue.status().pending) e.preventDefault();
    };
    window.addEventListener("beforeunload", leaving);
    return () => {
      quiet();
      clearInterval(timer);
      window.removeEventListener("beforeunload", leaving);
    };
  }, [queue, client, message]);
  const words = status.pending || reached ? keeping(status) : "not reached";
  const calm = !status.failing && reached;
  return (
    <>
      {narrow && calm ? (
        <span aria-hidden className="kept-mark">
          {status.pending ? "…" : "✓"}
        </span>
      ) : null}
      <span
        className={`small kept ${status.failing ? "failing" : ""} ${narrow && calm ? "unseen" : ""}`}
        aria-live="polite"
        data-testid="kept"
      >
        {words}
      </span>
    </>
  );
}
