// A sheet of the shelf in a thickness it is sold in.
import { Select } from "antd";
import type { Schemas } from "../../../api/client";
import { Ask } from "../../../parts/fields";

export type Sheet = { material: string; thickness_mm: number };
type Sheets = Schemas["BuildsView"]["sheets"];

// A sheet as one of a list, "id@mm", and back.
export const sheetKey = (sheet: Sheet): string => `${sheet.material}@${sheet.thickness_mm}`;
export const sheetOf = (key: string): Sheet => {
  const [material = "", mm = ""] = key.split("@");
  return { material, thickness_mm: Number(mm) };
};
export const sheetName = (sheet: Sheet, sheets: Sheets): string =>
  `${sheets.find(([id]) => id === sheet.material)?.[1] ?? sheet.material}, ${sheet.thickness_mm} mm`;

export function SheetAsk(props: { label: string; value: Sheet | undefined; sheets: Sheets; pick: (s: Sheet) => void }) {
  const { label, value, sheets, pick } = props;
  return (
    <Ask label={label}>
      <Select
        showSearch
        value={value ? { value: sheetKey(value), label: sheetName(value, sheets) } : undefined}
        labelInValue
        options={sheets.map(([id, name, mm]) => ({ value: `${id}@${mm}`, label: `${name}, ${mm} mm` }))}
        onChange={(picked: { value: string; label: string } | undefined) => picked && pick(sheetOf(picked.value))}
      />
    </Ask>
  );
}
