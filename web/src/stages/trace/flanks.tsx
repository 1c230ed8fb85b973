// What goes round a wall between two rooms, picked by picture: a section through the joint, the wall upright, sound as a line.
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { Ask } from "../../parts/fields";
import { UnitInput } from "../../parts/UnitInput";
import type { Traced } from "./paths";
import css from "./trace.module.css";

type Kind = Schemas["JunctionView"]["kind"];
type Props = Traced & { junctions: readonly Schemas["JunctionView"][] };

// Of each joint: what is heavy, what is light, and the way the sound takes.
const DRAWN: Record<Kind, { heavy?: string; light?: string; way: string }> = {
  "heavy cross": { heavy: "M0 48h96v14H0zM42 4h12v88H42z", way: "M8 36C24 60 28 55 48 55S72 60 88 36" },
  "heavy T": { heavy: "M0 74h96v16H0z", light: "M43 6h10v68H43z", way: "M8 60C28 86 68 86 88 60" },
  studs: { light: "M0 70h96M0 88h96M16 70v18M48 70v18M80 70v18M44 6v64M52 6v64", way: "M8 58C28 84 68 84 88 58" },
  "floating floor": { heavy: "M0 82h96v12H0z", light: "M0 66h96v6H0zM43 6h10v60H43z", way: "M8 56C28 72 68 72 88 56" },
  "ceiling over": { heavy: "M0 2h96v8H0z", light: "M0 30h96M43 32h10v60H43z", way: "M8 44C20 16 76 16 88 44" },
  "common floor": {
    light: "M0 72h96M0 90h96M10 72v18M34 72v18M58 72v18M82 72v18M43 6h10v66H43z",
    way: "M8 60C28 84 68 84 88 60",
  },
  "window bay": { light: "M43 6h10v62H43zM0 70h40v12H0zM56 70h40v12H56z", way: "M8 56C30 84 66 84 88 56" },
  sockets: {
    light: "M40 6h6v34h-6zM50 6h6v34h-6zM40 58h6v34h-6zM50 58h6v34h-6zM38 40h8v18h-8zM50 40h8v18h-8z",
    way: "M8 49h80",
  },
  "door beside door": { light: "M43 44h10v48H43zM0 40h14M30 40h36M82 40h14", way: "M22 64V24h52v40" },
};

export function Flanks({ doc, edit, close, junctions }: Props) {
  const [kind, setKind] = useState<Kind | null>(null);
  const [length, setLength] = useState("4");
  const walls = doc.paths.filter((p) => p.surface_id != null && !p.flank);
  const save = () =>
    edit.create("paths", [
      {
        name: junctions.find((j) => j.kind === kind)?.name,
        flank: { kind, length_m: length },
        wall_id: walls.length === 1 ? walls[0]?.surface_id : null,
      },
    ]);
  return (
    <Dialog title="What goes round the wall?" ok="Add this way" save={save} close={close} ready={kind !== null} wide>
      <div className={css.joints} role="radiogroup" aria-label="How the wall meets what runs on">
        {junctions.map((j) => (
          <button key={j.kind} role="radio" aria-checked={j.kind === kind} onClick={() => setKind(j.kind)}>
            <svg viewBox="-2 0 100 96" aria-hidden>
              <path d={DRAWN[j.kind].heavy} className={css.heavy} />
              <path d={DRAWN[j.kind].light} className={css.light} />
              <path d={DRAWN[j.kind].way} className={css.way} />
            </svg>
            <b>{j.name}</b>
            <span className="small">{j.words}</span>
            <span className="small">{j.usual}</span>
          </button>
        ))}
      </div>
      <Ask label="How long the joint is">
        <UnitInput value={length} unit="m" onText={setLength} />
      </Ask>
    </Dialog>
  );
}
