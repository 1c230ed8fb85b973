// The tape above every stage: as found, target, predicted, measured, in the quantity of the goal.
import { parted } from "./labels";
import type { Schemas } from "../api/client";
import { Chart, useWidth } from "../charts/Chart";
import { linear, steps, type Level } from "../charts/scales";
import { num, signed } from "./words";

type Rule = Schemas["GoalRule"];
const COLOUR: Record<string, { colour: string; dash?: string }> = {
  target: { colour: "var(--moss)" },
  predicted: { colour: "var(--heather)", dash: "4 3" },
  measured: { colour: "var(--water)" },
  "as found": { colour: "var(--ink)" },
};
const HEIGHT = { full: 60, small: 44 };

export function GoalRule({ rule }: { rule: Rule }) {
  return (
    <Chart
      label={`Goal rule, ${rule.where}`}
      columns={["mark", "value", "against the target"]}
      height={HEIGHT.full}
      first={1180}
      tight
      points={(width) =>
        rule.marks.map((m) => ({
          at: scaleOf(rule, width)(m.value),
          name: m.name,
          values: [
            `${num(m.value)} ${rule.unit}${within(rule, m.name)}`,
            m.name === "target" || m.from_target === null
              ? null
              : `${signed(m.from_target)} ${rule.unit === "ms" ? "ms" : "dB"}`,
          ],
        }))
      }
    >
      {(width) => <Tape rule={rule} width={width} small={false} />}
    </Chart>
  );
}

const within = (rule: Rule, name: string) =>
  name === "predicted" && rule.predicted_within != null ? ` ± ${num(rule.predicted_within)}` : "";

// In small, with every figure written: on a card that leads to the job.
export function SmallRule({ rule }: { rule: Rule }) {
  const [ref, width] = useWidth<HTMLDivElement>(360);
  const words = rule.marks.map((m) => `${m.name} ${num(m.value)}${within(rule, m.name)} ${rule.unit}`).join(", ");
  return (
    <div ref={ref}>
      <svg width={width} height={HEIGHT.small} role="img" aria-label={`Goal rule, ${rule.where}: ${words}`}>
        <Tape rule={rule} width={width} small />
      </svg>
    </div>
  );
}

const scaleOf = (rule: Rule, width: number): Level => linear([rule.low, rule.high], [0, width]);

function Tape({ rule, width, small }: { rule: Rule; width: number; small: boolean }) {
  const x = scaleOf(rule, width);
  const span = rule.high - rule.low;
  const step = span > 60 ? 10 : span > 22 ? 5 : 2;
  const top = small ? 20 : 28;
  const height = small ? HEIGHT.small : HEIGHT.full;
  const named = width < 560 ? step * 2 : step;
  return (
    <>
      <rect x={0} y={top} width={width} height={height - top} rx={5} fill="var(--tape)" />
      {steps(x, 1).map((v) => (
        <g key={v}>
          <line
            x1={x(v)}
            x2={x(v)}
            y1={top}
            y2={top + (v % step === 0 ? (small ? 6 : 12) : 5)}
            stroke="var(--bark)"
            strokeWidth={v % step === 0 ? 1.2 : 0.8}
          />
          {v % named === 0 && x(v) > 30 && x(v) < width - 34 ? (
            <text x={x(v)} y={height - (small ? 5 : 6)} textAnchor="middle" fontSize={small ? 11 : 12} className="soft">
              {v} {rule.unit}
            </text>
          ) : null}
        </g>
      ))}
      {small && rule.measured != null ? null : <Sure rule={rule} x={x} top={top} />}
      <Marks rule={rule} x={x} top={top} width={width} small={small} />
    </>
  );
}

// Where what is promised will lie, 95 in 100.
function Sure({ rule, x, top }: { rule: Rule; x: Level; top: number }) {
  if (rule.predicted == null || rule.predicted_within == null) return null;
  const [from, to] = [x(rule.predicted - rule.predicted_within), x(rule.predicted + rule.predicted_within)];
  return <rect x={from} y={top} width={to - from} height={7} rx={3} fill="var(--heather)" opacity={0.35} />;
}

// Labels are parted so that none covers another; the line always stands at its value. Where there is no room for the
// names, the line and its colour stay, and the read-out has the figure.
function Marks({ rule, x, top, width, small }: { rule: Rule; x: Level; top: number; width: number; small: boolean }) {
  const size = small ? 11.5 : 13;
  const marks = rule.marks
    .filter((m) => !(small && m.name === "predicted" && rule.measured !== null))
    .map((m) => ({
      ...m,
      at: x(m.value),
      text: `${m.name} ${num(m.value)}${within(rule, m.name)}`,
      flag: m.name === "target",
    }));
  const wide = (text: string, flag: boolean) => text.length * size * 0.56 + (flag ? 14 : 6);
  const needed = marks.reduce((sum, m) => sum + wide(m.text, m.flag) + 4, 0);
  const shown = marks.map((m) => ({ ...m, text: needed > width ? num(m.value) : m.text }));
  const widths = shown.map((m) => wide(m.text, m.flag));
  const starts = parted(
    shown.map((m) => m.at + 5),
    widths,
    width,
  );
  return (
    <>
      {shown.map((m, i) => {
        const at = starts[i] ?? m.at;
        const y = top - (small ? 8 : 11);
        const { colour, dash } = COLOUR[m.name] ?? { colour: "var(--ink)" };
        return (
          <g key={m.name}>
            <line
              x1={m.at}
              x2={m.at}
              y1={top - (small ? 5 : 8)}
              y2={top + (small ? 9 : 14)}
              stroke={colour}
              strokeWidth={3.5}
              strokeDasharray={dash}
            />
            {m.flag ? <rect x={at} y={y - size} width={widths[i]} height={size + 5} rx={3} fill={colour} /> : null}
            <text
              x={at + (m.flag ? 6 : 2)}
              y={y}
              fontSize={size}
              fontWeight={700}
              style={{ fill: m.flag ? "var(--on-moss)" : colour }}
            >
              {m.text}
            </text>
          </g>
        );
      })}
    </>
  );
}
