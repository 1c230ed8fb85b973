// One layer in the list beside the section: what else could lie there, its thickness, coverage, place, how it is held.
import { Button, Popover, Slider } from "antd";
import { useRef, useState } from "react";
import type { Schemas } from "../../api/client";
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
  alternative: Schemas["Alternative"] | undefined;
  layer: Layer;
  i: number;
  number: number;
  layers: readonly Layer[];
  change: Change;
  attempt: Attempt;
  said: string;
  open: boolean;
  setOpen: (on: boolean) => void;
};

export function LayerRow(props: Props) {
  const { layer, i, number, layers, change, attempt, said, open, setOpen } = props;
  const shelf = useShelf();
  const units = useUnits();
  const card = shelf.data?.materials.find((m) => m.material.id === layer.material);
  const [sliding, setSliding] = useState<number | null>(null);
  const coverage = sliding ?? layer.coverage ?? 1;
  const own = layer.id ?? "";
  const setting = (key: string, value: unknown): Operation => ({ op: "set", at: ["layers", own, key], value });
  const put = (key: string, value: unknown) => change(setting(key, value));
  const drag = (c: number) => {
    setSliding(c);
    attempt(setting("coverage", c));
  };
  // the slider is let go of once the last of its changes is kept
  const last = useRef(0);
  const sent = useRef(layer.coverage);
  const settle = (c: number) => {
    if (c === sent.current) return; // a key let go of says once more what its press said
    sent.current = c;
    const mine = ++last.current;
    const done = () => {
      if (last.current !== mine) return;
      setSliding(null);
      attempt(null);
    };
    void put("coverage", c).then(done, done);
  };
  // arrows are taken here, one state a press: the slider's own handling cannot keep up with a held key on a slow machine
  const step = (e: React.KeyboardEvent) => {
    const by = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 }[e.key];
    if (!by) return;
    e.preventDefault();
    e.stopPropagation();
    const next = Math.min(1, Math.max(0.05, Math.round(100 * coverage + by) / 100));
    drag(next);
    settle(next);
  };
  const move = (by: -1 | 1) =>
    void change({ op: "move", at: ["layers"], id: own, after: (by > 0 ? layers[i + 1] : layers[i - 2])?.id ?? "" });
  const lies = card?.lies ?? true;
  const fills = card?.material.goes_by === "void"; // so deep, under so much of the panel
  return (
    <li className={css.layer}>
      <b className={css.number}>{num(number, 0)}</b>
      <Popover
        trigger="click"
        open={open}
        onOpenChange={setOpen}
        placement="bottom"
        content={
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
            {lies || fills ? (
              <label className="field">
                <span>
                  {fills ? "Under" : "Coverage"} {Math.round(coverage * 100)} %{fills ? " of the panel" : ""}
                </span>
                <span onKeyDownCapture={step}>
                  <Slider
                    min={0.05}
                    max={1}
                    step={0.01}
                    value={coverage}
                    onChange={drag}
                    onChangeComplete={settle}
                    tooltip={{ open: false }}
                    ariaLabelForHandle="Coverage"
                  />
                </span>
              </label>
            ) : null}
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
            <Swaps
              job={props.job}
              surface={props.surface.id}
              plan={props.alternative?.id ?? 0}
              own={own}
              open={open}
              change={change}
            />
            {lies && card?.material.stock?.some((f) => f.form === "sheet" || f.form === "roll") ? (
              <label className="tickline">
                <input
                  type="checkbox"
                  checked={layer.grain ?? false}
                  onChange={(e) => void put("grain", e.target.checked)}
                />
                <span>Its pieces keep the grain: along the length of the sheet</span>
              </label>
            ) : null}
            {lies && card?.material.stock?.some((f) => f.form === "sheet" || f.form === "roll") ? (
              <>
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
        }
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
}
