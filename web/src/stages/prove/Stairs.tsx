// Rounds as stairs: each with its level, its interval, what it changed and whether that is shown.
import type { Schemas } from "../../api/client";
import { Chart } from "../../charts/Chart";
import { Interval } from "../../charts/marks";
import { linear } from "../../charts/scales";
import { num, short, signed } from "../../parts/words";

type View = Schemas["ProveView"];
type Stair = View["stairs"][number];

const [HEIGHT, TOP, FOOT, GAP, WIDEST] = [300, 34, 52, 22, 230];

export function Stairs({ view, target }: { view: View; target: number | null }) {
  const { stairs, unit } = view;
  const all = [
    ...stairs.flatMap((s) => [s.level_db + s.half_width_db, s.level_db - s.half_width_db]),
    ...(target === null ? [] : [target]),
  ];
  const y = linear([Math.min(...all) - 4, Math.max(...all) + 2], [HEIGHT - FOOT, TOP]);
  const each = (width: number) =>
    Math.min(WIDEST, (width - (target === null ? 8 : Math.min(96, width * 0.2))) / stairs.length);
  return (
    <Chart
      label="Rounds, one after another"
      columns={["round", "level", "95 %", "change", "what it says"]}
      height={HEIGHT}
      points={(width) =>
        stairs.map((s, i) => ({
          at: i * each(width) + 8 + (each(width) - GAP) / 2,
          name: s.name,
          values: [
            `${num(s.level_db)} ${unit}`,
            `± ${num(s.half_width_db)} dB`,
            s.change_db == null ? null : `${signed(s.change_db)} dB`,
            [s.changed, ...remarks(s, stairs, i)].filter(Boolean).join("; ") || null,
          ],
        }))
      }
      legend={<span>Each step with its 95 % interval, in {unit}.</span>}
    >
      {(width) => (
        <>
          {target === null ? null : (
            <g>
              <line
                x1={0}
                x2={width}
                y1={y(target)}
                y2={y(target)}
                stroke="var(--moss)"
                strokeWidth={2}
                strokeDasharray="8 5"
              />
              {["target", width > 520 ? `${num(target)} ${unit}` : num(target)].map((words, i) => (
                <text
                  key={words}
                  x={width - 2}
                  y={y(target) - 24 + i * 17}
                  textAnchor="end"
                  fontSize={13}
                  fontWeight={700}
                  style={{ fill: "var(--moss)" }}
                >
                  {words}
                </text>
              ))}
            </g>
          )}
          {stairs.map((s, i) => (
            <Step
              key={s.round_id}
              stair={s}
              first={i === 0}
              x={i * each(width) + 8}
              w={each(width)}
              y={y}
              view={view}
              notes={remarks(s, stairs, i)}
            />
          ))}
        </>
      )}
    </Chart>
  );
}

// What a change can and cannot be put down to.
function remarks(s: Stair, stairs: readonly Stair[], i: number): string[] {
  const out: string[] = [];
  if (s.change_db != null && (!s.assigned || !s.comparable))
    out.push(s.comparable ? "several things at once" : "not comparable");
  if (s.follows_id != null && s.follows_id !== stairs[i - 1]?.round_id)
    out.push(`from ${stairs.find((o) => o.round_id === s.follows_id)?.name ?? "elsewhere"}`);
  return out;
}

type StepProps = {
  stair: Stair;
  first: boolean;
  x: number;
  w: number;
  y: (v: number) => number;
  view: View;
  notes: string[];
};

function Step({ stair: s, first, x, w, y, view, notes }: StepProps) {
  const colour = first ? "var(--ink)" : "var(--water)";
  const wide = w - GAP;
  const middle = x + wide / 2;
  const at = y(s.level_db);
  const roomy = w > 120;
  const shade =
    s.change_db != null && s.shown && s.comparable
      ? s.change_db > 0 !== view.up_is_good
        ? "var(--cranberry)"
        : "var(--moss)"
      : "var(--bark)";
  return (
    <g>
      <rect x={x} y={at} width={wide} height={HEIGHT - FOOT - at} fill="var(--water-wash)" />
      <line x1={x} x2={x + wide} y1={at} y2={at} stroke={colour} strokeWidth={4.5} />
      <Interval
        x={x + Math.min(16, wide * 0.15)}
        low={s.level_db - s.half_width_db}
        high={s.level_db + s.half_width_db}
        y={y as never}
        colour={colour}
      />
      <text
        x={roomy ? middle : x + wide + 4}
        y={at - 11}
        textAnchor={roomy ? "middle" : "end"}
        fontSize={roomy ? 23 : 16}
        fontWeight={700}
        stroke="var(--paper)"
        strokeWidth={5}
        paintOrder="stroke"
      >
        {num(s.level_db)}
      </text>
      {s.change_db != null ? (
        <text
          x={middle}
          y={at + 24}
          textAnchor="middle"
          fontSize={roomy ? 15 : 12}
          fontWeight={700}
          style={{ fill: shade }}
        >
          {signed(s.change_db)}
          {roomy ? " dB" : ""}
          {s.shown ? "" : " ?"}
        </text>
      ) : (
        <text x={middle} y={at + 24} textAnchor="middle" fontSize={roomy ? 13 : 12} className="soft">
          {view.unit}
        </text>
      )}
      {roomy
        ? notes.map((words, i) => (
            <text key={words} x={middle} y={at + 42 + i * 17} textAnchor="middle" fontSize={12.5} className="soft">
              {short(words, Math.floor(w / 6.2))}
            </text>
          ))
        : null}
      <text x={middle} y={HEIGHT - 32} textAnchor="middle" fontSize={roomy ? 14 : 12} fontWeight={700}>
        {short(s.name, Math.floor((w - 6) / (roomy ? 7.6 : 6.6)))}
      </text>
      <text x={middle} y={HEIGHT - 14} textAnchor="middle" fontSize={12.5} className="soft">
        {roomy ? short(s.changed, Math.floor((w - 8) / 6.1)) : ""}
      </text>
    </g>
  );
}
