// Fields: one that saves when left and keeps what was refused; a label round any control.
import { Input } from "antd";
import { useEffect, useId, useRef, useState, type ReactNode } from "react";
import { Refused } from "../api/client";
import { useTyped } from "./begun";
import { keptText, shownText, toldUnit, useUnits } from "./units";

// A field that saves when left or on Enter; a refusal stays beside what was typed.
export function Field(props: {
  label: string;
  value: string;
  unit?: string;
  area?: boolean;
  placeholder?: string;
  save: (text: string) => Promise<unknown>;
}) {
  const { label, area, placeholder } = props;
  const units = useUnits();
  const of = props.unit ?? "";
  const [value, unit] = [shownText(props.value, of, units), of ? toldUnit(of, units) : undefined];
  const { begun, type, end } = useTyped(props.save);
  const [wrong, setWrong] = useState("");
  const id = useId();
  const sending = useRef<string | null>(null); // Enter and the blur that follows it are one commit
  const again = useRef(false); // what was typed while that was on its way is one more, after it
  const commit = async () => {
    if (sending.current !== null) {
      again.current = begun !== null && begun.text !== sending.current;
      return;
    }
    if (begun === null || begun.text === value) return end();
    sending.current = begun.text;
    try {
      await begun.over(keptText(begun.text, of, units));
      end(begun.text);
      setWrong("");
    } catch (error) {
      setWrong(error instanceof Refused ? error.message : String(error));
    } finally {
      sending.current = null;
      if (again.current) setTimeout(() => void newest.current()); // once what was kept is in sight
      again.current = false;
    }
  };
  const newest = useRef(commit);
  useEffect(() => {
    newest.current = commit;
  });
  const common = {
    id,
    value: begun?.text ?? value,
    placeholder,
    onChange: (e: { target: { value: string } }) => type(e.target.value),
    onBlur: () => void commit(),
    status: wrong ? ("error" as const) : undefined,
    "aria-invalid": Boolean(wrong),
  };
  return (
    <label className="field" htmlFor={id}>
      <span>{label}</span>
      {area ? (
        <Input.TextArea {...common} rows={3} />
      ) : (
        <Input {...common} suffix={unit} onPressEnter={() => void commit()} />
      )}
      {wrong ? (
        <span className="wrong" role="alert">
          {wrong}
        </span>
      ) : null}
    </label>
  );
}

// A form field without saving of its own.
export function Ask({ label, children, wrong }: { label: string; children: ReactNode; wrong?: string }) {
  return (
    <label className="field">
      <span>{label}</span>
      {children}
      {wrong ? (
        <span className="wrong" role="alert">
          {wrong}
        </span>
      ) : null}
    </label>
  );
}
