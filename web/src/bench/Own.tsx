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

type Measured = Schemas["Measured"];
type Procedure = Schemas["Procedure"];

export function Own(props: { procedures: readonly Procedure[]; workshop: ReturnType<typeof useWorkshop> }) {
  const { procedures, workshop } = props;
  const units = useUnits();
  const [kind, setKind] = useState("");
  const [typed, setTyped] = useState<Record<string, string>>({});
  const [told, setTold] = useState<Measured | null>(null);
  const [wrong, setWrong] = useState("");
  const [taken, setTaken] = useState("");
  const [, once] = useOnce();
  const materials = (useShelf().data?.materials ?? []).map((c) => c.material as Schemas["Material"]);
  const procedure = procedures.find((p) => p.kind === kind) ?? procedures[0];
  const type = (key: string, text: string) => {
    setTyped({ ...typed, [key]: text });
    setTold(null);
    setTaken("");
  };
  if (!procedure) return null;
  const own = (): Record<string, unknown> => {
    const numbers = (text: string, unit = "") =>
      text
        .split(/[\s;]+/)
        .filter(Boolean)
        .map((t) => Number(keptText(t.replace(",", "."), unit, units)));
    const values = procedure.asks.map(({ key, unit, many, free }) => {
      const read = numbers(typed[key] ?? "", unit ?? "");
      return [key, many ? read : free && !read.length ? null : (read[0] ?? 0)] as const;
    });
    return {
      kind: procedure.kind,
      material: typed["material"] ?? "",
      ...Object.fromEntries((procedure.on ?? []).map(([key]) => [key, typed[key] ?? ""])),
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
    <Ask key={key} label={label}>
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
        {procedures.map((p) => (
          <button
            key={p.kind}
            className="chip"
            aria-pressed={p === procedure}
            onClick={() => {
              setKind(p.kind);
              setTyped({});
              setTold(null);
              setWrong("");
              setTaken("");
            }}
          >
            {p.name}
          </button>
        ))}
      </div>
      <div className={css.own}>
        {pick("material", "Material", procedure.families)}
        {(procedure.on ?? []).map(([key, label, families]) => pick(key, label, families))}
        {procedure.asks.map((a) => (
          <Typed
            key={a.key}
            label={a.many ? `${a.label}, one after another` : a.label}
            unit={toldUnit(a.unit ?? "", units) || undefined}
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
