// Starts the application: fonts, colours, queries and the two pages (job board, job).
import "@fontsource/zilla-slab/latin-600.css";
import "@fontsource/atkinson-hyperlegible-next/latin-400.css";
import "@fontsource/atkinson-hyperlegible-next/latin-700.css";
import "./theme/theme.css";
import "./parts/parts.css";
import "./shell/shell.css";
import { StyleProvider } from "@ant-design/cssinjs";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { App as AntApp, ConfigProvider } from "antd";
import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Route, Routes } from "react-router";
import { Refused } from "./api/client";
import { Board } from "./shell/Board";
import { EditsProvider, openQueue } from "./api/edits";
import { recall, remember } from "./api/lately";
import { listenIn } from "./api/news";
import { takenOver } from "./api/store";
import { openOffline } from "./shell/worker";
import { NotHere } from "./shell/NotHere";
import { ahead, JobShell } from "./shell/JobShell";
import { themed } from "./theme/antd";
import { styles } from "./theme/styles";
import { SchemeProvider, useScheme } from "./parts/scheme";

const RECALL_MS = 1500;
const Shelf = lazy(() => import("./shelf/Shelf"));
const Bench = lazy(() => import("./bench/Bench"));
const client = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (n, error) => n < 2 && !(error instanceof Refused && error.status >= 400),
      networkMode: "always", // a server in the yard is reached without the world
    },
  },
});
ahead(client, location.pathname);
const queue = openQueue();
remember(client);
listenIn(client, queue);
openOffline(queue);
void navigator.storage?.persist?.();
const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content ?? "";

// Dialogs of the component library measure the scroll bar with style elements they forget to sign; sign all of ours.
const makeElement = document.createElement.bind(document);
document.createElement = ((name: string, options?: ElementCreationOptions) => {
  const element = makeElement(name, options);
  if (name === "style") element.nonce = nonce;
  return element;
}) as typeof document.createElement;

function Themed() {
  const { scheme } = useScheme();
  return (
    <ConfigProvider csp={{ nonce }} theme={themed(scheme === "dark")}>
      <AntApp>
        <BrowserRouter useTransitions={false}>
          <Routes>
            <Route path="/" element={<Board />} />
            <Route
              path="/shelf"
              element={
                <Suspense fallback={null}>
                  <Shelf />
                </Suspense>
              }
            />
            <Route
              path="/bench"
              element={
                <Suspense fallback={null}>
                  <Bench />
                </Suspense>
              }
            />
            <Route path="/jobs/:jobId/:stage?" element={<JobShell />} />
            <Route path="*" element={<NotHere />} />
          </Routes>
        </BrowserRouter>
      </AntApp>
    </ConfigProvider>
  );
}

const root = document.getElementById("root");
if (root) {
  // what is kept here lies ready before the first question; a store that does not open holds nothing up
  const known = Promise.allSettled([recall(client), queue.restore(takenOver(localStorage))]);
  await Promise.race([known, new Promise((go) => setTimeout(go, RECALL_MS))]);
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={client}>
        <EditsProvider value={queue}>
          <SchemeProvider>
            <StyleProvider cache={styles}>
              <Themed />
            </StyleProvider>
          </SchemeProvider>
        </EditsProvider>
      </QueryClientProvider>
    </StrictMode>,
  );
}
