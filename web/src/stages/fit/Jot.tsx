// A few words or a number noted down while standing: kept when left, told with what stood there when typing began.
import { Input } from "antd";
import { useTyped } from "../../parts/begun";

type Props = {
  label: string;
  value: string;
  placeholder: string;
  suffix?: string;
  keep: (text: string, over: string) => void;
};

export function Jot({ label, value, placeholder, suffix, keep }: Props) {
  const { begun, type, end } = useTyped(value);
  return (
    <Input
      size="large"
      value={begun?.text ?? value}
      suffix={suffix}
      placeholder={placeholder}
      aria-label={label}
      inputMode={suffix ? "decimal" : "text"}
      onChange={(e) => type(e.target.value)}
      onBlur={() => {
        if (begun && begun.text !== value) keep(begun.text, begun.over);
        end();
      }}
    />
  );
}
