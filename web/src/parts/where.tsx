// Where a way in lies to the source: the words, and how much louder it is there.
import { Select } from "antd";
import type { Schemas } from "../api/client";
import { useShelf } from "../api/hooks";
import { Ask } from "./fields";
import { signed } from "./words";

export type Where = Schemas["Where"];

const useWhere = (kind: Schemas["Job"]["kind"]): readonly Where[] =>
  (useShelf().data?.offers.where ?? []).filter((w) => w.kind === kind);

// What the words mean for a way in: kept with it, and moved by hand as one likes.
export const saidWhere = (w: Where | undefined) => (w ? { where: w.id, incident_offset_db: w.louder_db } : {});

type Props = {
  kind: Schemas["Job"]["kind"];
  value: string;
  set: (where: Where | undefined) => void;
};

export function AskWhere({ kind, value, set }: Props) {
  const words = useWhere(kind);
  const one = words.find((w) => w.id === value);
  return (
    <Ask label="Where does it lie to the noise?">
      <Select
        value={value}
        options={[
          { value: "", label: "nobody said: as given" },
          ...words.map((w) => ({ value: w.id, label: `${w.words} (${signed(w.louder_db)} dB)` })),
        ]}
        onChange={(id) => set(words.find((w) => w.id === id))}
      />
      <span className="small">
        {one
          ? `${signed(one.louder_db)} dB against the mean of all ways: ${one.source}. A test under Tests wins over it.`
          : "How loud it is outside there decides how much it carries."}
      </span>
    </Ask>
  );
}
