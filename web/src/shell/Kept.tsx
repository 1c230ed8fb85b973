// Whether everything is kept; what a closed window left behind is taken up here, and a press opens what waits.
import { useQueryClient } from "@tanstack/react-query";
import { App } from "antd";
import { useEffect, useState } from "react";
import { askIn, useEdits } from "../api/edits";
import { useQueueStatus } from "../api/hooks";
import { EVERY_JOB } from "../api/keys";
import { keeping } from "../api/entry";
import { Waiting } from "./Waiting";

export function Kept({ reached, narrow }: { reached: boolean; narrow: boolean }) {
  const queue = useEdits();
  const client = useQueryClient();
  const status = useQueueStatus();
  const { message, modal } = App.useApp();
  const [shown, setShown] = useState(false);
  useEffect(() => askIn(modal), [modal]);
  useEffect(() => {
    const quiet = queue.onRefused((aside) => void message.error(aside.why, 8));
    const leaving = (e: BeforeUnloadEvent) => {
      if (queue.status().unwritten) e.preventDefault();
    };
    window.addEventListener("beforeunload", leaving);
    window.addEventListener("online", queue.poke);
    return () => {
      quiet();
      window.removeEventListener("beforeunload", leaving);
      window.removeEventListener("online", queue.poke);
    };
  }, [queue, message]);
  // the server answers again: what waits goes now; once it went, all is seen as it is kept
  useEffect(() => {
    if (reached) queue.poke();
  }, [reached, queue]);
  // what only the server makes is not fetched from nowhere
  useEffect(() => {
    if (reached) return;
    const pressed = (e: MouseEvent) => {
      if (!(e.target instanceof Element) || !e.target.closest('a[href^="/api/"]')) return;
      e.preventDefault();
      void message.info("The server makes this, and it is not reached just now.", 6);
    };
    document.addEventListener("click", pressed, { capture: true });
    return () => document.removeEventListener("click", pressed, { capture: true });
  }, [reached, message]);
  const waits = status.pending > 0 && status.failing;
  useEffect(() => {
    if (!waits) return;
    return () => void client.invalidateQueries({ queryKey: EVERY_JOB });
  }, [waits, client]);
  const aside = status.asides ? `${status.asides} set aside` : "";
  const words = [status.pending || reached ? keeping(status) : "not reached", aside].filter(Boolean).join(" · ");
  const calm = !status.failing && reached && !aside;
  return (
    <>
      {narrow && calm ? (
        <span aria-hidden className="kept-mark">
          {status.pending ? "…" : "✓"}
        </span>
      ) : null}
      <button
        className={`small kept ${calm ? "" : "failing"} ${narrow ? (calm ? "unseen" : "tight") : ""}`}
        disabled={calm}
        onClick={() => setShown(true)}
      >
        <span aria-live="polite" data-testid="kept">
          {words}
        </span>
      </button>
      {shown ? <Waiting close={() => setShown(false)} /> : null}
    </>
  );
}
