// One material: what it is, what it weighs and does, what it stands, how it holds and is sold. Typed values are asked about first.
import { Button, Drawer, Input, Select } from "antd";
import { useState } from "react";
import { api, ask, itemId, type Schemas } from "../api/client";
import { useShelf } from "../api/hooks";
import type { Operation } from "../api/operations";
import { useWorkshop } from "../api/workshop";
import { useLeave } from "../parts/leave";
import { useOnce } from "../parts/once";
import { Ask } from "../parts/fields";
import { Note } from "../parts/said";
import { QuickMaterial } from "./QuickMaterial";
import { PROPERTIES, propertiesOf } from "./properties";
import { StockForms } from "./StockForms";
import css from "./shelf.module.css";
import { UnitInput } from "../parts/UnitInput";
import { SoldSizes } from "./StockForms";

type Material = Schemas["Material"];
type Draft = Record<string, unknown> & { properties: Record<string, unknown>; stock: Record<string, unknown>[] };

const FAMILIES = ["damping", "limp", "foam", "porous", "plate", "combined", "line", "goods", "consumable"];
const FAMILY_WORDS: Record<string, string> = {
  damping: "damping",
  limp: "limp barrier",
  foam: "closed foam or mat",
  porous: "felt, wool, open foam",
  plate: "board or panel",
  combined: "combined sheet",
  line: "seal, tape or strip",
  goods: "goods",
  consumable: "used up",
};
const ROLE: Record<string, string[]> = {
  damping: ["damping"],
  limp: ["barrier"],
  foam: ["decoupler"],
  porous: ["absorber"],
  plate: ["substrate"],
  combined: ["decoupler", "barrier"],
  line: ["seal"],
};
const SOURCES = [
  { value: "typical", label: "typical" },
  { value: "data sheet", label: "data sheet" },
  { value: "measured", label: "measured here" },
];
const GOES_BY = [
  { value: "edge", label: "round the edge of its surface" },
  { value: "seam", label: "round it, and along the seams of what it lies on" },
  { value: "void", label: "the volume of a void" },
];

const PLACES = [
  { value: "floor", label: "floors" },
  { value: "wall", label: "upright panels" },
  { value: "overhead", label: "what hangs overhead" },
  { value: "pipe", label: "pipes and ducts" },
  { value: "rail", label: "a rail, as a curtain" },
];
const GOES = [
  ["fill", "poured or blown: only into closed cavities"],
  ["lying", "laid by heat: only on what lies"],
  ["bears", "bears feet with nothing over it"],
  ["sheds", "wants a face where it is seen"],
] as const;

const YES = [
  { value: "", label: "not known" },
  { value: "yes", label: "yes" },
  { value: "no", label: "no" },
];

const begun = (): Draft => ({
  id: `own-${itemId().slice(0, 6)}`,
  name: "",
  family: "damping",
  roles: ROLE["damping"],
  properties: {},
  sources: {},
  limits: {},
  stock: [{ form: "sheet" }],
});

export function MaterialSheet({ id, close }: { id: string; close: () => void }) {
  const shelf = useShelf();
  const [whole, setWhole] = useState(false);
  const card = shelf.data?.materials.find((m) => m.material.id === id);
  if (id !== "new" && !card)
    return (
      <Drawer open onClose={close} title="Not on the shelf" size="large">
        <p>There is no such material (any more).</p>
      </Drawer>
    );
  if (id === "new" && !whole) return <QuickMaterial close={close} whole={() => setWhole(true)} />;
  return <Sheet card={card} close={close} />;
}

const changesOf = (before: object, whole: Record<string, unknown>): Operation[] =>
  Object.entries(whole)
    .filter(([key, value]) => JSON.stringify(value) !== JSON.stringify((before as Record<string, unknown>)[key]))
    .map(([key, value]) => ({ op: "set", at: ["material", key], value }));

function Sheet({ card, close }: { card: Schemas["MaterialCard"] | undefined; close: () => void }) {
  const workshop = useWorkshop();
  const [draft, setDraft] = useState<Draft>(() =>
    card ? (structuredClone(card.material) as unknown as Draft) : begun(),
  );
  const [looked, setLooked] = useState<Schemas["MaterialLooked"] | null>(null);
  const [wrong, setWrong] = useState("");
  const own = workshop.doc?.shelf_materials.find((r) => r.material.id === draft["id"]);
  const [typed, setTyped] = useState<{ over: typeof own } | null>(null);
  const leave = useLeave(typed !== null, close);
  const set = (values: Record<string, unknown>) => {
    setDraft({ ...draft, ...values });
    setTyped(typed ?? { over: own });
    setLooked(null);
  };
  const inside = (group: string, key: string, value: unknown) =>
    set({ [group]: { ...(draft[group] as object), [key]: value } });
  const [, once] = useOnce();
  const keep = (sure: readonly string[] = []) => once(() => kept(sure));
  const kept = async (sure: readonly string[]) => {
    const material = { ...draft, sure: [...((draft["sure"] as string[] | undefined) ?? []), ...sure] };
    try {
      const seen = await ask(api.POST("/api/shelf/look", { body: { material } }));
      if (seen.doubts.length && !sure.length) {
        setLooked(seen);
        setWrong("");
        return;
      }
      const whole = seen.card.material as unknown as Record<string, unknown>;
      const over = typed?.over ?? own;
      // field by field, so that what somebody else changes of it stays
      if (over) await workshop.change("shelf_materials", over, changesOf(over.material, whole));
      else await workshop.add("shelf_materials", { material: whole });
      close();
    } catch (error) {
      setWrong(error instanceof Error ? error.message : "Not kept.");
    }
  };
  const again = () => {
    setTyped({ over: undefined });
    setDraft({ ...draft, id: `own-${itemId().slice(0, 6)}`, name: `${String(draft["name"])}, copy` });
    setLooked(null);
  };
  const retire = async (retired: boolean) => {
    const material = { ...(card?.material as Material), retired } as unknown as Record<string, unknown>;
    try {
      if (own) await workshop.change("shelf_materials", own, [{ op: "set", at: ["material"], value: material }]);
      else await workshop.add("shelf_materials", { material });
      close();
    } catch (error) {
      workshop.say(error);
    }
  };
  const family = String(draft["family"]);
  const text = (value: unknown) => (value === null || value === undefined ? "" : String(value));
  return (
    <Drawer
      open
      onClose={leave}
      size="large"
      title={card ? card.material.name : "A new material"}
      footer={
        <div className="acts">
          <Button type="primary" onClick={() => void keep()}>
            Keep it
          </Button>
          {card ? <Button onClick={again}>Make another from it</Button> : null}
          {card ? (
            <Button onClick={() => void retire(!card.material.retired)}>
              {card.material.retired ? "Back into use" : "Retire it"}
            </Button>
          ) : null}
          {own && card ? (
            <Button danger onClick={() => void workshop.remove("shelf_materials", own).then(close).catch(workshop.say)}>
              {card.shipped ? "Back to how it was shipped" : "Throw it away"}
            </Button>
          ) : null}
        </div>
      }
    >
      <div className="form">
        {wrong ? <Note kind="danger">{wrong}</Note> : null}
        {looked ? (
          <Note kind="warn">
            <b>Is that so?</b>
            <ul>
              {looked.doubts.map((d) => (
                <li key={d.property}>{d.sentence}.</li>
              ))}
            </ul>
            <Button size="small" onClick={() => void keep(looked.doubts.map((d) => d.property))}>
              It is so: keep it
            </Button>
          </Note>
        ) : null}
        <Ask label="Name">
          <Input
            value={text(draft["name"])}
            placeholder="Butyl damping sheet, from the new maker"
            onChange={(e) => set({ name: e.target.value })}
          />
        </Ask>
        <div className="two">
          <Ask label="What it is">
            <Select
              value={family}
              disabled={Boolean(card)}
              aria-label="What it is"
              options={FAMILIES.map((f) => ({ value: f, label: FAMILY_WORDS[f] ?? f }))}
              onChange={(f) => set({ family: f, roles: ROLE[f] ?? [] })}
            />
          </Ask>
          <Ask label="How its values are known">
            <Select
              value={text(draft["source_class"]) || "typical"}
              aria-label="How its values are known"
              options={SOURCES}
              onChange={(v) => set({ source_class: v })}
            />
          </Ask>
        </div>
        {family === "combined" ? (
          <Ask label="Its layers from the panel outwards, each id@mm">
            <Input
              value={((draft["parts"] as string[] | undefined) ?? []).join(" | ")}
              placeholder="closed-foam@6 | vinyl-5@2.5"
              onChange={(e) =>
                set({
                  parts: e.target.value
                    .split("|")
                    .map((p) => p.trim())
                    .filter(Boolean),
                })
              }
            />
          </Ask>
        ) : null}
        {propertiesOf(family).length ? <h2>What it is made like</h2> : null}
        <div className={css.properties}>
          {propertiesOf(family).map((key) => (
            <div key={key} className={css.property}>
              <Ask label={PROPERTIES[key]?.name ?? key}>
                <UnitInput
                  value={text(draft.properties[key])}
                  unit={PROPERTIES[key]?.unit ?? ""}
                  placeholder="unknown"
                  onText={(v) => inside("properties", key, v)}
                />
              </Ask>
              <Select
                value={
                  text((draft["sources"] as Record<string, string> | undefined)?.[key]) ||
                  text(draft["source_class"]) ||
                  "typical"
                }
                aria-label={`How its ${PROPERTIES[key]?.name ?? key} is known`}
                options={SOURCES}
                onChange={(v) => inside("sources", key, v)}
              />
            </div>
          ))}
        </div>
        <h2>How it is sold</h2>
        <StockForms
          lies={!["line", "goods", "consumable"].includes(family)}
          stock={draft.stock}
          set={(stock) => set({ stock })}
        />
        {family === "line" ? (
          <div className="two">
            <Ask label="How much of it goes">
              <Select
                value={text(draft["goes_by"]) || "edge"}
                aria-label="How much of it goes"
                options={GOES_BY}
                onChange={(v) => set({ goes_by: v })}
              />
            </Ask>
            {draft["goes_by"] === "void" ? (
              <Ask label="Foams up">
                <Input value={text(draft["expands"])} suffix="×" onChange={(e) => set({ expands: e.target.value })} />
              </Ask>
            ) : null}
          </div>
        ) : null}
        <details>
          <summary>What it stands</summary>
          <div className="form">
            <div className="two">
              <Ask label="Hottest">
                <Input
                  value={text((draft["limits"] as Record<string, unknown>)["most_c"])}
                  suffix="°C"
                  onChange={(e) => inside("limits", "most_c", e.target.value)}
                />
              </Ask>
              <Ask label="Coldest to lay">
                <Input
                  value={text((draft["limits"] as Record<string, unknown>)["least_c"])}
                  suffix="°C"
                  onChange={(e) => inside("limits", "least_c", e.target.value)}
                />
              </Ask>
              {(["wet", "salt", "food", "outdoors"] as const).map((key) => {
                const held = (draft["limits"] as Record<string, unknown>)[key];
                return (
                  <Ask key={key} label={key === "wet" ? "closed to water" : key}>
                    <Select
                      value={held === true ? "yes" : held === false ? "no" : ""}
                      aria-label={key}
                      options={key === "wet" ? YES.slice(1) : YES}
                      onChange={(v) => inside("limits", key, v === "" ? null : v === "yes")}
                    />
                  </Ask>
                );
              })}
              <Ask label="Goes only on">
                <Select
                  mode="multiple"
                  value={((draft["limits"] as Record<string, unknown>)["places"] as string[] | undefined) ?? []}
                  placeholder="anywhere"
                  aria-label="Goes only on"
                  options={PLACES}
                  onChange={(v: string[]) => inside("limits", "places", v)}
                />
              </Ask>
              {GOES.map(([key, label]) => (
                <label key={key} className="tickline">
                  <input
                    type="checkbox"
                    checked={(draft["limits"] as Record<string, unknown>)[key] === true}
                    onChange={(e) => inside("limits", key, e.target.checked)}
                  />
                  <span>{label}</span>
                </label>
              ))}
              <Ask label="Flame class">
                <Input
                  value={text((draft["limits"] as Record<string, unknown>)["flame_class"])}
                  placeholder="unknown"
                  onChange={(e) => inside("limits", "flame_class", e.target.value)}
                />
              </Ask>
            </div>
          </div>
        </details>
        <details>
          <summary>How it holds, and how long it takes</summary>
          <div className="form">
            <Ask label="Held by">
              <Input
                value={text(draft["hold"])}
                placeholder="self-adhesive, rolled down"
                onChange={(e) => set({ hold: e.target.value })}
              />
            </Ask>
            <div className="two">
              {(
                [
                  ["holds_overhead", "Holds overhead"],
                  ["holds_curved", "Holds on a curve"],
                  ["comes_off", "Comes off again"],
                ] as const
              ).map(([key, label]) => (
                <Ask key={key} label={label}>
                  <Select
                    value={draft[key] === true ? "yes" : draft[key] === false ? "no" : ""}
                    aria-label={label}
                    options={YES}
                    onChange={(v) => set({ [key]: v === "" ? null : v === "yes" })}
                  />
                </Ask>
              ))}
              {(
                [
                  ["minutes_per_m2", "To lay", "min/m²"],
                  ["minutes_each", "Each metre, litre or piece", "min"],
                  ["working_minutes", "Working time", "min"],
                  ["cure_minutes", "Curing", "min"],
                ] as const
              ).map(([key, label, unit]) => (
                <Ask key={key} label={label}>
                  <UnitInput value={text(draft[key])} unit={unit} onText={(v) => set({ [key]: v })} />
                </Ask>
              ))}
            </div>
          </div>
        </details>
        <Ask label="Note">
          <Input.TextArea rows={2} value={text(draft["note"])} onChange={(e) => set({ note: e.target.value })} />
        </Ask>
        <SoldSizes sizes={card?.sizes ?? []} />
      </div>
    </Drawer>
  );
}
