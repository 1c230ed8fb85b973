// One layer in the list beside the section: what else could lie there, its thickness, coverage, place, how it is held.
import { Button, Popover, Slider } from "antd";
import { memo, useEffect, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { HOLD_MS } from "../../api/edits";
import { useShelf } from "../../api/hooks";
import type { Operation } from "../../api/operations";
import { Amount } from "../../parts/Amount";
import { length, useUnits } from "../../parts/units";
import { num } from "../../parts/words";
import css from "./build.module.css";
import { Holding } from "./Holding";
import type { Attempt, Change } from "./sectionDrawing";
import { Swaps } from "./Swaps";

type Layer = Schemas["StackLayerIn"];

type Props = {
  job: number;
  surface: Schemas["Surface"];
  plan: number;
  layer: Layer;
  i: number;
  number: number;
  layers: readonly Layer[];
  change: Change;
  attempt: Attempt;
  said: string;
  open: boolean;
  pick: (layer: string | null) => void;
};

// A hand that drags one layer has neither the others drawn again nor what its dialog holds beside the slider.
export const LayerRow = memo(function LayerRow({ said, pick, ...props }: Props) {
  const { layer, number, open } = props;
  const card = useCard(layer);
  return (
    <li className={css.layer}>
      <b className={css.number}>{num(number, 0)}</b>
      <Popover
        trigger="click"
        open={open}
        onOpenChange={(on) => pick(on ? (layer.id ?? null) : null)}
        placement="bottom"
        content={<LayerForm {...props} />}
      >
        <button
          className={css.layerButton}
          aria-label={`Edit layer ${number}: ${card?.material.name ?? layer.material} ${said}`}
        >
          <b>{card?.material.name ?? layer.material}</b> <span className="small">{said}</span>
        </button>
      </Popover>
    </li>
  );
});

const useCard = (layer: Layer) => useShelf().data?.materials.find((m) => m.material.id === layer.material);
const setting = (layer: Layer, key: string, value: unknown): Operation => ({
  op: "set",
  at: ["layers", layer.id ?? "", key],
  value,
});

const LayerForm = memo(function LayerForm(props: Omit<Props, "said" | "pick">) {
  const { layer, i, number, layers, change, attempt, open } = props;
  const units = useUnits();
  const card = useCard(layer);
  const own = layer.id ?? "";
  const put = (key: string, value: unknown) => change(setting(layer, key, value));
  const move = (by: -1 | 1) =>
    void change({ op: "move", at: ["layers"], id: own, after: (by > 0 ? layers[i + 1] : layers[i - 2])?.id ?? "" });
  const lies = card?.lies ?? true;
  const fills = card?.material.goes_by === "void"; // so deep, under so much of the panel
  const cut = lies && card?.material.stock?.some((f) => f.form === "sheet" || f.form === "roll");
  return (
    <div className={`form ${css.layerForm}`} role="dialog" aria-label={`Layer ${number}`}>
      <h3>{card?.material.name}</h3>
      {card && (lies || fills) ? (
        <div className={css.thicknesses}>
          {card.thicknesses_mm.map((t) => (
            <button
              key={t}
              className="chip"
              aria-pressed={t === layer.thickness_mm}
              onClick={() => void put("thickness_mm", t)}
            >
              {length(t, units)}
            </button>
          ))}
          <Amount
            label={fills ? "Depth of the void" : "Thickness"}
            kind="length"
            value={layer.thickness_mm}
            save={(v) => put("thickness_mm", v)}
          />
        </div>
      ) : null}
      {lies || fills ? <Cover layer={layer} fills={fills} change={change} attempt={attempt} /> : null}
      <div className="acts">
        <Button disabled={i === 0} onClick={() => move(-1)}>
          towards the panel
        </Button>
        <Button disabled={i === layers.length - 1} onClick={() => move(1)}>
          outwards
        </Button>
        <Button danger onClick={() => void change({ op: "remove", at: ["layers"], id: own })}>
          Take out
        </Button>
      </div>
      <Swaps job={props.job} surface={props.surface.id} plan={props.plan} own={own} open={open} change={change} />
      {cut ? (
        <>
          <label className="tickline">
            <input
              type="checkbox"
              checked={layer.grain ?? false}
              onChange={(e) => void put("grain", e.target.checked)}
            />
            <span>Its pieces keep the grain: along the length of the sheet</span>
          </label>
          <label className="tickline">
            <input
              type="checkbox"
              checked={layer.begins === "middle"}
              onChange={(e) => void put("begins", e.target.checked ? "middle" : "")}
            />
            <span>Whole ones are laid from the middle, both ends trimmed alike; else from a corner</span>
          </label>
          <label className="tickline">
            <input
              type="checkbox"
              checked={layer.strips ?? false}
              onChange={(e) => void put("strips", e.target.checked)}
            />
            <span>Strips too narrow to be worth a piece are laid too</span>
          </label>
        </>
      ) : null}
      {lies ? <Holding surface={props.surface} layer={layer} put={put} before={layers[i - 1]} /> : null}
    </div>
  );
});

const [READY_MS, AGAIN_MS] = [150, 1500];
type Covering = { layer: Layer; fills: boolean; change: Change; attempt: Attempt };

// How much of the panel a layer covers.
function Cover({ layer, fills, change, attempt }: Covering) {
  const [sliding, setSliding] = useState<number | null>(null);
  const coverage = sliding ?? layer.coverage ?? 1;
  const to = (c: number) => setting(layer, "coverage", c);
  const stepped = (n: number, from = coverage) => Math.min(1, Math.max(0.05, Math.round(100 * from + n) / 100));
  // while a hand lies on the slider, a step either way is worked out before it is made
  const ready = useRef<ReturnType<typeof setTimeout>>(undefined);
  const focused = useRef(false);
  const lieReady = (from: number, ms: number) => {
    clearTimeout(ready.current);
    ready.current = setTimeout(() => focused.current && attempt(null, to(stepped(-1, from)), to(stepped(1, from))), ms);
  };
  const touch = () => {
    focused.current = true;
    if (sliding === null) lieReady(coverage, READY_MS);
  };
  const leave = () => {
    focused.current = false;
    clearTimeout(ready.current);
    if (sliding === null) attempt(null);
  };
  useEffect(
    () => () => {
      clearTimeout(ready.current);
      if (focused.current) attempt(null);
      focused.current = false;
    },
    [attempt],
  );
  const drag = (c: number, ...next: number[]) => {
    clearTimeout(ready.current);
    setSliding(c);
    attempt(to(c), ...next.map(to));
  };
  // the slider is let go of once the last of its changes is kept
  const last = useRef(0);
  const sent = useRef(layer.coverage);
  const settle = (c: number) => {
    if (c === sent.current) return; // a key let go of says once more what its press said
    sent.current = c;
    const [mine, at] = [++last.current, Date.now()];
    const done = () => {
      if (last.current !== mine) return;
      const left = at + HOLD_MS - Date.now(); // kept while the hand is still at it
      if (left > 0) return void setTimeout(done, left);
      setSliding(null);
      attempt(null);
      lieReady(c, AGAIN_MS);
    };
    void change(to(c)).then(done, done);
  };
  // arrows are taken here, one state a press: the slider's own handling cannot keep up with a held key on a slow machine
  const step = (e: React.KeyboardEvent) => {
    const by = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 }[e.key];
    if (!by) return;
    e.preventDefault();
    e.stopPropagation();
    drag(stepped(by), stepped(2 * by));
    settle(stepped(by));
  };
  return (
    <label className="field">
      <span>
        {fills ? "Under" : "Coverage"} {Math.round(coverage * 100)} %{fills ? " of the panel" : ""}
      </span>
      <span onKeyDownCapture={step} onFocus={touch} onBlur={leave}>
        <Slider
          min={0.05}
          max={1}
          step={0.01}
          value={coverage}
          onChange={(c) => drag(c)}
          onChangeComplete={settle}
          tooltip={{ open: false }}
          ariaLabelForHandle="Coverage"
        />
      </span>
    </label>
  );
}
