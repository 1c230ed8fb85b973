// One layer in the list beside the section: thickness, coverage, place, taken out.
import { Button, Popover, Select, Slider } from "antd";
import { useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { useShelf } from "../../api/hooks";
import type { Operation } from "../../api/operations";
import css from "./build.module.css";

type Layer = Schemas["StackLayerIn"];

export type Change = (...operations: Operation[]) => Promise<unknown>;

export type Attempt = (operation: Operation | null) => void;

type Props = {
  layer: Layer;
  i: number;
  layers: readonly Layer[];
  change: Change;
  attempt: Attempt;
  said: string;
  open: boolean;
  setOpen: (on: boolean) => void;
};

export function LayerRow({ layer, i, layers, change, attempt, said, open, setOpen }: Props) {
  const shelf = useShelf();
  const material = shelf.data?.materials.find((m) => m.id === layer.material);
  const [sliding, setSliding] = useState<number | null>(null);
  const coverage = sliding ?? layer.coverage;
  const own = layer.id ?? "";
  const setting = (key: "thickness_mm" | "coverage", value: number): Operation => ({
    op: "set",
    at: ["layers", own, key],
    value,
  });
  const put = (key: "thickness_mm" | "coverage", value: number) => change(setting(key, value));
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
  return (
    <li className={css.layer}>
      <b className={css.number}>{i + 1}</b>
      <Popover
        trigger="click"
        open={open}
        onOpenChange={setOpen}
        placement="bottom"
        content={
          <div className={`form ${css.layerForm}`} role="dialog" aria-label={`Layer ${i + 1}`}>
            <h3>{material?.name}</h3>
            {material && material.thicknesses_mm.length > 1 ? (
              <Select
                value={layer.thickness_mm}
                aria-label="Thickness"
                options={material.thicknesses_mm.map((t) => ({ value: t, label: `${t} mm` }))}
                onChange={(mm) => void put("thickness_mm", mm)}
              />
            ) : null}
            {material?.family !== "line" ? (
              <label className="field">
                <span>Coverage {Math.round(coverage * 100)} %</span>
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
          </div>
        }
      >
        <button
          className={css.layerButton}
          aria-label={`Edit layer ${i + 1}: ${material?.name ?? layer.material} ${said}`}
        >
          <b>{material?.name ?? layer.material}</b> <span className="small">{said}</span>
        </button>
      </Popover>
    </li>
  );
}
