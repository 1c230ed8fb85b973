// A dialog with one answer: given once however quickly it is pressed, and what was refused stands in it.
import { Modal } from "antd";
import { useState, type KeyboardEvent, type ReactNode } from "react";
import { useOnce } from "./once";
import { Note } from "./said";
import type { StageProps } from "./stage";

export type InDialog = { edit: StageProps["edit"]; close: () => void };
type Props = Pick<InDialog, "close"> & {
  title: string;
  ok: string;
  save: () => Promise<unknown>;
  ready?: boolean;
  wide?: boolean;
  children: ReactNode;
};

export function Dialog({ title, ok, save, close, ready = true, wide = false, children }: Props) {
  const [wrong, setWrong] = useState("");
  const [busy, once] = useOnce();
  const keep = () =>
    once(async () => {
      try {
        await save();
        close();
      } catch (error) {
        setWrong(error instanceof Error ? error.message : "Not kept.");
      }
    });
  const enter = (e: KeyboardEvent) => {
    const field = e.target as HTMLElement;
    if (e.key === "Enter" && ready && field.tagName === "INPUT" && field.role !== "combobox") void keep();
  };
  return (
    <Modal
      title={title}
      open
      onCancel={close}
      onOk={() => void keep()}
      okText={ok}
      confirmLoading={busy}
      okButtonProps={{ disabled: !ready }}
      {...(wide ? { width: 760 } : {})}
    >
      <div className="form" onKeyDown={enter}>
        {children}
        {wrong ? <Note kind="danger">{wrong}</Note> : null}
      </div>
    </Modal>
  );
}
