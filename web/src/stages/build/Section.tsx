import { percent } from "../../parts/words";
// The stack in section to scale, from the noise to the ear: what stands, what comes off, what is new. The drawing is the form.
import { memo, useState } from "react";
import type { Schemas } from "../../api/client";
import { useWidth } from "../../charts/Chart";
import { useAddress } from "../../parts/address";
import { useSteady } from "../../parts/steady";
import { length, useUnits, type Units } from "../../parts/units";
import { Hatches } from "../../theme/hatches";
import css from "./build.module.css";
import { DropHere, LayerBox, Ruler, Waves } from "./drawing";
import { LayerRow } from "./Layer";
import { afterAt, boxesOf, HEIGHT, TOP, type Attempt, type Change, type Part } from "./sectionDrawing";
import { StandingRow } from "./Standing";
import { useDrag } from "./useDrag";

type View = Schemas["BuildView"];
type Layer = Schemas["StackLayerIn"];

type Props = {
  id: number;
  view: View;
  alternative: Schemas["Alternative"] | undefined;
  surface: Schemas["Surface"];
  change: Change;
  attempt: Attempt;
  drop: (material: string, mm: number, after: string | null) => void;
  standing: (id: string, out: boolean) => void;
};

export const Section = memo(function Section({
  id,
  view,
  alternative,
  surface,
  change,
  attempt,
  drop,
  standing,
}: Props) {
  const [ref, width] = useWidth<HTMLDivElement>(540);
  const [over, setOver] = useState<number | null>(null);
  const units = useUnits();
  const address = useAddress();
  const picked = address.get("layer");
  const pick = useSteady((layer: string | null) => address.put({ layer }));
  const layers = alternative?.layers ?? [];
  const parts = view.section;
  const { boxes, scale } = boxesOf(parts, width);
  const end = boxes.at(-1);
  const free = width - (end ? end.at + end.w + 12 : 0);
  const hand = useDrag({
    parts,
    boxes,
    scale,
    kept: (own) => layers.find((l) => l.id === own),
    order: layers.map((l) => l.id ?? ""),
    change,
    attempt,
  });
  const insert = over === null ? null : placeOf(parts, boxes, over);
  return (
    <div className={css.section}>
      <div
        ref={ref}
        className={css.drawn}
        data-section
        onDragOver={(e) => {
          e.preventDefault();
          setOver(e.clientX - e.currentTarget.getBoundingClientRect().left);
        }}
        onDragLeave={() => setOver(null)}
        onDrop={(e) => {
          e.preventDefault();
          const x = e.clientX - e.currentTarget.getBoundingClientRect().left;
          setOver(null);
          const [m, t] = e.dataTransfer.getData("text/plain").split("|");
          if (m) drop(m, Number(t), afterAt(parts, boxes, x));
        }}
      >
        <svg
          width={width}
          height={HEIGHT + TOP + 46}
          role="img"
          aria-label={`Section: ${parts.map((p) => `${p.name} ${length(p.thickness_mm, units)}`).join(", ")}`}
        >
          <Hatches />
          <Waves wide={width > 420} />
          {parts.map((p, i) => (
            <LayerBox
              key={`${p.state}${p.id}${i}`}
              part={p}
              box={boxes[i] ?? { at: 0, w: 0 }}
              number={numbered(parts, i)}
              picked={Boolean(picked) && p.state === "new" && p.id === picked}
              lifted={hand.shown?.id === p.id && p.state === "new" ? hand.shown.x : null}
            />
          ))}
          {insert !== null ? <line x1={insert} x2={insert} y1={0} y2={HEIGHT + TOP} className={css.insert} /> : null}
          {free > 130 ? <DropHere x={width - free} width={free - 2} over={over !== null} /> : null}
          <Ruler view={view} boxes={boxes} y={HEIGHT + TOP + 24} units={units} width={width} />
        </svg>
        {parts.map((part, i) => {
          const box = boxes[i];
          if (!box || part.state !== "new" || !part.id || part.id === "panel" || !part.thickness_mm) return null;
          return (
            <span
              key={part.id}
              className={css.hit}
              style={{ left: box.at, top: TOP, width: box.w, height: HEIGHT }}
              title="Drag to another place"
              onPointerDown={hand.take("move", part)}
              onPointerMove={hand.follow}
              onPointerUp={(e) => {
                if (!hand.release(e)) pick(part.id);
              }}
              onPointerCancel={hand.drop}
              aria-hidden
            >
              <span
                className={css.edge}
                data-edge={part.id}
                title="Pull for thickness"
                onPointerDown={hand.take("thickness", part)}
                onPointerMove={hand.follow}
                onPointerUp={(e) => {
                  e.stopPropagation();
                  hand.release(e);
                }}
                onPointerCancel={hand.drop}
              />
              {part.acts === "damping" ? (
                <span
                  className={css.crown}
                  data-crown={part.id}
                  style={{ top: (HEIGHT * (1 - part.coverage)) / 2 }}
                  title="Pull for coverage"
                  onPointerDown={hand.take("coverage", part)}
                  onPointerMove={hand.follow}
                  onPointerUp={(e) => {
                    e.stopPropagation();
                    hand.release(e);
                  }}
                  onPointerCancel={hand.drop}
                />
              ) : null}
            </span>
          );
        })}
      </div>
      <ol className={css.layers} aria-label="Layers, from the panel outwards">
        {parts.map((part, i) => {
          const at = layers.findIndex((l) => l.id === part.id);
          const layer = part.state === "new" ? layers[at] : undefined;
          return layer ? (
            <LayerRow
              key={layer.id || `${at}${layer.material}`}
              job={id}
              surface={surface}
              plan={alternative?.id ?? 0}
              layer={layer}
              i={at}
              number={numbered(parts, i)}
              layers={layers}
              change={change}
              attempt={attempt}
              said={part.material === layer.material ? facts(part, layer, units) : length(layer.thickness_mm, units)}
              open={picked !== null && picked === layer.id}
              pick={pick}
            />
          ) : (
            <StandingRow
              key={`${part.state}${part.id}${i}`}
              part={part}
              number={numbered(parts, i)}
              said={facts(part, undefined, units)}
              canTakeOut={Boolean(alternative)}
              standing={standing}
            />
          );
        })}
        {layers
          .filter((l) => !parts.some((p) => p.state === "new" && p.id === l.id))
          .map((l, i) => (
            <li key={l.id || i} className={css.layer}>
              <b className={css.number}>·</b>
              <span className={css.panel}>{l.material}</span>
            </li>
          ))}
      </ol>
    </div>
  );
});

const panelAt = (parts: readonly Part[]): number =>
  Math.max(
    0,
    parts.findIndex((p) => p.state === "panel" || (p.id === "" && !p.far)),
  );
// The panel is 0; towards the ear the numbers rise, on the far side they fall.
const numbered = (parts: readonly Part[], i: number): number => i - panelAt(parts);

// Where a line shows that something would come to lie.
function placeOf(parts: readonly Part[], boxes: readonly { at: number; w: number }[], x: number): number {
  const after = afterAt(parts, boxes, x);
  const i = after ? parts.findIndex((p) => p.state === "new" && p.id === after) : after === "" ? panelAt(parts) : -1;
  const box = boxes[i < 0 ? boxes.length - 1 : i];
  return box ? box.at + box.w + 1 : x;
}

// What stands beside a layer's name.
function facts(p: Part, layer: Layer | undefined, units: Units): string {
  const differs = p.state === "new" && Math.abs(p.reached - p.coverage) > 0.005;
  return [
    p.acts === "line" ? p.takes : p.acts === "thing" ? "" : length(p.thickness_mm, units),
    p.coverage < 1 || differs ? percent(p.coverage) : "",
    differs ? `cut: ${percent(p.reached)}` : "",
    p.tie,
    p.joined,
    p.seams ? `${p.seams} ${p.seams > 1 ? "seams" : "seam"}, ${p.taped ? "taped" : "open"}` : "",
    layer?.held ?? "",
  ]
    .filter(Boolean)
    .join(", ");
}
