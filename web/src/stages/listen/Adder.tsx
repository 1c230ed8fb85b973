// One line that adds a name.
import { Button, Input } from "antd";
import { useState } from "react";
import { useKeeping } from "../../api/hooks";
import css from "./listen.module.css";

export function Adder({
  label,
  placeholder,
  add,
}: {
  label: string;
  placeholder: string;
  add: (name: string) => Promise<unknown>;
}) {
  const [name, setName] = useState("");
  const { wrong, keep } = useKeeping(() => setName(""));
  const save = () => void (name.trim() && keep(() => add(name.trim())));
  return (
    <label className="field">
      <span>{label}</span>
      <span className={css.line}>
        <Input
          value={name}
          placeholder={placeholder}
          aria-label={label}
          onChange={(e) => setName(e.target.value)}
          onPressEnter={save}
        />
        <Button onClick={save}>Add</Button>
      </span>
      {wrong ? (
        <span className="wrong" role="alert">
          {wrong}
        </span>
      ) : null}
    </label>
  );
}
