// Seven figures, one for each octave; the program shares them over its bands.
import { Input } from "antd";
import { Ask } from "./fields";

const OCTAVES = ["63 Hz", "125 Hz", "250 Hz", "500 Hz", "1 kHz", "2 kHz", "4 kHz"];

export const NO_OCTAVES: readonly string[] = OCTAVES.map(() => "");

type Props = { values: readonly string[]; change: (values: string[]) => void; hint: string; placeholder?: string };

export function Octaves({ values, change, hint, placeholder = "" }: Props) {
  return (
    <div className="octaves">
      {OCTAVES.map((hz, i) => (
        <Ask key={hz} label={hz}>
          <Input
            value={values[i]}
            inputMode="decimal"
            placeholder={placeholder}
            onChange={(e) => change(values.map((v, j) => (j === i ? e.target.value : v)))}
          />
        </Ask>
      ))}
      <span className="small">{hint}</span>
    </div>
  );
}
