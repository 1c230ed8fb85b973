// The worker that opens the application without a network; a new version takes over only when nothing waits to be sent.
import type { Queue } from "../api/queue";

const LOOK_MS = 3600_000;

export function openOffline(queue: Queue): void {
  const workers = navigator.serviceWorker;
  if (!import.meta.env.PROD || !("serviceWorker" in navigator)) return;
  let ours = workers.controller !== null;
  // a page that was open all along is shown anew by the version it now talks to, once nobody looks at it
  workers.addEventListener("controllerchange", () => {
    if (ours) whenHidden(() => location.reload());
    ours = true;
  });
  const take = (worker: ServiceWorker | null) => {
    if (!worker) return;
    const when = () => {
      if (queue.status().pending || queue.status().asides) return;
      quiet();
      whenHidden(() => worker.postMessage({ type: "SKIP_WAITING" }));
    };
    const quiet = queue.subscribe(when);
    when();
  };
  const register = async () => {
    const known = await workers.register("/sw.js");
    take(known.waiting);
    known.addEventListener("updatefound", () => {
      const coming = known.installing;
      coming?.addEventListener("statechange", () => {
        if (coming.state === "installed" && workers.controller) take(coming);
      });
    });
    setInterval(() => void known.update().catch(() => undefined), LOOK_MS);
  };
  const begin = () => setTimeout(() => void register().catch(() => undefined), 1500);
  if (document.readyState === "complete") begin();
  else window.addEventListener("load", begin, { once: true });
}

function whenHidden(go: () => void): void {
  if (document.visibilityState === "hidden") return go();
  const later = () => {
    if (document.visibilityState !== "hidden") return;
    document.removeEventListener("visibilitychange", later);
    go();
  };
  document.addEventListener("visibilitychange", later);
}
