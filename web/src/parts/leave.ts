// What was typed and not kept is asked about before it is left.
import { App } from "antd";

export function useLeave(typed: boolean, close: () => void): () => void {
  const { modal } = App.useApp();
  return () => {
    if (!typed) return close();
    modal.confirm({
      title: "Leave what you typed?",
      content: "It is not kept.",
      okText: "Leave it",
      cancelText: "Go on typing",
      onOk: close,
    });
  };
}
