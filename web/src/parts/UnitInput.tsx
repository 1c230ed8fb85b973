// An input for a number that is kept in a metric unit: shown and typed in the workshop's own.
import { Input, type InputProps } from "antd";
import { useState } from "react";
import { keptText, shownText, toldUnit, useUnits } from "./units";

type Props = Omit<InputProps, "value" | "onChange" | "suffix"> & {
  value: string;
  unit: string;
  onText: (kept: string) => void;
};

export function UnitInput({ value, unit, onText, ...more }: Props) {
  const units = useUnits();
  // what was typed stands as it was typed, while what is kept is what came of it
  const [typed, setTyped] = useState({ text: "", kept: "" });
  const text = typed.kept === value && typed.text ? typed.text : shownText(value, unit, units);
  return (
    <Input
      {...more}
      value={text}
      suffix={toldUnit(unit, units)}
      onChange={(e) => {
        const kept = keptText(e.target.value, unit, units);
        setTyped({ text: e.target.value, kept });
        onText(kept);
      }}
    />
  );
}
