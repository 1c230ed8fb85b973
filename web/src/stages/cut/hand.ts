// Pieces laid by hand: what is sent when one is moved, and what the program says of it.
import { useEffect, useRef, useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import type { Doc } from "../../api/types";
import type { StageProps } from "../../parts/stage";
import type { Sheet } from "./Sheets";

export type Laid = Schemas["LaidByHand"];
type Piece = Schemas["SheetPiece"];
type Layout = NonNullable<Doc["layouts"]>[number];

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

type Props = {
  id: number;
  doc: Doc;
  sheets: readonly Sheet[];
  sheet: Sheet;
  edit: StageProps["edit"];
  // pieces that no longer lie where a hand had them
  letGo: readonly string[];
};

export function useHand({ id, doc, sheets, sheet, edit, letGo }: Props) {
  const own = (s: { material: string; thickness_mm: number }) =>
    s.material === sheet.material && Math.abs(s.thickness_mm - sheet.thickness_mm) < 0.01;
  const rows = (doc.layouts ?? []).filter(own);
  // what a hand has done is in the document at once; the sheets follow
  const byHand = new Map(rows.flatMap((r) => r.pieces ?? []).map((p) => [p.id, p]));
  const at = (s: Sheet, p: Piece): Laid => (letGo.includes(p.label) ? undefined : byHand.get(p.label)) ?? laid(s, p);
  const pieces = sheets.filter(own).flatMap((s) => s.pieces.map((p) => at(s, p)));
  const latest = useRef({ rows, pieces });
  // the row as it was last answered, until the document shown has it
  const answered = useRef<Layout | null>(null);
  useEffect(() => {
    latest.current = { rows, pieces };
    const newest = answered.current;
    if (rows.some((r) => r.id === newest?.id && r.version >= newest.version)) answered.current = null;
  });
  const [why, setWhy] = useState("");
  const [moving, setMoving] = useState<Laid | null>(null); // until it is known whether it may lie there

  const layout = (all: readonly Laid[]) => ({
    material: sheet.material,
    thickness_mm: sheet.thickness_mm,
    pieces: [...all],
  });
  const now = () => {
    const { rows: seen, pieces: shown } = latest.current;
    const newest = answered.current;
    const to = new Map(newest?.pieces?.map((p) => [p.id, p]));
    return {
      rows: newest ? [...seen.filter((r) => r.id !== newest.id), newest] : seen,
      pieces: shown.map((p) => to.get(p.id) ?? p),
    };
  };
  // one row: where two browsers began one each, the others go with the same edit
  const put = async (all: readonly Laid[]) => {
    const [row, ...others] = now().rows.toReversed();
    const made = await (row
      ? edit.together([
          edit.altering("layouts", row, { pieces: all }),
          ...others.map((r) => ({ ...edit.altering("layouts", r, {}), remove: true })),
        ])
      : edit.create("layouts", [layout(all)]));
    answered.current = made[0] as Layout;
  };
  // whether it may lie there; or where on its sheet it could
  const asked = (all: readonly Laid[], moved: string, seek = false) => {
    const params = { path: { job_id: id } };
    return ask(api.POST("/api/jobs/{job_id}/layout-check", { params, body: { layout: layout(all), moved, seek } }));
  };
  const withIt = (to: Laid) => now().pieces.map((p) => (p.id === to.id ? to : p));

  // while a piece is dragged: one question at a time, the newest place next
  const asking = useRef<{ next: Laid | null; busy: boolean }>({ next: null, busy: false });
  const check = async (to: Laid) => {
    asking.current.next = to;
    if (asking.current.busy) return;
    asking.current.busy = true;
    while (asking.current.next) {
      const next: Laid = asking.current.next;
      asking.current.next = null;
      setWhy(
        await asked(withIt(next), next.id).then(
          (said) => said.why,
          () => "",
        ),
      );
    }
    asking.current.busy = false;
  };
  // one move after another, however fast they come: each from where the one before has left its piece
  const turn = useRef<Promise<void>>(Promise.resolve());
  const place = (label: string, change: (now: Laid) => Laid, seek = false): Promise<void> => {
    asking.current.next = null;
    const move = async () => {
      const before = now().pieces.find((p) => p.id === label);
      if (!before) return;
      const to = change(before);
      setMoving(to);
      try {
        const said = await asked(withIt(to), label, seek);
        setWhy(said.why);
        if (!said.why) await put(withIt(said.at ?? to));
      } catch (error) {
        edit.say(error);
      }
      setMoving(null);
    };
    turn.current = turn.current.then(move);
    return turn.current;
  };
  return {
    any: byHand.size > 0,
    why,
    moving,
    say: setWhy,
    check: (to: Laid) => void check(to),
    place,
    of: (p: Piece): Laid => at(sheet, p),
    again: () => put(now().pieces.filter((p) => p.locked)).catch(edit.say),
    free: () => put([]).catch(edit.say),
  };
}
