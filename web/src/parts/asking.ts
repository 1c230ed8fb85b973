// A question with two answers, one of which must be given; true for the first.
import { App } from "antd";

export type Question = { title: string; content: string; yes: string; no: string };

// So long after a key, that the press which led to the question does not answer it too.
const AFTER_A_KEY_MS = 80;

export function useAsking(): (question: Question) => Promise<boolean> {
  const { modal } = App.useApp();
  return ({ title, content, yes, no }) =>
    new Promise((resolve) => {
      setTimeout(
        () =>
          modal.confirm({
            title,
            content,
            okText: yes,
            cancelText: no,
            keyboard: false,
            onOk: () => resolve(true),
            onCancel: () => resolve(false),
          }),
        AFTER_A_KEY_MS,
      );
    });
}
