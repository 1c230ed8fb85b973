// All plans as a picture to pick from: decibels against money, weight or hours, with the target, the limits and the own plan.
import type { ReactNode } from "react";
import { LevelAxis } from "../../../charts/axes";
import { Chart, type Point } from "../../../charts/Chart";
import charts from "../../../charts/charts.module.css";
import { Interval, Key } from "../../../charts/marks";
import { linear, steps } from "../../../charts/scales";
import { num, signed } from "../../../parts/words";
import css from "./plan.module.css";
import type { Found, Plan } from "./search";
import { toldUnit, toldValue, useUnits } from "../../../parts/units";

export const RESOURCES = ["money", "added_kg", "hours"] as const;
export type Resource = (typeof RESOURCES)[number];
const [LEFT, TOP, BOTTOM, RIGHT, HEIGHT] = [38, 22, 34, 16, 330];

// Plans that no other gives as much as for less of one resource.
function ahead(plans: readonly Plan[], along: Resource): Set<Plan> {
  const out = new Set<Plan>();
  let most = -Infinity;
  for (const p of [...plans].sort((a, b) => a[along] - b[along] || b.reduction_db - a.reduction_db)) {
    if (p.reduction_db <= most) continue;
    most = p.reduction_db;
    out.add(p);
  }
  return out;
}

export function Front({
  found,
  along,
  unit,
  picked,
  pick,
}: {
  found: Found;
  along: Resource;
  unit: string;
  picked: number | null;
  pick: (i: number) => void;
}) {
  const units = useUnits();
  const { plans, own } = found;
  const limit = found.limits[along];
  const target = found.target_reduction_db ?? null;
  const most = Math.max(limit ?? 0, own?.[along] ?? 0, ...plans.map((p) => p[along]), 1) * 1.04;
  const tops = [...plans.map((p) => p.reduction_db + p.within_db), target ?? 0, own?.reduction_db ?? 0];
  const least = Math.min(0, ...plans.map((p) => p.reduction_db), own?.reduction_db ?? 0);
  const step = Math.max(...tops) - least > 14 ? 5 : 2;
  const y = linear(
    [Math.floor(least / step) * step, Math.ceil((Math.max(...tops) + 0.3) / step) * step],
    [HEIGHT - BOTTOM, TOP],
  );
  const xOf = (width: number) => linear([0, most], [LEFT, width - RIGHT]);
  const named = (p: Plan): Omit<Point, "at"> => ({
    name: `${signed(-p.reduction_db)} ${found.unit}`,
    values: [`± ${num(p.within_db)} dB`, num(p.money, 0), num(toldValue(p.added_kg, "kg", units)), num(p.hours)],
    across: y(p.reduction_db),
  });
  const points = (width: number): Point[] => plans.map((p) => ({ ...named(p), at: xOf(width)(p[along]) }));
  return (
    <Chart
      label="Plans: how much less at the listener, against what it takes"
      columns={["less", "within", "money", toldUnit("kg", units), "hours"]}
      height={HEIGHT}
      points={points}
      pick={pick}
      picked={picked}
      legend={
        <>
          <Key colour="var(--moss)">a plan; pick one</Key>
          {own ? <Key colour="var(--heather)">as planned now</Key> : null}
          {target !== null ? (
            <Key colour="var(--ink)" dash="5 4">
              target
            </Key>
          ) : null}
          {limit !== undefined ? (
            <Key colour="var(--cranberry)" dash="2 3">
              limit
            </Key>
          ) : null}
        </>
      }
    >
      {(width) => {
        const x = xOf(width);
        const first = ahead(plans, along);
        const one = picked === null ? undefined : plans[picked];
        return (
          <>
            <LevelAxis y={y} x0={LEFT} x1={width - RIGHT} step={step} unit="dB less" />
            <Ticks
              x={linear([0, toldValue(most, unit, units)], x.range())}
              unit={toldUnit(unit, units)}
              y={HEIGHT - 10}
            />
            {limit !== undefined ? (
              <rect
                x={x(limit)}
                y={TOP}
                width={Math.max(0, width - RIGHT - x(limit))}
                height={HEIGHT - BOTTOM - TOP}
                className={css.beyond}
              />
            ) : null}
            {limit !== undefined ? (
              <line x1={x(limit)} x2={x(limit)} y1={TOP} y2={HEIGHT - BOTTOM} className={css.limit} />
            ) : null}
            {target !== null ? (
              <line x1={LEFT} x2={width - RIGHT} y1={y(target)} y2={y(target)} className={css.target} />
            ) : null}
            {plans.map((p) => (
              <circle
                key={`${p.reduction_db} ${p.money} ${p.added_kg}`}
                cx={x(p[along])}
                cy={y(p.reduction_db)}
                r={first.has(p) ? 6 : 4}
                className={target !== null && p.reduction_db < target ? css.short : css.plan}
                opacity={first.has(p) ? 1 : 0.35}
              />
            ))}
            {own ? <Own x={x(own[along])} y={y(own.reduction_db)} /> : null}
            {one ? (
              <>
                <Interval
                  x={x(one[along])}
                  low={one.reduction_db - one.within_db}
                  high={one.reduction_db + one.within_db}
                  y={y}
                  colour="var(--ink)"
                />
                <circle cx={x(one[along])} cy={y(one.reduction_db)} r={10} className={css.picked} />
              </>
            ) : null}
          </>
        );
      }}
    </Chart>
  );
}

const Own = ({ x, y }: { x: number; y: number }) => (
  <path d={`M${x} ${y - 9}L${x + 9} ${y}L${x} ${y + 9}L${x - 9} ${y}Z`} className={css.own} />
);

function Ticks({ x, unit, y }: { x: ReturnType<typeof linear>; unit: string; y: number }): ReactNode {
  const [, most = 1] = x.domain();
  const size = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000].find((s) => most / s <= 7) ?? 10000;
  const all = steps(x, size).filter((v) => x(v) < (x.range()[1] ?? 0) - 30);
  return (
    <>
      {all.map((v) => (
        <text key={v} x={x(v)} y={y} textAnchor="middle" className={charts.tick}>
          {num(v, 0)}
        </text>
      ))}
      <text x={x.range()[1]} y={y} textAnchor="end" className={charts.tick}>
        {unit}
      </text>
    </>
  );
}
