// What is known of a surface: depth, weight, what it stands, its frame.
import { Button } from "antd";
import { memo, useState } from "react";
import type { Schemas } from "../../api/client";
import { Amount } from "../../parts/Amount";
import { Field } from "../../parts/fields";
import type { StageProps } from "../../parts/stage";
import { sameBut } from "../../parts/steady";
import { FrameFields } from "./frame";
import { Stands } from "./Stands";
import { ZoneForm } from "./Zones";

const FLAGS: Schemas["Surface"]["flags"] = [
  "wet",
  "hot",
  "curved",
  "hidden",
  "walked on",
  "overhead",
  "trim over it",
  "moves",
  "salt",
  "outdoors",
  "sun",
  "food",
  "loudspeaker",
  "membrane",
  "fire-rated",
  "structural",
  "seen",
  "slept in",
];

type Props = { surface: Schemas["Surface"]; edit: StageProps["edit"]; size: () => void };

// What is folded up is not drawn: a hand that drags waits for every control there is.
export const SurfaceCard = memo(function SurfaceCard(props: Props) {
  const [open, setOpen] = useState(false);
  return (
    <details onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>
        <b>About this surface</b>
      </summary>
      {open ? <About {...props} /> : null}
    </details>
  );
}, sameBut("edit"));

function About({ surface, edit, size }: Props) {
  return (
    <div className="form">
      <Field label="Name" value={surface.name} save={(name) => edit.change("surfaces", surface, { name })} />
      <div className="acts">
        <Button onClick={size}>Measure and draw it</Button>
        {surface.made_from ? <span className="small">{surface.made_from}</span> : null}
      </div>
      <div className="two">
        <Amount
          label="Depth there is"
          kind="length"
          value={surface.depth_limit_mm}
          placeholder="none"
          save={(v) => edit.change("surfaces", surface, { depth_limit_mm: v })}
        />
        <Amount
          label="Weight each may gain"
          kind="mass"
          value={surface.kg_limit}
          placeholder="ask its maker"
          save={(v) => edit.change("surfaces", surface, { kg_limit: v })}
        />
        <Field
          label="Behind the same trim as"
          value={surface.shares_access ?? ""}
          placeholder="a name they share"
          save={(v) => edit.change("surfaces", surface, { shares_access: v })}
        />
        <Field
          label="How many alike"
          value={String(surface.count)}
          save={(v) => edit.change("surfaces", surface, { count: Number(v) })}
        />
      </div>
      <div className="chips">
        {FLAGS.map((f) => (
          <button
            key={f}
            className="chip"
            aria-pressed={surface.flags.includes(f)}
            onClick={() =>
              void edit.tryOperate(
                "surfaces",
                surface,
                surface.flags.includes(f)
                  ? { op: "remove", at: ["flags"], id: f }
                  : { op: "add", at: ["flags"], item: f, after: null },
              )
            }
          >
            {f}
          </button>
        ))}
      </div>
      <label className="tickline">
        <input
          type="checkbox"
          checked={surface.planned ?? false}
          onChange={(e) => void edit.tryChange("surfaces", surface, { planned: e.target.checked })}
        />
        <span>It does not stand yet</span>
      </label>
      {surface.frame?.kind !== "none" || surface.planned ? (
        <FrameFields
          label={surface.planned ? "What ties its leaves" : "What ties its leaves, as it stands"}
          frame={surface.frame ?? { kind: "none" }}
          save={(frame) => edit.change("surfaces", surface, { frame })}
        />
      ) : null}
      <Stands surface={surface} edit={edit} />
      <b>Zones</b>
      <ZoneForm surface={surface} edit={edit} />
      <Button danger onClick={() => void edit.remove("surfaces", surface)}>
        Remove this surface and its plans
      </Button>
    </div>
  );
}
