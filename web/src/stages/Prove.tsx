// Prove: what changed and how sure it is; rounds as stairs; was it fair; the report a customer keeps.
import { Button } from "antd";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { useStage } from "../api/hooks";
import { useWidth } from "../shell/GoalRule";
import type { StageProps } from "../shell/JobShell";
import { Empty, Note, Said, State, Working } from "../shell/parts";
import { num, percent, signed } from "../shell/words";
import "./prove.css";

type View = Schemas["ProveView"];

export default function Prove({ id, page }: StageProps) {
  const view = useStage(id, "prove", page.revision);
  const data = view.data;
  const cautions = [...new Set(data?.cells.flatMap((c) => c.comparison.cautions.map((x) => x.text)) ?? [])];
  return (
    <>
      <section>
        <State query={view}>
          <Said sentence={data?.sentence ?? ""} detail={data?.detail} />
          {data?.stairs.length ? <Stairs view={data} target={page.overview.goal_rule?.target ?? null} /> : null}
          {data?.cells.length ? <Places view={data} /> : (
            <Empty title="Nothing to compare yet" text="Read the same places in the same conditions after the work.">
              <Link to={`/jobs/${id}/listen`}><Button type="primary" size="large">Take the readings</Button></Link>
            </Empty>
          )}
          <Working items={data?.working} />
        </State>
      </section>
      <aside className="sheet">
        <h2>Was it a fair comparison?</h2>
        {data?.fair ? <Note kind={data.fair.startsWith("Like") ? "good" : "warn"}><b>{data.fair}</b></Note> : <p className="small">Not known yet.</p>}
        <div className="rows">
          {data?.fair_items.map((f) => (
            <div key={f.item}>
              <span>{f.item.charAt(0).toUpperCase() + f.item.slice(1)}</span>
              <span>{f.same === true ? `✓ ${f.after}` : f.same === false ? `${f.before} → ${f.after}` : <span className="small">not noted</span>}</span>
            </div>
          ))}
        </div>
        {cautions.map((c) => <Note key={c} kind="warn">{c}</Note>)}
        {data?.loudest_now.length ? (
          <>
            <h2>Loudest now, as predicted</h2>
            <div className="rows">
              {data.loudest_now.map((p) => (
                <div key={p.name}><span>{p.name}</span><span>{percent(p.share)} <b className="num">{p.ceiling_db == null ? "" : `${signed(-p.ceiling_db)} dB at most`}</b></span></div>
              ))}
            </div>
          </>
        ) : null}
        {data?.remarks.map(([round, role, words]) => <Note key={words}>“{words}” <span className="mend">{role}, {round}</span></Note>)}
        <div className="acts">
          <a href={`/api/jobs/${id}/report.pdf`} download><Button type="primary">Customer report</Button></a>
          <a href={`/api/jobs/${id}/export.json`} download><Button>Whole job as a file</Button></a>
        </div>
      </aside>
    </>
  );
}

function Stairs({ view, target }: { view: View; target: number | null }) {
  const [ref, width] = useWidth<HTMLDivElement>(850);
  const height = 300;
  const stairs = view.stairs;
  const all = [...stairs.flatMap((s) => [s.level_db + s.half_width_db, s.level_db - s.half_width_db]), ...(target === null ? [] : [target])];
  const top = Math.max(...all) + 2;
  const low = Math.min(...all) - 3;
  const y = (v: number) => 34 + ((top - v) / (top - low)) * (height - 34 - 52);
  const w = Math.min(230, (width - (target === null ? 8 : 96)) / stairs.length);
  const first = stairs[0]?.level_db ?? 0;
  return (
    <div ref={ref}>
      <svg width={width} height={height} role="img" aria-label={`Rounds: ${stairs.map((s) => `${s.name} ${num(s.level_db)} ${view.unit}`).join(", ")}`}>
        {target === null ? null : (
          <g>
            <line x1={0} x2={width} y1={y(target)} y2={y(target)} stroke="var(--moss)" strokeWidth={2} strokeDasharray="8 5" />
            <text x={width - 2} y={y(target) - 24} textAnchor="end" fontSize={13} fontWeight={700} style={{ fill: "var(--moss)" }}>target</text>
            <text x={width - 2} y={y(target) - 7} textAnchor="end" fontSize={13} fontWeight={700} style={{ fill: "var(--moss)" }}>{num(target)} {view.unit}</text>
          </g>
        )}
        {stairs.map((s, i) => {
          const x = i * w + 8;
          const colour = i === 0 ? "var(--ink)" : "var(--water)";
          const middle = x + (w - 22) / 2;
          return (
            <g key={s.round_id}>
              <rect x={x} y={y(s.level_db)} width={w - 22} height={height - 52 - y(s.level_db)} fill="var(--water-wash)" />
              <line x1={x} x2={x + w - 22} y1={y(s.level_db)} y2={y(s.level_db)} stroke={colour} strokeWidth={4.5} />
              <path d={`M${x + 16} ${y(s.level_db + s.half_width_db)}V${y(s.level_db - s.half_width_db)}M${x + 10} ${y(s.level_db + s.half_width_db)}h12M${x + 10} ${y(s.level_db - s.half_width_db)}h12`} stroke={colour} strokeWidth={2} />
              <text x={middle} y={y(s.level_db) - 11} textAnchor="middle" fontSize={23} fontWeight={700}>{num(s.level_db)}</text>
              {s.change_db != null ? <text x={middle} y={y(s.level_db) + 24} textAnchor="middle" fontSize={15} fontWeight={700} style={{ fill: s.change_db > 0 ? "var(--cranberry)" : "var(--moss)" }}>{signed(s.change_db)} dB</text> : <text x={middle} y={y(first) + 24} textAnchor="middle" fontSize={13} className="soft">{view.unit}</text>}
              <text x={middle} y={height - 32} textAnchor="middle" fontSize={14} fontWeight={700}>{s.name}</text>
              <text x={middle} y={height - 14} textAnchor="middle" fontSize={12.5} className="soft">{s.changed.length * 6.1 > w - 8 ? `${s.changed.slice(0, Math.floor((w - 8) / 6.1))}…` : s.changed}<title>{s.changed}</title></text>
            </g>
          );
        })}
      </svg>
    </div>
  );
}

function Places({ view }: { view: View }) {
  const reach = Math.max(1, ...view.cells.map((c) => Math.max(Math.abs(c.comparison.interval95_db[0] ?? 0), Math.abs(c.comparison.interval95_db[1] ?? 0))));
  const x = (v: number) => 110 + (v / reach) * 100;
  return (
    <table className="places-table">
      <thead>
        <tr><th>Place</th><th>Condition</th><th>{view.before}</th><th>{view.after}</th><th>Change, 95 % interval</th><th>Verdict</th></tr>
      </thead>
      <tbody>
        {view.cells.map((c) => {
          const r = c.comparison;
          const [low, high] = [-(r.interval95_db[1] ?? 0), -(r.interval95_db[0] ?? 0)];
          const good = r.verdict === "quieter";
          return (
            <tr key={`${c.position_id}.${c.condition_id}`} className={c.is_goal ? "goal-row" : ""}>
              <td>{c.position}</td>
              <td>{c.condition}</td>
              <td className="num">{num(r.before_db)} {c.unit}</td>
              <td className="num">{num(r.after_db)} {c.unit}</td>
              <td>
                <span className="num">{signed(-r.reduction_db)} dB</span> <span className="small">{signed(low)} to {signed(high)}</span>
                <svg width={220} height={12} aria-hidden className="whisker">
                  <line x1={110} x2={110} y1={0} y2={12} stroke="var(--bark)" />
                  <line x1={x(low)} x2={x(high)} y1={6} y2={6} stroke={good ? "var(--water)" : "var(--bark)"} strokeWidth={5} opacity={0.45} />
                  <circle cx={x(-r.reduction_db)} cy={6} r={4.5} fill={good ? "var(--water)" : r.verdict === "louder" ? "var(--cranberry)" : "var(--bark)"} />
                </svg>
              </td>
              <td><b className={r.verdict.replaceAll(" ", "-")}>{r.verdict}</b></td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
