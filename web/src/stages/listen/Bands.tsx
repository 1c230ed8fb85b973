// Levels in octaves or one-third octaves: a labelled field for each, and a whole row pasted into the first that is meant.
import { Input, Segmented } from "antd";
import { useState, type ClipboardEvent } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Dialog, type InDialog } from "../../parts/Dialog";
import { Ask } from "../../parts/fields";
import { num } from "../../parts/words";

const OCTAVES = [31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000];
const THIRDS = [
  25, 31.5, 40, 50, 63, 80, 100, 125, 160, 200, 250, 315, 400, 500, 630, 800, 1000, 1250, 1600, 2000, 2500, 3150, 4000,
  5000, 6300, 8000, 10000,
];
const hertz = (f: number) => (f >= 1000 ? `${f / 1000} kHz` : `${f} Hz`);

export type Begun = { bands: Record<string, string>; octaves: boolean; a_weighted: boolean };
export const NO_BANDS: Begun = { bands: {}, octaves: true, a_weighted: false };

// The bands a text holds, as a file or a paste has them; null where it holds none.
export async function bandsIn(text: string): Promise<Begun | null> {
  const found = (await ask(api.POST("/api/bands", { body: { text } }))) as Schemas["BandsFound"];
  const [hz, levels] = [found.frequency_hz ?? [], found.level_db ?? []];
  const bands = Object.fromEntries(hz.map((f, i) => [String(f), String(levels[i])]));
  return hz.length ? { bands, octaves: found.octaves ?? false, a_weighted: found.a_weighted ?? false } : null;
}

// Figures alone, as they are typed in a row: they stand for the octaves they can only be.
export const asOctaves = (figures: readonly string[]): Begun => {
  const from = figures.length > 8 ? 0 : 1;
  return {
    ...NO_BANDS,
    bands: Object.fromEntries(figures.map((v, i) => [String(OCTAVES[from + i] ?? 16000), v])),
  };
};

type Props = Omit<InDialog, "edit"> & {
  begun: Begun;
  keep: (text: string, weighting: "Z" | "A") => Promise<unknown>;
};

export function Bands({ begun, keep, close }: Props) {
  const [values, setValues] = useState(begun.bands);
  const [octaves, setOctaves] = useState(begun.octaves);
  const [weighting, setWeighting] = useState<"Z" | "A">(begun.a_weighted ? "A" : "Z");
  const bands = octaves ? OCTAVES : THIRDS;
  const typed = bands.filter((f) => (values[f] ?? "").trim() !== "");
  const paste = async (e: ClipboardEvent, at: number) => {
    const text = e.clipboardData.getData("text");
    const figures = text.trim().split(/[\s;]+/);
    if (figures.length < 2) return;
    e.preventDefault();
    const found = await bandsIn(text).catch(() => null);
    if (found) {
      setOctaves(found.octaves);
      if (found.a_weighted) setWeighting("A");
      return setValues(found.bands);
    }
    setValues((old) => ({
      ...old,
      ...Object.fromEntries(figures.slice(0, bands.length - at).map((v, i) => [String(bands[at + i]), v])),
    }));
  };
  return (
    <Dialog
      title="What the meter says, band by band"
      ok={`Keep ${num(typed.length, 0)} bands`}
      close={close}
      wide
      ready={typed.length > 2}
      save={() => keep(typed.map((f) => `${f}: ${(values[f] ?? "").trim().replace(",", ".")}`).join("; "), weighting)}
    >
      <div className="acts">
        <Segmented
          aria-label="Which bands"
          value={octaves ? "octaves" : "thirds"}
          options={[
            { value: "octaves", label: "octaves" },
            { value: "thirds", label: "one-third octaves" },
          ]}
          onChange={(to) => setOctaves(to === "octaves")}
        />
        <Segmented
          aria-label="What they are in"
          value={weighting}
          options={[
            { value: "Z", label: "dB" },
            { value: "A", label: "dB(A) per band" },
          ]}
          onChange={setWeighting}
        />
      </div>
      <div className="octaves">
        {bands.map((f, i) => (
          <Ask key={f} label={hertz(f)}>
            <Input
              value={values[f] ?? ""}
              inputMode="decimal"
              placeholder="dB"
              onPaste={(e) => void paste(e, i)}
              onChange={(e) => setValues({ ...values, [f]: e.target.value })}
            />
          </Ask>
        ))}
      </div>
      <p className="small">
        A row or two columns from a spreadsheet can be pasted into a field. An octave is shared over its thirds by the
        source’s shape; 50 Hz to 5 kHz is predicted, the rest is kept.
      </p>
    </Dialog>
  );
}
