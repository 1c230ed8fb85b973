// Pieces laid by hand: what is sent when one is moved, and what the program says of it.
import { useRef, useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import type { Doc } from "../../api/types";
import type { StageProps } from "../../parts/stage";
import type { Sheet } from "./Sheets";

export type Laid = Schemas["LaidByHand"];
type Piece = Schemas["SheetPiece"];

const laid = (s: Sheet, p: Piece): Laid => ({
  id: p.label,
  stock: s.stock,
  number: s.number,
  mirrored: p.mirrored,
  turned_deg: p.turned_deg,
  x_mm: p.x_mm,
  y_mm: p.y_mm,
  locked: p.locked,
  area_mm2: p.area_mm2,
});

type Props = { id: number; doc: Doc; sheets: readonly Sheet[]; sheet: Sheet; edit: StageProps["edit"] };

export function useHand({ id, doc, sheets, sheet, edit }: Props) {
  const own = (s: { material: string; thickness_mm: number }) =>
    s.material === sheet.material && Math.abs(s.thickness_mm - sheet.thickness_mm) < 0.01;
  const row = (doc.layouts ?? []).find(own);
  const [why, setWhy] = useState("");
  const [moved, setMoved] = useState<Laid | null>(null); // where a hand has it until the sheets follow
  const asking = useRef(0);
  const all = (change?: Laid): Laid[] =>
    sheets
      .filter(own)
      .flatMap((s) => s.pieces.map((p) => laid(s, p)))
      .map((p) => (p.id === change?.id ? change : p.id === moved?.id ? moved : p));
  const layout = (pieces: Laid[]) => ({
    material: sheet.material,
    thickness_mm: sheet.thickness_mm,
    pieces,
  });
  const put = async (pieces: Laid[]) => {
    if (row) await edit.operate("layouts", row, [{ op: "set", at: ["pieces"], value: pieces }]);
    else await edit.create("layouts", [layout(pieces)]);
  };
  // whether a piece may lie so; an older answer does not overtake a newer one
  const check = async (to: Laid): Promise<string> => {
    const turn = ++asking.current;
    const said = await ask(
      api.POST("/api/jobs/{job_id}/layout-check", {
        params: { path: { job_id: id } },
        body: { layout: layout(all(to)), moved: to.id },
      }),
    );
    if (turn === asking.current) setWhy(said.why);
    return said.why;
  };
  const place = async (to: Laid): Promise<boolean> => {
    setMoved(to);
    try {
      const wrong = await check(to);
      if (wrong) return false;
      await put(all(to));
      return true;
    } catch (error) {
      edit.say(error);
      return false;
    } finally {
      setMoved(null);
    }
  };
  return {
    row,
    why,
    moved,
    say: setWhy,
    check: (to: Laid) => void check(to).catch(() => undefined),
    place,
    of: (p: Piece): Laid => (moved?.id === p.label ? moved : laid(sheet, p)),
    again: () => put(all().filter((p) => p.locked)).catch(edit.say),
    free: () => (row ? edit.remove("layouts", row) : undefined),
  };
}
