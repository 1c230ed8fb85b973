// How much to cover: what each part of the damping gives on this very surface, so that the person can say where to stop.
import { Button } from "antd";
import type { Schemas } from "../../api/client";
import { query } from "../../api/client";
import { useShelf } from "../../api/hooks";
import { LevelAxis } from "../../charts/axes";
import { Chart } from "../../charts/Chart";
import { Curve, Key } from "../../charts/marks";
import { linear } from "../../charts/scales";
import { Empty, Lead, State } from "../../parts/said";
import { mass, useUnits, toldUnit, toldValue } from "../../parts/units";
import { money, num } from "../../parts/words";
import css from "./build.module.css";
import type { Change } from "./sectionDrawing";

type Point = Schemas["CoveragePoint"];
type Props = { id: number; revision: number; surface: number; plan: number | undefined; change: Change };

export function CoverageSchool({ id, revision, surface, plan, change }: Props) {
  const known = plan !== undefined && plan > 0;
  const asked = query.useQuery(
    "get",
    "/api/jobs/{job_id}/coverage",
    {
      params: { path: { job_id: id }, query: { surface_id: surface, alternative_id: plan ?? 0, layer: "" } },
      revision,
    },
    { enabled: known, placeholderData: (before) => before },
  );
  const data = asked.data as Schemas["CoverageView"] | undefined;
  if (!known)
    return (
      <Empty
        title="Nothing to cover with yet"
        text="Lay a damping sheet first; then each part of it shows what it gives."
      />
    );
  const take = (share: number) =>
    void change({ op: "set", at: ["layers", data?.layer ?? "", "coverage"], value: share });
  return (
    <State query={asked}>
      <Lead
        sentence={data?.sentence ?? ""}
        detail={data?.material ? `${data.material}, as pieces of its sheets reach.` : ""}
      />
      {data?.points.length ? <Picture points={data.points} now={data.now} take={take} /> : null}
    </State>
  );
}

function Picture({
  points,
  now,
  take,
}: {
  points: readonly Point[];
  now: number | null;
  take: (share: number) => void;
}) {
  const units = useUnits();
  const perMass = (db: number) => `${num(db / toldValue(1, "kg", units), 2)} dB/${toldUnit("kg", units)}`;
  const currency = useShelf().data?.currency ?? "";
  const [height, left, top] = [250, 44, 14];
  const bottom = height - 26;
  const none = points[0]?.less_db ?? 0;
  const gain = points.map((p) => p.less_db - none);
  const y = linear([0, Math.ceil(Math.max(...gain, 0.5))], [bottom, top]);
  const share = linear([0, 1], [bottom, top]);
  const at = (width: number) => linear([0, 1], [left, width - 50]);
  return (
    <>
      <Chart
        label="What coverage gives"
        columns={[
          "coverage",
          "less through",
          "first mode",
          "high modes",
          "weight",
          "price",
          `per ${toldUnit("kg", units)}`,
        ]}
        height={height}
        points={(width) =>
          points.map((p, i) => ({
            at: at(width)(p.coverage),
            name: `${Math.round(100 * p.coverage)} %`,
            values: [
              `${num(gain[i])} dB`,
              `${Math.round(100 * p.first_mode)} %`,
              `${Math.round(100 * p.high_modes)} %`,
              mass(p.kg, units),
              money(p.money, currency),
              p.db_per_kg === null ? null : perMass(p.db_per_kg),
            ],
          }))
        }
        legend={
          <>
            <Key colour="var(--ink)">less through it, dB(A)</Key>
            <Key colour="var(--heather)" dash="6 4">
              share of the drum note
            </Key>
            <Key colour="var(--water)" dash="2 4">
              share of high modes
            </Key>
          </>
        }
      >
        {(width) => {
          const x = at(width);
          const xs = points.map((p) => x(p.coverage));
          return (
            <>
              <LevelAxis y={y} x0={left} x1={width - 50} step={1} />
              {points
                .filter((p) => p.marked)
                .map((p) => (
                  <line
                    key={p.coverage}
                    x1={x(p.coverage)}
                    x2={x(p.coverage)}
                    y1={top}
                    y2={bottom}
                    className={css.mark}
                  />
                ))}
              <Curve xs={xs} values={points.map((p) => p.first_mode)} y={share} colour="var(--heather)" dash="6 4" />
              <Curve xs={xs} values={points.map((p) => p.high_modes)} y={share} colour="var(--water)" dash="2 4" />
              <Curve xs={xs} values={gain} y={y} colour="var(--ink)" />
              {now === null ? null : <path d={`M${x(now) - 7} ${bottom + 10}l7 -10l7 10z`} fill="var(--moss)" />}
              {[0, 0.25, 0.5, 0.75, 1].map((v) => (
                <text key={v} x={x(v)} y={height - 6} textAnchor="middle" fontSize={12.5}>
                  {Math.round(100 * v)} %
                </text>
              ))}
              <text x={width - 46} y={share(1) + 4} fontSize={12.5}>
                100 %
              </text>
            </>
          );
        }}
      </Chart>
      <div className={css.tableScroll}>
        <table className={css.table}>
          <thead>
            <tr>
              {["Coverage", "less through", "weight", "price", "the last part gave", "stop here"].map((h) => (
                <th key={h} scope="col">
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {points.slice(1).map((p, i) => (
              <tr key={p.coverage} data-marked={p.marked || undefined}>
                <th scope="row">{Math.round(100 * p.coverage)} %</th>
                <td>{num(gain[i + 1])} dB</td>
                <td>{mass(p.kg, units)}</td>
                <td>{money(p.money, currency)}</td>
                <td>
                  {p.db_per_kg === null
                    ? "nothing more fits"
                    : `${perMass(p.db_per_kg)}, ${num(p.db_per_money, 2)} dB/${currency}`}
                </td>
                <td>
                  {now !== null && Math.abs(now - p.coverage) < 0.005 ? (
                    <b>chosen</b>
                  ) : (
                    <Button size="small" onClick={() => take(p.coverage)}>
                      {Math.round(100 * p.coverage)} %
                    </Button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </>
  );
}
