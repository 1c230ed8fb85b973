// The tape above every stage: as found, target, predicted, measured, in the quantity of the goal.
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { num } from "./words";

type Rule = Schemas["GoalRule"];

export function useWidth<E extends Element>(first: number): [React.RefObject<E | null>, number] {
  const ref = useRef<E | null>(null);
  const [width, setWidth] = useState(first);
  useEffect(() => {
    const element = ref.current;
    if (!element) return;
    const watch = new ResizeObserver(([entry]) => entry && setWidth(Math.max(320, entry.contentRect.width)));
    watch.observe(element);
    return () => watch.disconnect();
  }, []);
  return [ref, width];
}

export function GoalRule({ rule, small = false }: { rule: Rule; small?: boolean }) {
  const [ref, width] = useWidth<HTMLDivElement>(small ? 360 : 1244);
  const at = (v: number) => ((v - rule.low) / (rule.high - rule.low)) * width;
  const step = rule.high - rule.low > 60 ? 10 : rule.high - rule.low > 22 ? 5 : 2;
  const ticks = [];
  for (let v = Math.ceil(rule.low); v <= rule.high; v += 1) ticks.push(v);
  const top = small ? 20 : 28;
  const height = top + (small ? 24 : 32);
  const words = [
    ["as found", rule.as_found],
    ["target", rule.target],
    ["predicted", rule.predicted],
    ["measured", rule.measured],
  ]
    .filter(([, v]) => v !== null && v !== undefined)
    .map(([n, v]) => `${n} ${num(v as number)} ${rule.unit}`)
    .join(", ");
  return (
    <div ref={ref}>
      <svg width={width} height={height} role="img" aria-label={`Goal rule, ${rule.where}: ${words}`}>
        <rect x={0} y={top} width={width} height={height - top} rx={5} fill="var(--tape)" />
        {ticks.map((v) => (
          <g key={v}>
            <line
              x1={at(v)}
              x2={at(v)}
              y1={top}
              y2={top + (v % step === 0 ? (small ? 6 : 12) : 5)}
              stroke="var(--bark)"
              strokeWidth={v % step === 0 ? 1.2 : 0.8}
            />
            {v % step === 0 && at(v) > 30 && at(v) < width - 34 && (!small || v % (step * 2) === 0) ? (
              <text
                x={at(v)}
                y={height - (small ? 5 : 6)}
                textAnchor="middle"
                fontSize={small ? 11 : 12}
                className="soft"
              >
                {v} {rule.unit}
              </text>
            ) : null}
          </g>
        ))}
        <Marks rule={rule} at={at} top={top} width={width} small={small} />
      </svg>
    </div>
  );
}

// Labels are parted so that none covers another; the line always stands at its value.
function Marks({
  rule,
  at,
  top,
  width,
  small,
}: {
  rule: Rule;
  at: (v: number) => number;
  top: number;
  width: number;
  small: boolean;
}) {
  const size = small ? 11.5 : 13;
  const char = size * 0.56;
  const marks = [
    { name: "target", value: rule.target, colour: "var(--moss)", dash: undefined, flag: true },
    { name: "predicted", value: rule.predicted, colour: "var(--heather)", dash: "4 3", flag: false },
    { name: "measured", value: rule.measured, colour: "var(--water)", dash: undefined, flag: false },
    { name: "as found", value: rule.as_found, colour: "var(--ink)", dash: undefined, flag: false },
  ]
    .filter((m) => !(small && m.name === "predicted" && rule.measured != null))
    .filter((m): m is typeof m & { value: number } => m.value !== null && m.value !== undefined)
    .map((m) => ({ ...m, x: at(m.value), text: `${m.name} ${num(m.value)}` }))
    .sort((a, b) => a.x - b.x);
  const widths = marks.map((m) => m.text.length * char + (m.flag ? 14 : 6));
  const starts = marks.map((m) => m.x + 5);
  for (let i = marks.length - 1; i >= 0; i -= 1) {
    const limit = i === marks.length - 1 ? width : (starts[i + 1] ?? width) - 4;
    const end = (starts[i] ?? 0) + (widths[i] ?? 0);
    if (end > limit) starts[i] = Math.min(starts[i] ?? 0, limit - (widths[i] ?? 0));
  }
  for (let i = 0; i < marks.length; i += 1) {
    const least = i === 0 ? 0 : (starts[i - 1] ?? 0) + (widths[i - 1] ?? 0) + 4;
    starts[i] = Math.max(starts[i] ?? 0, least);
  }
  return (
    <>
      {marks.map((m, i) => {
        const x = starts[i] ?? m.x;
        const y = top - (small ? 8 : 11);
        return (
          <g key={m.name}>
            <line
              x1={m.x}
              x2={m.x}
              y1={top - (small ? 5 : 8)}
              y2={top + (small ? 9 : 14)}
              stroke={m.colour}
              strokeWidth={3.5}
              strokeDasharray={m.dash}
            />
            {m.flag ? <rect x={x} y={y - size} width={widths[i]} height={size + 5} rx={3} fill={m.colour} /> : null}
            <text
              x={x + (m.flag ? 6 : 2)}
              y={y}
              fontSize={size}
              fontWeight={700}
              fill={m.colour}
              style={{ fill: m.flag ? "var(--on-moss)" : m.colour }}
            >
              {m.text}
            </text>
          </g>
        );
      })}
    </>
  );
}
