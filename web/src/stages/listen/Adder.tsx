// One line that adds a name.
import { Button, Input } from "antd";
import { useState } from "react";
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
  const [wrong, setWrong] = useState("");
  const save = () => {
    const given = name.trim();
    if (!given) return;
    setName(""); // the next may be typed while this one is on its way
    setWrong("");
    add(given).catch((error: unknown) => {
      setWrong(error instanceof Error ? error.message : "Not kept.");
      setName((now) => now || given);
    });
  };
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
