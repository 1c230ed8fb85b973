// A material by what a fitter knows of it; the rest is as its kind usually is, and says so.
import { Button, Drawer, Input, Segmented, Select } from "antd";
import { useState } from "react";
import { api, ask, itemId, Refused, type Schemas } from "../api/client";
import { useShelf } from "../api/hooks";
import { useWorkshop } from "../api/workshop";
import { Ask } from "../parts/fields";
import { useLeave } from "../parts/leave";
import { useOnce } from "../parts/once";
import { Note } from "../parts/said";
import { lengthUnit, sentIn, useUnits, type Units, toldUnit, withUnit } from "../parts/units";

type Form = Schemas["QuickForm"];
const KINDS: { value: Form["kind"]; label: string }[] = [
  { value: "damping", label: "damping, on the panel" },
  { value: "limp", label: "heavy and limp, a barrier" },
  { value: "foam", label: "closed foam or mat" },
  { value: "porous", label: "felt, wool, open foam" },
  { value: "plate", label: "board or panel" },
];

// Lengths go out with the unit they were typed in.
const sent = (form: Form, units: Units): Form => ({
  ...form,
  ...Object.fromEntries((["thickness", "width", "length"] as const).map((k) => [k, sentIn(form[k], "length", units)])),
  weight: withUnit(form.weight, form.per === "m3" ? "kg/m³" : "kg/m²", units),
});

export function QuickMaterial({ close, whole }: { close: () => void; whole: () => void }) {
  const shelf = useShelf();
  const workshop = useWorkshop();
  const [form, setForm] = useState<Form>(() => ({
    id: `own-${itemId().slice(0, 6)}`,
    kind: "damping",
    per: "m2",
    ...{ name: "", thickness: "", weight: "", width: "", length: "", price: "" },
  }));
  const [wrong, setWrong] = useState<{ where: string; what: string } | null>(null);
  const [doubts, setDoubts] = useState<Schemas["MaterialLooked"]["doubts"]>([]);
  const units = useUnits();
  const [busy, once] = useOnce();
  const typed = ["name", "thickness", "weight", "price"].some((k) => form[k as keyof Form]);
  const leave = useLeave(typed, close);
  const set = (values: Partial<Form>) => {
    setForm({ ...form, ...values });
    setDoubts([]);
  };
  const keep = (sure = false) =>
    once(async () => {
      try {
        const seen = (await ask(
          api.POST("/api/shelf/quick", { body: sent(form, units) }),
        )) as Schemas["MaterialLooked"];
        setWrong(null);
        if (seen.doubts.length && !sure) return setDoubts(seen.doubts);
        const properties = seen.doubts.map((d) => d.property);
        await workshop.add("shelf_materials", {
          material: { ...seen.card.material, sure: properties } as unknown as Record<string, unknown>,
        });
        close();
      } catch (error) {
        const refusal = error instanceof Refused ? error.refusal : { where: "", what: "it was not kept", mend: "" };
        setWrong({ where: refusal.where, what: error instanceof Error ? error.message : refusal.what });
      }
    });
  const field = (key: "name" | "thickness" | "weight" | "width" | "length" | "price", label: string, unit = "") => (
    <Ask label={label}>
      <Input
        value={form[key]}
        suffix={unit}
        status={wrong?.where === key ? "error" : undefined}
        onChange={(e) => set({ [key]: e.target.value })}
      />
      {wrong?.where === key ? (
        <span className="wrong" role="alert">
          {wrong.what}
        </span>
      ) : null}
    </Ask>
  );
  return (
    <Drawer
      open
      onClose={leave}
      size="large"
      title="A new material"
      footer={
        <div className="acts">
          <Button type="primary" loading={busy} onClick={() => void keep(doubts.length > 0)}>
            {doubts.length ? "Keep it all the same" : "Keep it"}
          </Button>
          <Button onClick={whole}>Type all its properties</Button>
        </div>
      }
    >
      <div className="form">
        {field("name", "Name")}
        <Ask label="Kind">
          <Select value={form.kind} options={KINDS} aria-label="Kind" onChange={(kind) => set({ kind })} />
        </Ask>
        <div className="two">
          {field("thickness", "Thickness", lengthUnit(units))}
          {field("weight", "Weight", toldUnit(form.per === "m3" ? "kg/m³" : "kg/m²", units))}
        </div>
        <Segmented
          aria-label="Weight per"
          value={form.per}
          options={[
            { value: "m2" as const, label: units === "imperial" ? "per square foot" : "per square metre" },
            { value: "m3" as const, label: units === "imperial" ? "per cubic foot" : "per cubic metre" },
          ]}
          onChange={(per: Form["per"]) => set({ per })}
        />
        <div className="two">
          {field("width", "Sheet, width", lengthUnit(units))}
          {field("length", "Sheet, length", lengthUnit(units))}
        </div>
        {field("price", "Price of a sheet", shelf.data?.currency ?? "")}
        {doubts.map((d) => (
          <Note key={d.property} kind="warn">
            {d.sentence}
          </Note>
        ))}
        {wrong && !["name", "thickness", "weight", "width", "length", "price"].includes(wrong.where) ? (
          <Note kind="danger">{wrong.what}</Note>
        ) : null}
        <p className="small">
          Stiffness, loss and the rest are taken as such materials usually are and marked “typical”; a data sheet’s
          figures are better.
        </p>
      </div>
    </Drawer>
  );
}
