// The shelf under the section: materials by role or by name, each with what the hand asks for; clicked or dragged.
import { Input } from "antd";
import { memo, useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useShelf } from "../../api/hooks";
import { useAddress } from "../../parts/address";
import { areal, length, useUnits, type Units, priced } from "../../parts/units";
import css from "./build.module.css";

type Card = Schemas["MaterialCard"];
type Add = (material: string, mm: number) => void;

export const SHELF = "shelf";
const ROLES = ["damping", "decoupler", "barrier", "absorber", "seal", "isolator", "substrate"] as const;

const CALLED: Record<string, string> = { substrate: "board", decoupler: "soft layer", isolator: "rubber" };

export const ShelfStrip = memo(function ShelfStrip({ add }: { add: Add }) {
  const shelf = useShelf();
  const units = useUnits();
  const address = useAddress();
  const [wanted, setWanted] = useState("");
  const role = address.oneOf("role", ROLES) ?? ROLES[0];
  const name = wanted.trim().toLowerCase();
  const found = (shelf.data?.materials ?? []).filter(
    (m) =>
      !m.material.retired &&
      (name
        ? m.material.name.toLowerCase().includes(name) && m.material.roles.length
        : m.material.roles.includes(role)),
  );
  // what is here comes first
  found.sort((a, b) => Number(Boolean(b.on_hand)) - Number(Boolean(a.on_hand)));
  return (
    <div className={css.shelf} id={SHELF}>
      <div className="chips" role="group" aria-label="Shelf">
        <b>Shelf</b>
        {ROLES.map((r) => (
          <button key={r} className="chip" aria-pressed={!name && r === role} onClick={() => address.put({ role: r })}>
            {CALLED[r] ?? r}
          </button>
        ))}
        <Input
          className={css.search ?? ""}
          value={wanted}
          placeholder="by name"
          aria-label="Look for a material"
          allowClear
          onChange={(e) => setWanted(e.target.value)}
        />
        <Link to="/shelf" className={css.toShelf ?? ""}>
          the whole Shelf
        </Link>
      </div>
      <div className={css.shelfRow}>
        {found.map((m) => (
          <ShelfItem key={m.material.id} card={m} add={add} units={units} currency={shelf.data?.currency ?? ""} />
        ))}
      </div>
      {found.length === 0 ? <p className="small">Nothing on the shelf is called so.</p> : null}
    </div>
  );
});

function ShelfItem({ card, add, units, currency }: { card: Card; add: Add; units: Units; currency: string }) {
  const { material, sizes } = card;
  const middle = sizes[Math.min(1, sizes.length - 1)];
  const mm = middle?.thickness_mm ?? 1;
  const facts = middle
    ? [
        areal(middle.kg_m2, units),
        middle.price_m2 === null ? "no price" : priced(middle.price_m2, currency, units),
        card.on_hand ? `${card.on_hand} here` : "",
      ]
    : [card.each || "no price", card.on_hand ? `${card.on_hand} here` : ""];
  return (
    <div className={css.shelfItem}>
      <button
        className={css.shelfAdd}
        draggable
        onDragStart={(e) => e.dataTransfer.setData("text/plain", `${material.id}|${mm}`)}
        onClick={() => add(material.id, mm)}
      >
        <b>
          <span className="unseen">Add </span>
          {material.name}
        </b>
        <span className="small">{facts.filter(Boolean).join(" · ")}</span>
      </button>
      {sizes.length ? (
        <span className={css.sizes}>
          {sizes.map((s) => (
            <button
              key={s.thickness_mm}
              title={`${areal(s.kg_m2, units)}, ${s.sold || "not sold"}`}
              aria-label={`Lay ${length(s.thickness_mm, units)} of ${material.name}`}
              aria-current={s.thickness_mm === mm}
              draggable
              onDragStart={(e) => e.dataTransfer.setData("text/plain", `${material.id}|${s.thickness_mm}`)}
              onClick={() => add(material.id, s.thickness_mm)}
            >
              {length(s.thickness_mm, units)}
            </button>
          ))}
        </span>
      ) : null}
    </div>
  );
}
