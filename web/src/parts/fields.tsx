// Fields: one that saves when left and keeps what was refused; a label round any control.
import { Input } from "antd";
import { useId, useRef, useState, type ReactNode } from "react";
import { Refused } from "../api/client";
import { keptText, shownText, toldUnit, useUnits } from "./units";

type Save = (text: string) => Promise<unknown>;
// Once told that somebody was there before, it saves as of now.
type Begun = { text: string; save: Save | null };

// A field that saves when left or on Enter; a refusal stays beside what was typed. It saves as of when typing began: what
// somebody else made of it since is asked about, not written over.
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
  const [begun, setBegun] = useState<Begun | null>(null);
  const draft = begun?.text ?? null;
  const [wrong, setWrong] = useState("");
  const id = useId();
  const sending = useRef(false); // Enter and the blur that follows it are one commit
  const commit = async () => {
    if (sending.current) return;
    if (begun === null || draft === value) return setBegun(null);
    sending.current = true;
    try {
      await (begun.save ?? props.save)(keptText(begun.text, of, units));
      setBegun((now) => (now?.text === begun.text ? null : now)); // what was typed meanwhile stays
      setWrong("");
    } catch (error) {
      if (error instanceof Refused && error.status === 409) setBegun({ ...begun, save: null });
      setWrong(error instanceof Refused ? error.message : String(error));
    } finally {
      sending.current = false;
    }
  };
  // the other's version is in sight beside the own one
  const told = begun?.save === null ? `Somebody changed this meanwhile, to “${value}”. Enter again puts yours.` : wrong;
  const common = {
    id,
    value: draft ?? value,
    placeholder,
    onChange: (e: { target: { value: string } }) =>
      setBegun({ text: e.target.value, save: begun ? begun.save : props.save }),
    onBlur: () => void commit(),
    status: told ? ("error" as const) : undefined,
    "aria-invalid": Boolean(told),
  };
  return (
    <label className="field" htmlFor={id}>
      <span>{label}</span>
      {area ? (
        <Input.TextArea {...common} rows={3} />
      ) : (
        <Input {...common} suffix={unit} onPressEnter={() => void commit()} />
      )}
      {told ? (
        <span className="wrong" role="alert">
          {told}
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
