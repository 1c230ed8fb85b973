// The forms a material is sold in: thickness, size, pack, price, supplier, and what is in the store.
import type { Schemas } from "../api/client";
import { Button, Input, Select } from "antd";
import { useShelf } from "../api/hooks";
import { Ask } from "../parts/fields";
import { areal, length, lengthUnit, sentIn, shownIn, useUnits } from "../parts/units";
import css from "./shelf.module.css";
import { UnitInput } from "../parts/UnitInput";

type Form = Record<string, unknown>;
const FORMS = [
  { value: "sheet", label: "sheet" },
  { value: "roll", label: "roll" },
  { value: "length", label: "length" },
  { value: "piece", label: "piece or tin" },
];

type Props = { lies: boolean; stock: readonly Form[]; set: (stock: Form[]) => void };

export function StockForms({ lies, stock, set }: Props) {
  const units = useUnits();
  const currency = useShelf().data?.currency ?? "";
  const put = (i: number, key: string, value: unknown) =>
    set(stock.map((f, k) => (k === i ? { ...f, [key]: value } : f)));
  const text = (value: unknown) => (value === null || value === undefined ? "" : String(value));
  const millimetres = (value: unknown) => (typeof value === "number" ? shownIn(value, "length", units) : text(value));
  return (
    <>
      {stock.map((form, i) => {
        const flat = form["form"] === "sheet" || form["form"] === "roll";
        const long = (key: string, label: string) => (
          <Ask label={label}>
            <Input
              value={millimetres(form[key])}
              suffix={lengthUnit(units)}
              onChange={(e) => put(i, key, e.target.value)}
              onBlur={(e) =>
                put(i, key, typeof form[key] === "number" ? form[key] : sentIn(e.target.value, "length", units))
              }
            />
          </Ask>
        );
        const plain = (key: string, label: string, unit = "") => (
          <Ask label={label}>
            <UnitInput value={text(form[key])} unit={unit} onText={(v) => put(i, key, v)} />
          </Ask>
        );
        return (
          <fieldset key={text(form["id"]) || i} className={css.form}>
            <legend className="small">Form {i + 1}</legend>
            <Ask label="Sold as">
              <Select
                value={text(form["form"]) || "sheet"}
                aria-label={`Form ${i + 1} sold as`}
                options={FORMS}
                onChange={(v) => put(i, "form", v)}
              />
            </Ask>
            {lies ? long("thickness_mm", "Thickness") : null}
            {flat ? long("width_mm", "Width") : null}
            {flat ? long("length_mm", "Length") : null}
            {flat ? null : plain("covers_m", lies ? "Covers" : "Long", lies ? "m²" : "m")}
            {lies || flat ? null : plain("litres", "Holds, spread or foamed", "l")}
            {lies ? null : plain("kg", "Weighs", "kg")}
            {plain("price", "Price each", currency)}
            {plain("per_pack", "In a pack")}
            {plain("on_hand", "In the store")}
            {plain("supplier", "Supplier")}
            {plain("order_number", "Order number")}
            {plain("priced_on", "Priced on", "")}
            <Button size="small" onClick={() => set(stock.filter((_, k) => k !== i))}>
              Not sold so
            </Button>
          </fieldset>
        );
      })}
      <Button onClick={() => set([...stock, { form: lies ? "sheet" : "piece" }])}>Another form</Button>
    </>
  );
}

// What each size weighs, and how it is sold.
export function SoldSizes({ sizes }: { sizes: Schemas["MaterialCard"]["sizes"] }) {
  const units = useUnits();
  return sizes.length ? (
    <div className="rows">
      {sizes.map((s) => (
        <div key={s.thickness_mm}>
          <span>
            {length(s.thickness_mm, units)} <span className="small">{s.sold}</span>
          </span>
          <span className="num">{areal(s.kg_m2, units)}</span>
        </div>
      ))}
    </div>
  ) : null;
}
