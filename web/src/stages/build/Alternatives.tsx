// The stacks a surface could have: picked, chosen, copied to other surfaces, put beside one another.
import { Button, Input, Popover } from "antd";
import { memo, useState } from "react";
import type { Schemas } from "../../api/client";
import { useAddress } from "../../parts/address";
import { useTyped } from "../../parts/begun";
import type { StageProps } from "../../parts/stage";
import { sameBut } from "../../parts/steady";

type Alternative = Schemas["Alternative"];
type Props = {
  surface: Schemas["Surface"];
  surfaces: readonly Schemas["Surface"][];
  zone: string;
  alike: readonly number[];
  alternatives: readonly Alternative[];
  chosen: Alternative | undefined;
  edit: StageProps["edit"];
};

const LETTERS = 65; // of A
const same = (before: Props, after: Props): boolean =>
  sameBut("alike")(before, after) && String(before.alike) === String(after.alike);

export const Alternatives = memo(function Alternatives(props: Props) {
  const { surface, surfaces, alike, zone, alternatives, chosen, edit } = props;
  const address = useAddress();
  const another = async () => {
    const made = await edit
      .create("alternatives", [
        {
          surface_id: surface.id,
          zone,
          name: `Plan ${String.fromCharCode(LETTERS + alternatives.length)}`,
          layers: chosen?.layers ?? [],
          takes_out: chosen?.takes_out ?? [],
          frame: chosen?.frame ?? null,
          chosen: alternatives.length === 0,
        },
      ])
      .catch(edit.say);
    const fresh = made?.[0]?.["id"];
    if (fresh) address.go({ surface: surface.id, plan: Number(fresh), layer: null });
  };
  return (
    <>
      <div className="chips" role="group" aria-label="Alternatives">
        {alternatives.map((a) => (
          <button
            key={a.id}
            className="chip"
            aria-pressed={a.id === chosen?.id}
            onClick={() => address.go({ surface: surface.id, plan: a.id, layer: null })}
          >
            {a.name}
            {a.chosen ? " ✓" : ""}
          </button>
        ))}
        <button className="chip" onClick={() => void another()}>
          + alternative
        </button>
      </div>
      {chosen ? (
        <div className="acts">
          {chosen.chosen ? null : (
            <Button type="primary" onClick={() => void edit.tryChange("alternatives", chosen, { chosen: true })}>
              Choose “{chosen.name}”
            </Button>
          )}
          <CopyTo surface={surface} surfaces={surfaces} alike={alike} plan={chosen} edit={edit} />
          <Rename key={chosen.id} plan={chosen} edit={edit} />
          {alternatives.length > 1 ? (
            <Button
              onClick={() =>
                void edit.remove("alternatives", chosen).then(() => address.leave("plan", chosen.id, { layer: null }))
              }
            >
              Drop it
            </Button>
          ) : null}
        </div>
      ) : null}
    </>
  );
}, same);

function Rename({ plan, edit }: { plan: Alternative; edit: StageProps["edit"] }) {
  const { begun, type, end } = useTyped(plan);
  const keep = () => {
    const name = begun?.text.trim();
    if (begun && name && name !== plan.name) void edit.tryChange("alternatives", begun.over, { name });
    end();
  };
  return begun === null ? (
    <Button onClick={() => type(plan.name)}>Rename</Button>
  ) : (
    <Input
      autoFocus
      value={begun.text}
      aria-label="Name of this alternative"
      onChange={(e) => type(e.target.value)}
      onBlur={keep}
      onPressEnter={keep}
    />
  );
}

// The same stack on other surfaces: what hung on this one's standing layers goes over all that stands there.
function CopyTo({
  surface,
  surfaces,
  alike,
  plan,
  edit,
}: Omit<Props, "zone" | "alternatives" | "chosen"> & { plan: Alternative }) {
  const [open, setOpen] = useState(false);
  const [to, setTo] = useState<readonly number[]>([]);
  const others = surfaces.filter((s) => s.id !== surface.id);
  if (!others.length || !plan.layers.length) return null;
  const toggle = (id: number) => setTo(to.includes(id) ? to.filter((t) => t !== id) : [...to, id]);
  const copy = () => {
    const layers = plan.layers.map((l) => ({
      ...l,
      place: l.place === "far" || l.place === "panel" ? l.place : "",
    }));
    void edit
      .create(
        "alternatives",
        to.map((id) => ({ surface_id: id, name: plan.name, layers, chosen: true })),
      )
      .catch(edit.say);
    setOpen(false);
    setTo([]);
  };
  return (
    <Popover
      trigger="click"
      open={open}
      onOpenChange={setOpen}
      content={
        <div className="form" role="dialog" aria-label="Copy to other surfaces">
          <b>The same on</b>
          {alike.length ? (
            <Button onClick={() => setTo(alike)}>
              {alike.length > 1
                ? `All ${alike.length} of its shape, mirrored ones too`
                : "The one of its shape, mirrored or not"}
            </Button>
          ) : null}
          <div className="chips">
            {others.map((s) => (
              <button key={s.id} className="chip" aria-pressed={to.includes(s.id)} onClick={() => toggle(s.id)}>
                {s.name}
              </button>
            ))}
          </div>
          <Button type="primary" disabled={!to.length} onClick={copy}>
            Copy and choose it there
          </Button>
        </div>
      }
    >
      <Button>Copy to …</Button>
    </Popover>
  );
}
