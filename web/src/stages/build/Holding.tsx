// How a layer is held, where it goes beside what stands, what ties the leaves on both sides of a cavity, what joins boards.
import { Select } from "antd";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useShelf } from "../../api/hooks";
import { Ask } from "../../parts/fields";
import { FrameFields } from "./frame";

type Layer = Schemas["StackLayerIn"];

const HELD = [
  { value: "", label: "as it usually is" },
  { value: "self-adhesive", label: "self-adhesive" },
  { value: "contact glue", label: "contact glue" },
  { value: "spray glue", label: "spray glue" },
  { value: "tape", label: "tape" },
  { value: "staples", label: "staples" },
  { value: "screws", label: "screws" },
  { value: "isolated screws", label: "isolated screws" },
  { value: "hangers", label: "hangers" },
  { value: "friction", label: "pressed in" },
  { value: "loose", label: "laid loose" },
];

type Props = {
  surface: Schemas["Surface"];
  layer: Layer;
  before: Layer | undefined;
  put: (key: string, value: unknown) => Promise<unknown>;
};

// What is folded up is not drawn: a hand that drags waits for every control there is.
export function Holding(props: Props) {
  const [open, setOpen] = useState(false);
  return (
    <details onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>How it is held, and where</summary>
      {open ? <Held {...props} /> : null}
    </details>
  );
}

function Held({ surface, layer, before, put }: Props) {
  const cards = useShelf().data?.materials ?? [];
  const acts = (id: string | undefined) => cards.find((m) => m.material.id === id)?.acts;
  const present = surface.planned ? [] : (surface.present ?? []);
  const board = acts(layer.material) === "plate";
  const under = before ? acts(before.material) : "plate";
  const name = (id: string) => cards.find((m) => m.material.id === id)?.material.name ?? id;
  return (
    <div className="form">
      <Ask label="Held by">
        <Select value={layer.held ?? ""} options={HELD} onChange={(v) => void put("held", v)} aria-label="Held by" />
      </Ask>
      <Ask label="Where it goes">
        <Select
          value={layer.place ?? ""}
          aria-label="Where it goes"
          options={[
            { value: "", label: present.length ? "over all that stands" : "on the ear's side" },
            ...(present.length ? [{ value: "panel", label: "straight on the panel" }] : []),
            ...present.map((p) => ({ value: p.id ?? "", label: `after ${name(p.material).toLowerCase()}` })),
            { value: "far", label: "on the noise's side of the panel" },
          ]}
          onChange={(v) => void put("place", v)}
        />
      </Ask>
      {board && under === "plate" ? (
        <Ask label="Between it and the board under it">
          <Select
            value={layer.joined ?? ""}
            aria-label="Between the boards"
            options={[
              { value: "", label: "nothing" },
              { value: "compound", label: "damping compound" },
              { value: "adhesive", label: "elastic adhesive" },
            ]}
            onChange={(v) => void put("joined", v)}
          />
        </Ask>
      ) : null}
      {acts(layer.material) === "soft" ? (
        <FrameFields
          label="What ties the leaves beside it"
          frame={layer.tie ?? { kind: "none" }}
          save={(tie) => put("tie", tie.kind === "none" ? null : tie)}
        />
      ) : null}
    </div>
  );
}
