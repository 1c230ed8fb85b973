// Which window of this browser sends: one at a time holds the lock, and a window that is looked at takes it; all are told by a channel.
import type { Lead, Message } from "./entry";

const [LOCK, CHANNEL] = ["sphagnum sends", "sphagnum"];

export function windows(): Lead {
  const listeners = new Set<(message: Message) => void>();
  const channel = new BroadcastChannel(CHANNEL);
  channel.onmessage = (e: MessageEvent<Message>) => listeners.forEach((l) => l(e.data));
  let leading = !("locks" in navigator); // where there are no locks each sends its own, which counts once by its name
  let changed: () => void = () => undefined;

  const hold = (steal: boolean) =>
    void navigator.locks
      .request(LOCK, steal ? { steal: true } : {}, async () => {
        leading = true;
        changed();
        await new Promise<never>(() => undefined);
      })
      .catch(() => {
        // taken by a window that is looked at; this one waits for its turn again
        leading = false;
        hold(false);
      });
  if ("locks" in navigator) {
    hold(false);
    document.addEventListener("visibilitychange", () => {
      if (document.visibilityState === "visible" && !leading) hold(true);
    });
  }
  return {
    leading: () => leading,
    onLead: (then) => (changed = then),
    tell: (message) => channel.postMessage(message),
    hear: (listener) => void listeners.add(listener),
  };
}
