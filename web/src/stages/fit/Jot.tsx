// A few words or a number noted down while standing: kept when left, told with what stood there when typing began.
import { Input } from "antd";
import { useState } from "react";

type Props = {
  label: string;
  value: string;
  placeholder: string;
  suffix?: string;
  keep: (text: string, over: string) => void;
};

export function Jot({ label, value, placeholder, suffix, keep }: Props) {
  const [begun, setBegun] = useState<{ text: string; over: string } | null>(null);
  return (
    <Input
      size="large"
      value={begun?.text ?? value}
      suffix={suffix}
      placeholder={placeholder}
      aria-label={label}
      inputMode={suffix ? "decimal" : "text"}
      onChange={(e) => setBegun({ text: e.target.value, over: begun?.over ?? value })}
      onBlur={() => {
        if (begun && begun.text !== value) keep(begun.text, begun.over);
        setBegun(null);
      }}
    />
  );
}
