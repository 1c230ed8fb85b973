// A property measured in the shop: by a ring, a swing, a flow of air or a scale, and taken onto the Shelf by a press.
import { Button, Input, Select } from "antd";
import { useId, useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { useShelf } from "../api/hooks";
import type { useWorkshop } from "../api/workshop";
import { Ask } from "../parts/fields";
import { useOnce } from "../parts/once";
import { Note } from "../parts/said";
import { keptText, toldUnit, useUnits } from "../parts/units";
import { Working } from "../parts/Working";
import css from "./bench.module.css";

type Kind = "loss" | "stiffness" | "resistivity" | "density";
type Measured = Schemas["Measured"];
type Asked = { key: string; label: string; unit?: string; many?: boolean; free?: boolean };
type Procedure = { name: string; how: string; families: readonly string[]; asks: readonly Asked[] };

const PROCEDURES: Record<Kind, Procedure> = {
  density: {
    name: "Weight, by a scale",
    how: "Cut a square piece, dry, and lay it on the scale a few times.",
    families: ["plate", "damping", "limp", "foam", "porous"],
    asks: [
      { key: "thickness_mm", label: "Thickness", unit: "mm" },
      { key: "width_mm", label: "Width", unit: "mm" },
      { key: "length_mm", label: "Length", unit: "mm" },
      { key: "kg", label: "Readings of the scale", unit: "kg", many: true },
    ],
  },
  loss: {
    name: "Loss of a damping sheet, by its ring",
    how: "Hang a panel by two threads, knock it bare and with the sheet all over it; type how long each rings to 60 dB.",
    families: ["damping"],
    asks: [
      { key: "thickness_mm", label: "Thickness of the sheet", unit: "mm" },
      { key: "panel_mm", label: "Thickness of the panel", unit: "mm" },
      { key: "hz", label: "Frequency, Hz" },
      { key: "bare_s", label: "Bare, ring times in s", many: true },
      { key: "damped_s", label: "Damped, ring times in s", many: true },
    ],
  },
  stiffness: {
    name: "Stiffness of a decoupler, by a mass on it",
    how: "Lay the sample on a heavy floor, a mass of about 200 kg on each square metre on it, knock, and type what it swings at.",
    families: ["foam"],
    asks: [
      { key: "thickness_mm", label: "Thickness under the mass", unit: "mm" },
      { key: "width_mm", label: "Width", unit: "mm" },
      { key: "length_mm", label: "Length", unit: "mm" },
      { key: "mass_kg", label: "Mass on it", unit: "kg" },
      { key: "hz", label: "It swings at, Hz", many: true },
      { key: "flow_kpa_s_m2", label: "Flow resistivity of an open one, kPa·s/m²", free: true },
    ],
  },
  resistivity: {
    name: "Flow resistivity, by a pressure drop",
    how: "Press the sample into a tube without a gap at its edge, draw air through slowly, and type flow and pressure at each.",
    families: ["porous"],
    asks: [
      { key: "thickness_mm", label: "Thickness", unit: "mm" },
      { key: "area_cm2", label: "Area of the tube", unit: "cm²" },
      { key: "flow_l_min", label: "Flows, l/min", many: true },
      { key: "pressure_pa", label: "Pressures at them, Pa", many: true },
    ],
  },
};
const KINDS = Object.keys(PROCEDURES) as Kind[];

export function Own({ workshop }: { workshop: ReturnType<typeof useWorkshop> }) {
  const units = useUnits();
  const [kind, setKind] = useState<Kind>("density");
  const [typed, setTyped] = useState<Record<string, string>>({});
  const [told, setTold] = useState<Measured | null>(null);
  const [wrong, setWrong] = useState("");
  const [taken, setTaken] = useState("");
  const [, once] = useOnce();
  const materials = (useShelf().data?.materials ?? []).map((c) => c.material as Schemas["Material"]);
  const procedure = PROCEDURES[kind];
  const type = (key: string, text: string) => {
    setTyped({ ...typed, [key]: text });
    setTold(null);
    setTaken("");
  };
  const own = (): Record<string, unknown> => {
    const numbers = (text: string, unit = "") =>
      text
        .split(/[\s;]+/)
        .filter(Boolean)
        .map((t) => Number(keptText(t.replace(",", "."), unit, units)));
    const values = procedure.asks.map(({ key, unit, many, free }) => {
      const read = numbers(typed[key] ?? "", unit);
      return [key, many ? read : free && !read.length ? null : (read[0] ?? 0)] as const;
    });
    return {
      kind,
      material: typed["material"] ?? "",
      ...(kind === "loss" ? { panel: typed["panel"] ?? "" } : {}),
      ...Object.fromEntries(values),
    };
  };
  const send = async (take: boolean) => {
    setWrong("");
    const body = { own: own() } as unknown as Schemas["OwnAsked"];
    try {
      if (take) {
        await ask(api.POST("/api/bench/property-taken", { body }));
        await workshop.fresh();
        setTaken(
          "It is on the Shelf, as measured in the shop. New jobs are worked out with it; open ones are asked under Build.",
        );
      } else setTold((await ask(api.POST("/api/bench/property", { body }))) as Measured);
    } catch (error) {
      setWrong(error instanceof Error ? error.message : String(error));
    }
  };
  const among = (families: readonly string[]) =>
    materials.filter((m) => families.includes(m.family)).map((m) => ({ value: m.id, label: m.name }));
  const pick = (key: string, label: string, families: readonly string[]) => (
    <Ask label={label}>
      <Select
        showSearch
        aria-label={label}
        optionFilterProp="label"
        value={typed[key]}
        options={among(families)}
        onChange={(id: string) => type(key, id)}
      />
    </Ask>
  );
  return (
    <>
      <h1 className={css.ownTop ?? ""}>{told?.sentence ?? "A property of your own material."}</h1>
      <p>{procedure.how}</p>
      <div className="chips" role="group" aria-label="What is measured">
        {KINDS.map((k) => (
          <button
            key={k}
            className="chip"
            aria-pressed={k === kind}
            onClick={() => {
              setKind(k);
              setTyped({});
              setTold(null);
              setWrong("");
              setTaken("");
            }}
          >
            {PROCEDURES[k].name}
          </button>
        ))}
      </div>
      <div className={css.own}>
        {pick("material", "Material", procedure.families)}
        {kind === "loss" ? pick("panel", "Panel", ["plate"]) : null}
        {procedure.asks.map((a) => (
          <Typed
            key={a.key}
            label={a.many ? `${a.label}, one after another` : a.label}
            unit={a.unit ? toldUnit(a.unit, units) : undefined}
            value={typed[a.key] ?? ""}
            type={(text) => type(a.key, text)}
          />
        ))}
      </div>
      {wrong ? (
        <p className="wrong" role="alert">
          {wrong}
        </p>
      ) : null}
      {told?.notes?.map((n) => (
        <Note key={n} kind="info">
          {n}
        </Note>
      ))}
      <Working items={told ? [told.working] : []} />
      {taken ? <Note kind="info">{taken}</Note> : null}
      <div className="acts">
        <Button type={told ? "default" : "primary"} size="large" onClick={() => void once(() => send(false))}>
          Work it out
        </Button>
        {told && !taken ? (
          <Button type="primary" size="large" onClick={() => void once(() => send(true))}>
            Take it onto the Shelf
          </Button>
        ) : null}
      </div>
    </>
  );
}

function Typed(props: { label: string; unit: string | undefined; value: string; type: (text: string) => void }) {
  const id = useId();
  return (
    <label className="field" htmlFor={id}>
      <span>{props.label}</span>
      <Input id={id} value={props.value} suffix={props.unit} onChange={(e) => props.type(e.target.value)} />
    </label>
  );
}
