// What stands already on a surface: its own panel, and what lies or stands behind it, each with what ties the leaves beside it.
import { Button, Select } from "antd";
import { itemId, type Schemas } from "../../api/client";
import { useShelf } from "../../api/hooks";
import type { Operation } from "../../api/operations";
import { Amount } from "../../parts/Amount";
import { Ask } from "../../parts/fields";
import type { StageProps } from "../../parts/stage";
import { FrameFields } from "./frame";

type Layer = Schemas["StackLayerIn"];
type Props = { surface: Schemas["Surface"]; edit: StageProps["edit"] };

export function Stands({ surface, edit }: Props) {
  const cards = useShelf().data?.materials ?? [];
  const card = (id: string) => cards.find((m) => m.material.id === id);
  const options = cards
    .filter((m) => m.lies && !m.material.retired)
    .map((m) => ({ value: m.material.id, label: m.material.name }));
  const skins = options.filter((o) => card(o.value)?.material.roles.includes("substrate"));
  const put = (...operations: Operation[]) => edit.operate("surfaces", surface, operations);
  const tried = (...operations: Operation[]) => void put(...operations).catch(edit.say);
  const thickness = (id: string) => card(id)?.thicknesses_mm[0] ?? 10;
  const present = surface.present ?? [];
  const row = (layer: Layer, at: string[], choices: typeof options) => (
    <div className="two">
      <Ask label={at[0] === "substrate" ? "Its panel" : "Behind it"}>
        <Select
          value={layer.material}
          options={choices}
          showSearch
          optionFilterProp="label"
          aria-label={at[0] === "substrate" ? "Its panel" : `Behind it: ${layer.material}`}
          onChange={(m) =>
            tried(
              { op: "set", at: [...at, "material"], value: m },
              { op: "set", at: [...at, "thickness_mm"], value: thickness(m) },
            )
          }
        />
      </Ask>
      <Amount
        label="Thickness"
        kind="length"
        value={layer.thickness_mm}
        save={(text) => put({ op: "set", at: [...at, "thickness_mm"], value: text })}
      />
    </div>
  );
  return (
    <>
      <b>{surface.planned ? "What it is to be made of" : "What stands"}</b>
      {row(surface.substrate, ["substrate"], skins)}
      {surface.planned
        ? null
        : present.map((layer) => {
            const at = ["present", layer.id ?? ""];
            return (
              <div key={layer.id} className="form">
                {row(layer, at, options)}
                {card(layer.material)?.acts === "soft" ? (
                  <FrameFields
                    label="What ties the leaves beside it"
                    frame={layer.tie ?? { kind: "none" }}
                    save={(frame) => put({ op: "set", at: [...at, "tie"], value: frame })}
                  />
                ) : null}
                <Button
                  size="small"
                  onClick={() => tried({ op: "remove", at: ["present"], id: layer.id ?? "" })}
                  aria-label={`It is not there: ${card(layer.material)?.material.name ?? layer.material}`}
                >
                  It is not there
                </Button>
              </div>
            );
          })}
      {surface.planned ? null : (
        <Select
          value={null}
          placeholder="+ what lies or stands behind it"
          options={options}
          showSearch
          optionFilterProp="label"
          aria-label="Add what stands behind it"
          onChange={(m: string | null) =>
            m
              ? tried({
                  op: "add",
                  at: ["present"],
                  item: { id: itemId(), material: m, thickness_mm: thickness(m) },
                  after: null,
                })
              : undefined
          }
        />
      )}
    </>
  );
}
