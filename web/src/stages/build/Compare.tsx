// Alternatives in one table and on one chart, what differs from the chosen one marked.
import { useMemo } from "react";
import type { Schemas } from "../../api/client";
import { query } from "../../api/client";
import { useShelf } from "../../api/hooks";
import { BandAxis, LevelAxis } from "../../charts/axes";
import { Chart } from "../../charts/Chart";
import { Curve, Key } from "../../charts/marks";
import { bands, levels } from "../../charts/scales";
import { Lead, State } from "../../parts/said";
import { length, mass, useUnits } from "../../parts/units";
import { hertz, money, num, signed } from "../../parts/words";
import css from "./build.module.css";

type Row = Schemas["TableRow"];
const COLOURS = ["var(--moss)", "var(--heather)", "var(--water)", "var(--cranberry)", "var(--ink)", "var(--bark)"];
const DASHES = ["", "7 4", "2 4", "10 3 2 3", "4 2", "1 3"];

type Props = { id: number; revision: number; surface: number; zone: string; pick: (plan: number) => void };

export function Compare({ id, revision, surface, zone, pick }: Props) {
  const asked = query.useQuery(
    "get",
    "/api/jobs/{job_id}/alternatives-table",
    { params: { path: { job_id: id }, query: { surface_id: surface, zone } }, revision },
    { placeholderData: (before) => before },
  );
  const data = asked.data as Schemas["Table"] | undefined;
  return (
    <State query={asked}>
      <Lead sentence={data?.sentence ?? ""} />
      {data ? (
        <TableOf rows={data.rows} hz={data.frequency_hz} act={(r) => pick(r.alternative_id ?? 0)} verb="Open" />
      ) : null}
    </State>
  );
}

type TableProps = { rows: readonly Row[]; hz: readonly number[]; act: (row: Row) => void; verb: string };

export function TableOf({ rows, hz, act, verb }: TableProps) {
  const units = useUnits();
  const currency = useShelf().data?.currency ?? "";
  const chosen = rows.find((r) => r.chosen) ?? rows[0];
  const curves = useMemo(() => rows.filter((r) => r.change_db.length), [rows]);
  if (!chosen) return <p className="small">No alternative yet.</p>;
  const lines: { name: string; value: (r: Row) => number | null; text: (r: Row) => string; less: boolean }[] = [
    {
      name: "through it",
      value: (r) => r.through_db,
      text: (r) => (r.through_db === null ? "–" : `${signed(r.through_db)} dB`),
      less: true,
    },
    {
      name: "whole plan, at the ear",
      value: (r) => r.ear_db,
      text: (r) => (r.ear_db === null ? "–" : `${signed(r.ear_db)} dB`),
      less: true,
    },
    { name: "weight", value: (r) => r.kg, text: (r) => mass(r.kg, units), less: true },
    { name: "depth", value: (r) => r.depth_mm, text: (r) => length(r.depth_mm, units), less: true },
    {
      name: "material",
      value: (r) => r.money,
      text: (r) => `${money(r.money, currency)}${r.unpriced ? " +?" : ""}`,
      less: true,
    },
    { name: "to lay", value: (r) => r.hours, text: (r) => `${num(r.hours)} h`, less: true },
    {
      name: "U",
      value: (r) => r.u_value,
      text: (r) => (r.u_value === null ? "–" : `${num(r.u_value, 2)} W/(m²K)`),
      less: true,
    },
  ];
  return (
    <>
      <div className={css.tableScroll}>
        <table className={css.table}>
          <thead>
            <tr>
              <th scope="col">
                <span className="unseen">Alternative</span>
              </th>
              {rows.map((r, i) => (
                <th key={r.preset || r.alternative_id} scope="col" data-chosen={r.chosen || undefined}>
                  <svg width={30} height={8} aria-hidden>
                    <line
                      x1={0}
                      x2={30}
                      y1={4}
                      y2={4}
                      stroke={COLOURS[i % 6]}
                      strokeWidth={3}
                      strokeDasharray={DASHES[i % 6]}
                    />
                  </svg>
                  <button className="plain" onClick={() => act(r)}>
                    <span className="unseen">{verb} </span>
                    {r.name}
                    {r.chosen && !r.preset ? " ✓" : ""}
                  </button>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {lines.map((line) => (
              <tr key={line.name}>
                <th scope="row">{line.name}</th>
                {rows.map((r) => (
                  <td key={r.preset || r.alternative_id} data-better={better(line.value(r), line.value(chosen))}>
                    {line.text(r)}
                  </td>
                ))}
              </tr>
            ))}
            <tr>
              <th scope="row">moisture</th>
              {rows.map((r) => (
                <td key={r.preset || r.alternative_id}>{r.moisture || "–"}</td>
              ))}
            </tr>
            <tr>
              <th scope="row">the trade</th>
              {rows.map((r) => (
                <td key={r.preset || r.alternative_id} className="small" data-worst={r.worst}>
                  {r.problem || r.says || "nothing against it"}
                </td>
              ))}
            </tr>
          </tbody>
        </table>
      </div>
      {curves.length > 1 ? <Together rows={curves} all={rows} hz={hz} /> : null}
    </>
  );
}

const LEAST = 0.005;
const better = (value: number | null, than: number | null): string | undefined =>
  value === null || than === null || Math.abs(value - than) < LEAST ? undefined : value < than ? "better" : "worse";

function Together({ rows, all, hz }: { rows: readonly Row[]; all: readonly Row[]; hz: readonly number[] }) {
  const [height, left, top] = [220, 44, 14];
  const bottom = height - 24;
  const y = levels(
    rows.flatMap((r) => r.change_db),
    top,
    bottom,
    { most: 70, room: 2 },
  );
  const at = (width: number) => bands(hz, left, width - 14);
  const style = (r: Row) => all.indexOf(r) % 6;
  return (
    <Chart
      label="Change through the surface per band, by alternative"
      columns={["band", ...rows.map((r) => r.name)]}
      height={height}
      points={(width) =>
        hz.map((f, i) => ({
          at: at(width).middle(f),
          name: `${hertz(f)} Hz`,
          values: rows.map((r) => `${signed(r.change_db[i])} dB`),
        }))
      }
      legend={rows.map((r) => (
        <Key key={r.name} colour={COLOURS[style(r)] ?? "var(--ink)"} dash={DASHES[style(r)] ?? ""}>
          {r.name}
        </Key>
      ))}
    >
      {(width) => {
        const x = at(width);
        return (
          <>
            <LevelAxis y={y} x0={left} x1={width - 14} sign />
            {rows.map((r) => (
              <Curve
                key={r.name}
                xs={hz.map((f) => x.middle(f))}
                values={r.change_db}
                y={y}
                colour={COLOURS[style(r)] ?? "var(--ink)"}
                dash={DASHES[style(r)] ?? ""}
              />
            ))}
            <BandAxis x={x} hz={hz} y={height - 6} x1={width - 14} />
          </>
        );
      }}
    </Chart>
  );
}
