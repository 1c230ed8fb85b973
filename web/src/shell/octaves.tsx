// Seven figures, one for each octave; the program shares them over its bands.
import { Input } from "antd";
import { Ask } from "./parts";

export const OCTAVES = ["63 Hz", "125 Hz", "250 Hz", "500 Hz", "1 kHz", "2 kHz", "4 kHz"];

type Props = { values: string[]; change: (values: string[]) => void; hint: string; placeholder?: string };

export function Octaves({ values, change, hint, placeholder = "" }: Props) {
  return (
    <div className="octaves">
      {OCTAVES.map((hz, i) => (
        <Ask key={hz} label={hz}>
          <Input value={values[i] ?? ""} inputMode="decimal" placeholder={placeholder} onChange={(e) => change(OCTAVES.map((_, j) => (j === i ? e.target.value : (values[j] ?? ""))))} />
        </Ask>
      ))}
      <span className="small">{hint}</span>
    </div>
  );
}
