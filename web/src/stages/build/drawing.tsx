// What a section is drawn of: waves, layers with what holds and ties them, the place to drop, the depth there is.
import type { Schemas } from "../../api/client";
import { length, type Units } from "../../parts/units";
import { num } from "../../parts/words";
import { FILL, Letter } from "../../theme/hatches";
import css from "./build.module.css";
import { HEIGHT, TOP, type Box, type Part } from "./sectionDrawing";

export const Waves = ({ wide }: { wide: boolean }) => (
  <>
    {[0, 1, 2, 3].slice(0, wide ? 4 : 2).map((i) => (
      <path
        key={i}
        d={`M${6 + i * 16} ${TOP + 4}q8 ${HEIGHT / 2 - 4} 0 ${HEIGHT - 8}`}
        fill="none"
        stroke="var(--cranberry)"
        strokeWidth={3.2 - i * 0.6}
        opacity={1 - i * 0.2}
      />
    ))}
  </>
);

type BoxProps = { part: Part; box: Box; number: number; picked: boolean; lifted: number | null };

export function LayerBox({ part, box, number, picked, lifted }: BoxProps) {
  const { w } = box;
  const at = lifted === null ? box.at : lifted - w / 2;
  const treated = part.acts === "damping" ? part.coverage : 1;
  const h = HEIGHT * Math.max(0.12, treated);
  const gone = part.state === "comes off";
  const fill = part.state === "panel" ? FILL["·"] : (FILL[part.letter] ?? "var(--tape)");
  return (
    <g opacity={gone ? 0.45 : lifted === null ? 1 : 0.75}>
      {treated < 1 ? (
        <rect x={at} y={TOP} width={w} height={HEIGHT} fill="none" stroke="var(--bark)" strokeDasharray="3 3" />
      ) : null}
      <rect
        x={at}
        y={TOP + (HEIGHT - h) / 2}
        width={w}
        height={h}
        fill={part.family === "air" ? "var(--paper)" : fill}
        stroke={picked ? "var(--moss)" : "var(--ink)"}
        strokeWidth={picked ? 4 : 1.3}
        strokeDasharray={part.family === "air" ? "2 4" : undefined}
      />
      {part.tie ? <Tie x={at} w={w} words={part.tie} /> : null}
      {part.hold.includes("screw") || part.hold === "hangers" ? <Fixings x={at} w={w} hold={part.hold} /> : null}
      {Array.from({ length: Math.min(part.seams ?? 0, MOST_SEAMS) }, (_, i) => (
        <Seam
          key={i}
          x={at}
          w={w}
          y={TOP + (HEIGHT * (i + 1)) / (Math.min(part.seams ?? 0, MOST_SEAMS) + 1)}
          taped={part.taped ?? false}
        />
      ))}
      {part.joined ? (
        <line x1={at} x2={at} y1={TOP + 3} y2={TOP + HEIGHT - 3} stroke="var(--heather)" strokeWidth={4} />
      ) : null}
      {gone ? (
        <path
          d={`M${at} ${TOP}L${at + w} ${TOP + HEIGHT}M${at + w} ${TOP}L${at} ${TOP + HEIGHT}`}
          stroke="var(--cranberry)"
          strokeWidth={2}
        />
      ) : null}
      {part.state === "stays" ? (
        <path d={`M${at} ${TOP - 4}h${w}`} stroke="var(--bark)" strokeWidth={4} data-stays />
      ) : null}
      {part.state === "new" && number !== 0 && part.letter && part.letter !== "·" ? (
        <Letter x={at + w / 2} y={TOP + HEIGHT / 2} letter={part.letter} r={Math.min(12, w / 2)} />
      ) : null}
      <text x={at + w / 2} y={TOP + HEIGHT + 16} textAnchor="middle" fontSize={13} fontWeight={700}>
        {lifted === null ? num(number, 0) : ""}
      </text>
    </g>
  );
}

const MOST_SEAMS = 3;

// A joint between two blanks of a barrier: open, or under tape.
function Seam({ x, w, y, taped }: { x: number; w: number; y: number; taped: boolean }) {
  return (
    <g data-seam={taped ? "taped" : "open"}>
      <rect x={x - 1} y={y - 1.5} width={w + 2} height={3} fill="var(--paper)" stroke="var(--ink)" strokeWidth={0.8} />
      {taped ? <rect x={x + w - 1} y={y - 8} width={4} height={16} fill="var(--heather)" /> : null}
    </g>
  );
}

// Studs run through their cavity; channels and single fixings reach over it.
function Tie({ x, w, words }: { x: number; w: number; words: string }) {
  const soft = words.includes("channel") || words.includes("rubber");
  const rows = words.includes("two rows") || words.includes("staggered") ? [0.3, 0.7] : [0.5];
  const across = words.includes("single") || words.startsWith("resilient");
  return (
    <g stroke="var(--ink)" fill="none">
      {across
        ? [0.25, 0.5, 0.75].map((share) => (
            <path
              key={share}
              d={soft ? zigzag(x, w, TOP + HEIGHT * share) : `M${x} ${TOP + HEIGHT * share}h${w}`}
              strokeWidth={2.4}
            />
          ))
        : rows.map((share) => (
            <rect
              key={share}
              x={x + (rows.length > 1 ? (share < 0.5 ? 0 : w * 0.3) : 0)}
              y={TOP + HEIGHT * share - 9}
              width={rows.length > 1 ? w * 0.7 : soft ? w * 0.8 : w}
              height={18}
              fill="var(--tape)"
              strokeWidth={1.6}
            />
          ))}
    </g>
  );
}

const zigzag = (x: number, w: number, y: number): string =>
  `M${x} ${y}${[0, 1, 2, 3].map((i) => `l${w / 4} ${i % 2 ? 8 : -8}`).join("")}`;

function Fixings({ x, w, hold }: { x: number; w: number; hold: string }) {
  const soft = hold.includes("isolated");
  return (
    <g stroke="var(--ink)" strokeWidth={1.8}>
      {[0.18, 0.82].map((share) => (
        <g key={share}>
          <path d={`M${x - 6} ${TOP + HEIGHT * share}h${w + 10}`} />
          {soft ? <circle cx={x + w + 2} cy={TOP + HEIGHT * share} r={4} fill="var(--heather)" /> : null}
          <path d={`M${x + w + 4} ${TOP + HEIGHT * share - 5}v10`} />
        </g>
      ))}
    </g>
  );
}

export function DropHere({ x, width, over }: { x: number; width: number; over: boolean }) {
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
        or between two
      </text>
    </g>
  );
}

type RulerProps = { view: Schemas["BuildView"]; boxes: readonly Box[]; y: number; units: Units; width: number };

// The depth on the side that is lined: what is taken up, and what is left of what there is.
export function Ruler({ view, boxes, y, units, width }: RulerProps) {
  const parts = view.section;
  const { mm, far } = view.depth;
  const panel = parts.findIndex((p) => p.state === "panel" || (p.id === "" && !p.far));
  const [first, last] = far ? [boxes[0], boxes[panel - 1]] : [boxes[panel + 1], boxes.at(-1)];
  if (!first || !last || mm <= 0) return null;
  const limit = view.depth_limit_mm;
  const over = limit !== null && mm > limit;
  const words =
    limit === null
      ? length(mm, units)
      : over
        ? `${length(mm, units)}: ${length(mm - limit, units)} too deep`
        : `${length(mm, units)} of ${length(limit, units)}`;
  const [x0, x1] = [first.at, last.at + last.w];
  const room = (x0 + x1) / 2 + words.length * 3.6;
  return (
    <g className={over ? css.tooDeep : css.depth}>
      <path d={`M${x0} ${y - 5}v10M${x0} ${y}H${x1}M${x1} ${y - 5}v10`} />
      <text
        x={Math.min((x0 + x1) / 2, width - words.length * 3.6 - (room > width ? 4 : 0))}
        y={y + 16}
        textAnchor="middle"
      >
        {words}
      </text>
    </g>
  );
}
