// The shelf under the section: materials by role, clicked or dragged.
import { useAddress } from "../../parts/address";
import type { Schemas } from "../../api/client";
import { useShelf } from "../../api/hooks";
import css from "./build.module.css";

type Material = Schemas["Material"];

export const SHELF = "shelf";
const ROLES = ["damping", "decoupler", "barrier", "absorber", "seal", "isolator", "substrate"] as const;

export function ShelfStrip({ add }: { add: (material: string, mm: number) => void }) {
  const shelf = useShelf();
  const address = useAddress();
  const role = address.oneOf("role", ROLES) ?? ROLES[0];
  const found = (shelf.data?.materials ?? []).filter((m) => m.roles.includes(role));
  return (
    <div className={css.shelf} id={SHELF}>
      <div className="chips" role="group" aria-label="Shelf">
        <b>Shelf</b>
        {ROLES.map((r) => (
          <button key={r} className="chip" aria-pressed={r === role} onClick={() => address.put({ role: r })}>
            {r}
          </button>
        ))}
      </div>
      <div className={css.shelfRow}>
        {found.map((m) => (
          <ShelfItem key={m.id} material={m} add={add} />
        ))}
      </div>
    </div>
  );
}

function ShelfItem({ material, add }: { material: Material; add: (material: string, mm: number) => void }) {
  const mm = material.thicknesses_mm[Math.min(1, material.thicknesses_mm.length - 1)] ?? 1;
  const facts = [
    material.thicknesses_mm.length ? `${material.thicknesses_mm.join(", ")} mm` : "",
    material.properties.density_kg_m3 ? `${material.properties.density_kg_m3} kg/m³` : "",
    material.source_class,
  ].filter(Boolean);
  return (
    <button
      className={css.shelfItem}
      draggable
      onDragStart={(e) => e.dataTransfer.setData("text/plain", `${material.id}|${mm}`)}
      onClick={() => add(material.id, mm)}
    >
      <b>
        <span className="unseen">Add </span>
        {material.name}
      </b>
      <span className="small">{facts.join(" · ")}</span>
    </button>
  );
}
