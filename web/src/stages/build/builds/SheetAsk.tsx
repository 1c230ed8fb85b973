// A sheet of the shelf in a thickness it is sold in.
import { Select } from "antd";
import type { Schemas } from "../../../api/client";
import { Ask } from "../../../parts/fields";
import { length, useUnits, type Units } from "../../../parts/units";

export type Sheet = { material: string; thickness_mm: number };
type Sheets = Schemas["BuildsView"]["sheets"];

// A sheet as one of a list, "id@mm", and back.
export const sheetKey = (sheet: Sheet): string => `${sheet.material}@${sheet.thickness_mm}`;
export const sheetOf = (key: string): Sheet => {
  const [material = "", mm = ""] = key.split("@");
  return { material, thickness_mm: Number(mm) };
};
export const sheetName = (sheet: Sheet, sheets: Sheets, units: Units): string =>
  `${sheets.find(([id]) => id === sheet.material)?.[1] ?? sheet.material}, ${length(sheet.thickness_mm, units)}`;

export function SheetAsk(props: { label: string; value: Sheet | undefined; sheets: Sheets; pick: (s: Sheet) => void }) {
  const { label, value, sheets, pick } = props;
  const units = useUnits();
  return (
    <Ask label={label}>
      <Select
        showSearch
        aria-label={label}
        value={value ? { value: sheetKey(value), label: sheetName(value, sheets, units) } : undefined}
        labelInValue
        options={sheets.map(([id, name, mm]) => ({ value: `${id}@${mm}`, label: `${name}, ${length(mm, units)}` }))}
        onChange={(picked: { value: string; label: string } | undefined) => picked && pick(sheetOf(picked.value))}
      />
    </Ask>
  );
}
