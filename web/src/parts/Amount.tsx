// A field for a length or a weight: shown in the workshop's units, any other may be typed with its name.
import { Field } from "./fields";
import { sentIn, shownIn, unitOf, useUnits, type Quantity } from "./units";

type Props = {
  label: string;
  kind: Quantity;
  value: number | null | undefined;
  placeholder?: string;
  save: (text: string) => Promise<unknown>;
};

export function Amount({ label, kind, value, placeholder, save }: Props) {
  const units = useUnits();
  return (
    <Field
      label={label}
      unit={unitOf(kind, units)}
      value={shownIn(value, kind, units)}
      placeholder={placeholder ?? ""}
      save={(text) => save(sentIn(text, kind, units))}
    />
  );
}
