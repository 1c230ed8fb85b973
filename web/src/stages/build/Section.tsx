// The stack in section to scale, its layers listed beside it; each is picked in either.
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useWidth } from "../../charts/Chart";
import { useAddress } from "../../parts/address";
import { num } from "../../parts/words";
import { FILL, Hatches, Letter } from "../../theme/hatches";
import css from "./build.module.css";
import { LayerRow, type Attempt, type Change } from "./Layer";

type View = Schemas["BuildView"];
type Part = View["layers"][number];
type Layer = Schemas["StackLayerIn"];

const [HEIGHT, TOP, LEAST, DROP, WIDEST] = [150, 8, 30, 150, 14];

type Props = {
  view: View;
  layers: readonly Layer[];
  change: Change;
  attempt: Attempt;
  drop: (material: string, mm: number) => void;
};

export function Section({ view, layers, change, attempt, drop }: Props) {
  const [ref, width] = useWidth<HTMLDivElement>(540);
  const [over, setOver] = useState(false);
  const address = useAddress();
  const picked = address.get("layer");
  const pick = (id: string | null) => address.put({ layer: id });
  const parts = view.substrate ? [view.substrate, ...view.layers] : view.layers;
  const boxes = boxesOf(parts, width);
  const end = boxes.at(-1);
  const free = width - (end ? end.at + end.w + 12 : 0);
  return (
    <div className={css.section}>
      <div
        ref={ref}
        className={css.drawn}
        onDragOver={(e) => {
          e.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(e) => {
          e.preventDefault();
          setOver(false);
          const [m, t] = e.dataTransfer.getData("text/plain").split("|");
          if (m) drop(m, Number(t));
        }}
      >
        <svg
          width={width}
          height={HEIGHT + TOP + 22}
          role="img"
          aria-label={`Section: ${parts.map((p) => `${p.name} ${p.thickness_mm} mm`).join(", ")}`}
        >
          <Hatches />
          {[0, 1, 2, 3].slice(0, width > 420 ? 4 : 2).map((i) => (
            <path
              key={i}
              d={`M${6 + i * 16} ${TOP + 4}q8 ${HEIGHT / 2 - 4} 0 ${HEIGHT - 8}`}
              fill="none"
              stroke="var(--cranberry)"
              strokeWidth={3.2 - i * 0.6}
              opacity={1 - i * 0.2}
            />
          ))}
          {parts.map((p, i) => (
            <LayerBox
              key={i}
              part={p}
              box={boxes[i] ?? { at: 0, w: LEAST }}
              number={i}
              picked={Boolean(picked) && layers[i - 1]?.id === picked}
            />
          ))}
          {free > DROP - 20 ? <DropHere x={width - free} width={free - 2} over={over} /> : null}
        </svg>
        {layers.map((layer, i) => {
          const box = boxes[i + 1];
          return box ? (
            <span
              key={layer.id || i}
              aria-hidden
              className={css.hit}
              style={{ left: box.at, top: TOP, width: box.w, height: HEIGHT }}
              onClick={() => pick(layer.id ?? null)}
            />
          ) : null;
        })}
      </div>
      <ol className={css.layers} aria-label="Layers, from the panel outwards">
        <li className={css.layer}>
          <b className={css.number}>0</b>
          <span className={css.panel}>
            <b>{view.substrate?.name}</b> <span className="small">{view.substrate ? facts(view.substrate) : ""}</span>
          </span>
        </li>
        {layers.map((layer, i) => {
          const part = view.layers[i];
          return (
            <LayerRow
              key={layer.id || `${i}${layer.material}`}
              layer={layer}
              i={i}
              layers={layers}
              change={change}
              attempt={attempt}
              said={part && part.material === layer.material ? facts(part) : `${num(layer.thickness_mm)} mm`}
              open={picked !== null && picked === layer.id}
              setOpen={(on) => pick(on ? (layer.id ?? null) : null)}
            />
          );
        })}
      </ol>
    </div>
  );
}

// One scale for all layers; a layer thinner than its number is drawn wide enough to be seen.
function boxesOf(parts: readonly Part[], width: number): { at: number; w: number }[] {
  const left = width > 420 ? 74 : 40;
  const depth = parts.reduce((sum, p) => sum + p.thickness_mm, 0);
  const room = width - left - (width > 420 ? DROP : 8) - 2 * parts.length;
  const least = Math.min(LEAST, room / Math.max(parts.length, 1));
  const scale = Math.max(0.1, Math.min(WIDEST, (room - parts.length * least * 0.6) / Math.max(depth, 1)));
  const wanted = parts.map((p) => Math.max(least, p.thickness_mm * scale));
  const over = Math.max(1, wanted.reduce((a, b) => a + b, 0) / Math.max(room, 1));
  let at = left;
  return wanted.map((w) => {
    const box = { at, w: w / over };
    at += box.w + 2;
    return box;
  });
}

// What stands beside a layer's name.
function facts(p: Part): string {
  const differs = Math.abs(p.reached - p.coverage) > 0.02;
  return [
    p.family === "line" ? "all round" : `${num(p.thickness_mm, p.thickness_mm % 1 ? 1 : 0)} mm`,
    p.coverage < 1 || differs ? `${Math.round(p.coverage * 100)} %` : "",
    differs ? `cut: ${Math.round(p.reached * 100)} %` : "",
  ]
    .filter(Boolean)
    .join(", ");
}

function LayerBox({
  part,
  box,
  number,
  picked,
}: {
  part: Part;
  box: { at: number; w: number };
  number: number;
  picked: boolean;
}) {
  const { at, w } = box;
  const treated = part.family === "damping" ? part.coverage : 1;
  const h = HEIGHT * Math.max(0.12, treated);
  return (
    <g>
      {treated < 1 ? (
        <rect x={at} y={TOP} width={w} height={HEIGHT} fill="none" stroke="var(--bark)" strokeDasharray="3 3" />
      ) : null}
      <rect
        x={at}
        y={TOP + (HEIGHT - h) / 2}
        width={w}
        height={h}
        fill={number === 0 ? FILL["·"] : FILL[part.letter]}
        stroke={picked ? "var(--moss)" : "var(--ink)"}
        strokeWidth={picked ? 4 : 1.3}
      />
      {number > 0 ? <Letter x={at + w / 2} y={TOP + HEIGHT / 2} letter={part.letter} r={Math.min(12, w / 2)} /> : null}
      <text x={at + w / 2} y={TOP + HEIGHT + 17} textAnchor="middle" fontSize={13} fontWeight={700}>
        {number}
      </text>
    </g>
  );
}

function DropHere({ x, width, over }: { x: number; width: number; over: boolean }) {
  return (
    <g>
      <rect
        x={x}
        y={TOP}
        width={width}
        height={HEIGHT}
        rx={8}
        fill={over ? "var(--moss-wash)" : "none"}
        stroke="var(--moss)"
        strokeWidth={2}
        strokeDasharray="6 5"
      />
      <text
        x={x + width / 2}
        y={TOP + HEIGHT / 2 - 2}
        textAnchor="middle"
        fontSize={14}
        style={{ fill: "var(--moss)" }}
      >
        drop a layer here
      </text>
      <text x={x + width / 2} y={TOP + HEIGHT / 2 + 18} textAnchor="middle" fontSize={12.5} className="soft">
        or pick from the shelf
      </text>
    </g>
  );
}
