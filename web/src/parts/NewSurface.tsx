// A new surface: its name, size and skin.
import { Input, Modal, Select } from "antd";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { useShelf } from "../api/hooks";
import { Ask } from "./fields";
import { Note } from "./said";
import type { StageProps } from "./stage";

type Dialog = { edit: StageProps["edit"]; close: () => void };

const message = (error: unknown) => (error instanceof Error ? error.message : "Not kept.");

type Skin = { material: string; thickness_mm: number | string };

// What a panel is made of where nobody said it yet.
export const FIRST_SKIN: Record<Schemas["Job"]["kind"], Skin> = {
  vehicle: { material: "steel", thickness_mm: 0.8 },
  enclosure: { material: "plywood", thickness_mm: 9 },
  room: { material: "gypsum-board", thickness_mm: 12.5 },
};

// An upright panel as it is typed; the program reads the numbers.
export const panelOf = (name: string, width: string, height: string, substrate: Skin) => ({
  name,
  outline_mm: [
    [0, 0],
    [width, 0],
    [width, height],
    [0, height],
  ],
  substrate,
});

export function NewSurface({
  edit,
  close,
  kind,
  done,
}: Dialog & { kind: Schemas["Job"]["kind"]; done: (id: number) => void }) {
  const shelf = useShelf();
  const [name, setName] = useState("");
  const [width, setWidth] = useState("");
  const [height, setHeight] = useState("");
  const [material, setMaterial] = useState<string>(FIRST_SKIN[kind].material);
  const [thickness, setThickness] = useState(String(FIRST_SKIN[kind].thickness_mm));
  const [wrong, setWrong] = useState("");
  const substrates = (shelf.data?.materials ?? []).filter((m) => m.roles.includes("substrate"));
  const save = async () => {
    try {
      const made = await edit.together([
        edit.adding("surfaces", panelOf(name, width, height, { material, thickness_mm: thickness })),
        edit.adding("paths", { name, surface_id: "#0" }),
      ]);
      const id = made[0]?.["id"];
      if (typeof id === "number") done(id);
      close();
    } catch (error) {
      setWrong(message(error));
    }
  };
  return (
    <Modal title="A new surface" open onCancel={close} onOk={() => void save()} okText="Draw it">
      <div className="form">
        <Ask label="Name">
          <Input autoFocus value={name} placeholder="Sliding door" onChange={(e) => setName(e.target.value)} />
        </Ask>
        <div className="two">
          <Ask label="Width">
            <Input value={width} suffix="mm" onChange={(e) => setWidth(e.target.value)} />
          </Ask>
          <Ask label="Height">
            <Input value={height} suffix="mm" onChange={(e) => setHeight(e.target.value)} />
          </Ask>
          <Ask label="What it is made of">
            <Select
              value={material}
              options={substrates.map((m) => ({ value: m.id, label: m.name }))}
              onChange={(v) => {
                setMaterial(v);
                setThickness(String(substrates.find((m) => m.id === v)?.thicknesses_mm[0] ?? 1));
              }}
            />
          </Ask>
          <Ask label="Thickness">
            <Input value={thickness} suffix="mm" onChange={(e) => setThickness(e.target.value)} />
          </Ask>
        </div>
        {wrong ? <Note kind="danger">{wrong}</Note> : null}
      </div>
    </Modal>
  );
}
