// A build in three views to scale, from the very parts that are cut.
import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { amount, useUnits } from "../../../parts/units";
import css from "./builds.module.css";

export function BuildDrawing({ drawn, name, id }: { drawn: Schemas["DrawnBuild"]; name: string; id: number }) {
  const units = useUnits();
  const [picked, setPicked] = useState<string | null>(null);
  const [wide, high] = [drawn.wide_mm, drawn.high_mm];
  const letter = drawn.letter_mm; // as large on the page however large the build is
  const points = (ring: readonly (readonly number[])[]) => ring.map(([x = 0, y = 0]) => `${x},${-y}`).join(" ");
  const part = drawn.parts.find((p) => p.id === picked);
  return (
    <figure className={css.drawing}>
      <svg
        viewBox={`${-2.6 * letter} ${-high - 0.5 * letter} ${wide + 3.1 * letter} ${high + 5 * letter}`}
        role="img"
        aria-label={`${name} from in front, from the left and from above`}
      >
        {drawn.around.map((ring, i) => (
          <polygon key={i} points={points(ring)} className={css.room} strokeWidth={letter / 10} />
        ))}
        {drawn.parts.map((p, i) => (
          <path
            key={i}
            d={[p.outline_mm, ...p.holes_mm].map((ring) => `M${points(ring)}Z`).join("")}
            fillRule="evenodd"
            className={css.part}
            strokeWidth={letter / 14}
            data-picked={p.id === picked || undefined}
            onPointerEnter={() => setPicked(p.id)}
          >
            <title>{p.name}</title>
          </path>
        ))}
        {drawn.ghosts.map((ring, i) => (
          <polygon
            key={i}
            points={points(ring)}
            className={css.ghost}
            strokeDasharray={letter / 2}
            strokeWidth={letter / 14}
          />
        ))}
        {drawn.names.map(([words, x, y], i) => (
          <text key={i} x={x} y={0.3 * letter - y} fontSize={letter} className={css.name}>
            {words}
          </text>
        ))}
        {drawn.measures.map(([ax, ay, bx, by, words], i) => {
          const upright = ax === bx;
          const [x, y] = [(ax + bx) / 2 - (upright ? 0.3 * letter : 0), -(ay + by) / 2 + (upright ? 0 : 1.1 * letter)];
          return (
            <g key={i}>
              <line x1={ax} x2={bx} y1={-ay} y2={-by} className={css.measure} strokeWidth={letter / 20} />
              <text
                x={x}
                y={y}
                fontSize={letter}
                className={css.name}
                {...(upright ? { transform: `rotate(-90 ${x} ${y})` } : {})}
              >
                {amount(Number(words), "mm", units, 0)}
              </text>
            </g>
          );
        })}
        {drawn.titles.map(([words, x, y], i) => (
          <text key={i} x={x} y={-y} fontSize={letter} className={css.title}>
            {words}
          </text>
        ))}
      </svg>
      <figcaption className="small">
        {part ? `B${id}-${part.id}: ${part.name}` : `Each part is labelled as it is cut, B${id}- before its name.`}
      </figcaption>
    </figure>
  );
}
