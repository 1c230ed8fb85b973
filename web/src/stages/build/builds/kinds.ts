// A build as it is kept, and as it is worked out.
import type { Schemas } from "../../../api/client";
import type { StageProps } from "../../../parts/stage";

export type Card = Schemas["BuildCard"];
export type Row = Schemas["JobDocument"]["builds"][number];

// A remedy as it is said: "second sash@100" is one at 100 mm.
export const remedyWords = (text: string): string => text.replace(/\s*@\s*(.+)$/, ", $1 mm");

// Fields of what is given, or of a part of it, kept at once.
export type Change = (values: Record<string, unknown>, within?: readonly string[]) => Promise<unknown>;

export type FormProps<G> = {
  row: Row;
  given: G;
  view: Schemas["BuildsView"];
  change: Change;
  edit: StageProps["edit"];
  doc: Schemas["JobDocument"];
};
