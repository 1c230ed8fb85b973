// The Shelf: what the workshop owns, sorted and searched; one material opened to be looked at and changed.
import { Button, Input, Select } from "antd";
import { useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { useShelf } from "../api/hooks";
import { useWorkshop } from "../api/workshop";
import { FileInput } from "../parts/FileInput";
import { useAddress } from "../parts/address";
import { Empty, Said, State } from "../parts/said";
import { areal, length, useUnits, priced } from "../parts/units";
import { FILL, Hatches, Letter } from "../theme/hatches";
import { ImportShelf } from "./ImportShelf";
import { MaterialSheet } from "./MaterialSheet";
import { RoomTop } from "../parts/RoomTop";
import css from "./shelf.module.css";
import { WorkshopSheet } from "./WorkshopSheet";

type Card = Schemas["MaterialCard"];
const KINDS = ["damping", "decoupler", "barrier", "absorber", "seal", "isolator", "substrate", "goods", "consumable"];
const STANDS = ["wet", "salt", "food", "outdoors", "hot"] as const;
const HOT_C = 100;
const SORTS: Record<string, { name: string; of: (c: Card) => number | string }> = {
  kind: {
    name: "by what it is for",
    of: (c) => `${String(KINDS.indexOf(kindOf(c)[0] ?? "") + 10)} ${c.material.name}`,
  },
  name: { name: "by name", of: (c) => c.material.name },
  mass: { name: "by weight per area", of: (c) => c.sizes[0]?.kg_m2 ?? Infinity },
  thickness: { name: "by thickness", of: (c) => c.thicknesses_mm[0] ?? Infinity },
  price: { name: "by price per area", of: (c) => c.sizes[0]?.price_m2 ?? Infinity },
};

export default function Shelf() {
  const shelf = useShelf();
  const workshop = useWorkshop();
  const address = useAddress();
  const [file, setFile] = useState<File | null>(null);
  const picker = useRef<HTMLInputElement>(null);
  const open = address.get("material");
  const found = chosen(shelf.data?.materials ?? [], address);
  return (
    <>
      <RoomTop
        where={`the Shelf${workshop.doc?.workshop.name ? ` of ${workshop.doc.workshop.name}` : ""}`}
        workshop={workshop}
      />
      <main className={css.room}>
        <div className={css.head}>
          <Said
            sentence={sentence(shelf.data?.materials ?? [])}
            detail="Yours to price, to change and to add to; jobs keep what they were planned with."
          />
          <div className="acts">
            <Button onClick={() => address.go({ material: "", of: "workshop" })}>The workshop</Button>
            <a className={`${css.file} key`} href="/api/shelf.csv" download>
              to a table
            </a>
            <a className={`${css.file} key`} href="/api/shelf.json" download>
              to JSON
            </a>
            <Button onClick={() => picker.current?.click()}>Bring in a list</Button>
            <Button type="primary" onClick={() => address.go({ material: "new" })}>
              New material
            </Button>
          </div>
          <FileInput picker={picker} label="List of materials" accept=".csv,.json" take={(f) => f && setFile(f)} />
        </div>
        <Filters address={address} />
        <State query={shelf}>
          <svg width={0} height={0} aria-hidden>
            <Hatches />
          </svg>
          {found.length ? (
            <ul className={css.cards} aria-label="Materials">
              {found.map((c) => (
                <MaterialCard
                  key={c.material.id}
                  card={c}
                  currency={shelf.data?.currency ?? ""}
                  open={() => address.go({ material: c.material.id, of: null })}
                />
              ))}
            </ul>
          ) : (
            <Empty
              title="Nothing like that on the shelf"
              text="Take a filter off, or add the material with its data sheet."
            />
          )}
        </State>
      </main>
      {open ? <MaterialSheet key={open} id={open} close={() => address.go({ material: null })} /> : null}
      {address.get("of") === "workshop" ? <WorkshopSheet close={() => address.go({ of: null })} /> : null}
      {file ? <ImportShelf file={file} close={() => setFile(null)} /> : null}
    </>
  );
}

const kindOf = (c: Card): readonly string[] => (c.material.roles.length ? c.material.roles : [c.material.family]);

function chosen(all: readonly Card[], address: ReturnType<typeof useAddress>): Card[] {
  const words = (address.get("find") ?? "").toLowerCase();
  const [kind, source] = [address.get("kind"), address.get("source")];
  const stands = (address.get("stands") ?? "").split(",").filter(Boolean);
  const own = address.get("own");
  const sort = SORTS[address.get("sort") ?? "kind"] ?? SORTS["kind"];
  return all
    .filter((c) => !words || `${c.material.name} ${c.material.id}`.toLowerCase().includes(words))
    .filter((c) => !kind || kindOf(c).includes(kind))
    .filter(
      (c) =>
        !source ||
        c.material.source_class === source ||
        Object.values(c.material.sources ?? {}).includes(source as "typical"),
    )
    .filter((c) =>
      stands.every((s) =>
        s === "hot" ? (c.material.limits.most_c ?? 0) >= HOT_C : c.material.limits[s as "wet"] === true,
      ),
    )
    .filter((c) =>
      own === "own"
        ? c.own
        : own === "stock"
          ? c.on_hand
          : own === "retired"
            ? c.material.retired
            : !c.material.retired,
    )
    .sort((a, b) => {
      const [x, y] = [sort?.of(a) ?? "", sort?.of(b) ?? ""];
      return x < y ? -1 : x > y ? 1 : 0;
    });
}

function sentence(all: readonly Card[]): string {
  const here = all.filter((c) => c.on_hand).length;
  const own = all.filter((c) => c.own).length;
  const said = [
    `${all.filter((c) => !c.material.retired).length} materials on the shelf`,
    own ? `${own} of your own making` : "",
    here ? `${here} in stock` : "",
  ];
  return `${said.filter(Boolean).join(", ")}.`;
}

function Filters({ address }: { address: ReturnType<typeof useAddress> }) {
  const kind = address.get("kind");
  const stands = (address.get("stands") ?? "").split(",").filter(Boolean);
  const toggle = (s: string) =>
    address.put({ stands: (stands.includes(s) ? stands.filter((x) => x !== s) : [...stands, s]).join(",") || null });
  return (
    <div className={css.filters}>
      <Input
        value={address.get("find") ?? ""}
        aria-label="Look for a material"
        placeholder="look by name"
        allowClear
        onChange={(e) => address.put({ find: e.target.value || null })}
      />
      <div className="chips" role="group" aria-label="What it is for">
        {KINDS.map((k) => (
          <button
            key={k}
            className="chip"
            aria-pressed={k === kind}
            onClick={() => address.put({ kind: k === kind ? null : k })}
          >
            {k === "substrate" ? "panels and boards" : k}
          </button>
        ))}
      </div>
      <div className="chips" role="group" aria-label="What it stands">
        {STANDS.map((s) => (
          <button key={s} className="chip" aria-pressed={stands.includes(s)} onClick={() => toggle(s)}>
            {s === "hot" ? `${HOT_C} °C` : s}
          </button>
        ))}
        <Select
          value={address.get("own") ?? ""}
          aria-label="Which of them"
          onChange={(v) => address.put({ own: v || null })}
          options={[
            { value: "", label: "all in use" },
            { value: "own", label: "our own" },
            { value: "stock", label: "in stock" },
            { value: "retired", label: "retired" },
          ]}
        />
        <Select
          value={address.get("source") ?? ""}
          aria-label="How it is known"
          onChange={(v) => address.put({ source: v || null })}
          options={[
            { value: "", label: "however known" },
            { value: "typical", label: "typical" },
            { value: "data sheet", label: "data sheet" },
            { value: "measured", label: "measured" },
          ]}
        />
        <Select
          value={address.get("sort") ?? "kind"}
          aria-label="In which order"
          onChange={(v) => address.put({ sort: v === "kind" ? null : v })}
          options={Object.entries(SORTS).map(([value, s]) => ({ value, label: s.name }))}
        />
      </div>
    </div>
  );
}

function MaterialCard({ card, currency, open }: { card: Card; currency: string; open: () => void }) {
  const { material, sizes } = card;
  const units = useUnits();
  return (
    <li>
      <button className={css.card} onClick={open} data-retired={material.retired || undefined}>
        <svg width={34} height={46} aria-hidden>
          <rect
            x={1}
            y={1}
            width={32}
            height={44}
            rx={4}
            fill={FILL[card.letter] ?? "var(--tape)"}
            stroke="var(--line)"
          />
          {card.letter && card.letter !== "·" ? <Letter x={17} y={23} letter={card.letter} r={10} /> : null}
        </svg>
        <span>
          <b>{material.name}</b>
          <span className="small">
            {sizes.length
              ? sizes.map((s) => length(s.thickness_mm, units)).join(" · ")
              : material.family === "line"
                ? "by the metre"
                : material.family}
          </span>
          <span className={css.figures}>
            {sizes[0] ? <span>{areal(sizes[0].kg_m2, units)}</span> : null}
            <span>
              {sizes[0]
                ? sizes[0].price_m2 === null
                  ? "no price"
                  : priced(sizes[0].price_m2, currency, units)
                : card.each || "no price"}
            </span>
            {card.on_hand ? <span className={css.here}>{card.on_hand}</span> : null}
            {card.own ? <span className={css.own}>ours</span> : null}
            {card.doubts.length ? <span className={css.doubt}>to look at</span> : null}
          </span>
        </span>
      </button>
    </li>
  );
}
