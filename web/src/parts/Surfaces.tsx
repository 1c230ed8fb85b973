// The surface in hand: a chip each; where they are many, one is looked up by name, with the ones before and after it beside it.
import { Select } from "antd";
import { memo, type ReactNode } from "react";
import type { Schemas } from "../api/client";
import { sameBut } from "./steady";

type Surface = Schemas["Surface"];
type Props = {
  surfaces: readonly Surface[];
  chosen: number | undefined;
  pick: (id: number) => void;
  add: () => void;
  // whether a chip says how many there are of it
  counted?: boolean;
  children?: ReactNode;
};

const MOST_CHIPS = 24;

export function Surfaces({ children, ...rest }: Props) {
  return (
    <div className="chips" role="group" aria-label="Surfaces">
      {rest.surfaces.length > MOST_CHIPS ? <LookUp {...rest} /> : <Chips {...rest} />}
      <button className="chip" onClick={rest.add}>
        + surface
      </button>
      {children}
    </div>
  );
}

const named = (s: Surface, counted: boolean): string => (counted && s.count > 1 ? `${s.name} × ${s.count}` : s.name);

const Chips = memo(
  function Chips({ surfaces, chosen, pick, counted = false }: Props) {
    return surfaces.map((s) => (
      <button key={s.id} className="chip" aria-pressed={s.id === chosen} onClick={() => pick(s.id)}>
        {named(s, counted)}
      </button>
    ));
  },
  sameBut("pick", "add"),
);

const LookUp = memo(
  function LookUp({ surfaces, chosen, pick, counted = false }: Props) {
    const at = surfaces.findIndex((s) => s.id === chosen);
    const step = (by: -1 | 1, label: string, sign: string) => {
      const to = surfaces[at + by];
      return (
        <button className="chip" aria-label={label} disabled={!to} onClick={() => to && pick(to.id)}>
          {sign}
        </button>
      );
    };
    return (
      <>
        {step(-1, "The surface before", "←")}
        <Select
          aria-label="Surface"
          showSearch={{ optionFilterProp: "label" }}
          value={chosen ?? null}
          options={surfaces.map((s) => ({ value: s.id, label: named(s, counted) }))}
          onChange={(id) => {
            if (id !== null) pick(id);
          }}
          style={{ minWidth: 260, minHeight: 34 }}
        />
        {step(1, "The surface after", "→")}
        <span className="small" style={{ alignSelf: "center" }}>
          {at + 1} of {surfaces.length}
        </span>
      </>
    );
  },
  sameBut("pick", "add"),
);
