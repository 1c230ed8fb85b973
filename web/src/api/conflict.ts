// Which of two versions should stand where somebody else changed the same: asked in one way, of jobs and of the workshop.
import type { App } from "antd";
import { createElement } from "react";
import type { Refused } from "./client";
import type { Asked } from "./entry";

type Values = Record<string, unknown>;
export type Modal = ReturnType<typeof App.useApp>["modal"];

export function askWhich(modal: Modal, failure: Refused, removing: boolean): Promise<Asked> {
  const stored = failure.refusal.stored as Values | null | undefined;
  return new Promise<Asked>((resolve) => {
    modal.confirm({
      title: failure.message,
      width: 560,
      content: createElement(Versions, { stored: stored ?? null, sent: (failure.refusal.sent ?? {}) as Values }),
      okText: removing ? "Remove it all the same" : "Put mine",
      cancelText: "Keep theirs",
      okButtonProps: { disabled: !stored },
      onOk: () => resolve("mine"),
      onCancel: () => resolve("theirs"),
      // left open, it is kept aside
      afterClose: () => resolve("later"),
    });
  });
}

const shown = (value: unknown): string =>
  value === null || value === undefined ? "nothing" : typeof value === "object" ? JSON.stringify(value) : String(value);

function Versions({ stored, sent }: { stored: Values | null; sent: Values }) {
  const line = (label: string, values: Values) =>
    Object.keys(sent).map((k) =>
      createElement("div", { key: label + k }, `${k.replaceAll("_", " ")}: ${shown(values[k]).slice(0, 200)}`),
    );
  return createElement(
    "div",
    { className: "versions" },
    createElement("strong", null, "Theirs"),
    stored ? line("theirs", stored) : createElement("div", null, "removed"),
    createElement("strong", null, "Mine"),
    line("mine", sent),
  );
}
