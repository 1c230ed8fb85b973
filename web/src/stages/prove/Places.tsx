// Every place and condition of two rounds: its levels, the change with its interval, the verdict.
import { linear } from "../../charts/scales";
import type { Schemas } from "../../api/client";
import { num, signed } from "../../parts/words";
import css from "./prove.module.css";

type View = Schemas["ProveView"];

export function Places({ view }: { view: View }) {
  const reach = Math.max(
    1,
    ...view.cells.map((c) =>
      Math.max(Math.abs(c.comparison.interval95_db[0] ?? 0), Math.abs(c.comparison.interval95_db[1] ?? 0)),
    ),
  );
  const x = linear([-reach, reach], [10, 210]);
  return (
    <table className={css.placesTable}>
      <thead>
        <tr>
          <th scope="col">Place</th>
          <th scope="col">Condition</th>
          <th scope="col">{view.before}</th>
          <th scope="col">{view.after}</th>
          <th scope="col">Change, 95 % interval</th>
          <th scope="col">Verdict</th>
        </tr>
      </thead>
      <tbody>
        {view.cells.map((c) => {
          const r = c.comparison;
          const [low, high] = [-(r.interval95_db[1] ?? 0), -(r.interval95_db[0] ?? 0)];
          return (
            <tr
              key={`${c.position_id}.${c.condition_id}`}
              className={c.is_goal ? css.goalRow : c.control ? css.controlRow : ""}
            >
              <td>
                {c.position}
                {c.control ? <span className="small"> control</span> : null}
              </td>
              <td>{c.condition}</td>
              <td className="num" data-label={view.before}>
                {num(r.before_db)} {c.unit}
              </td>
              <td className="num" data-label={view.after}>
                {num(r.after_db)} {c.unit}
              </td>
              <td>
                <span className="num">{signed(-r.reduction_db)} dB</span>{" "}
                <span className="small">
                  {signed(low)} to {signed(high)}
                </span>
                <svg viewBox="0 0 220 12" height={12} aria-hidden className={css.whisker}>
                  <line x1={110} x2={110} y1={0} y2={12} stroke="var(--bark)" />
                  <line
                    x1={x(low)}
                    x2={x(high)}
                    y1={6}
                    y2={6}
                    stroke={c.good ? "var(--water)" : "var(--bark)"}
                    strokeWidth={5}
                    opacity={0.45}
                  />
                  <circle
                    cx={x(-r.reduction_db)}
                    cy={6}
                    r={4.5}
                    fill={c.good ? "var(--water)" : c.good === false ? "var(--cranberry)" : "var(--bark)"}
                  />
                </svg>
              </td>
              <td>
                <b className={c.good ? css.quieter : c.good === false ? css.louder : css.noChangeShown}>{c.verdict}</b>
                {r.cautions.length && !c.is_goal ? (
                  <span className="small" title={r.cautions.map((x) => x.text).join(" ")}>
                    <br />
                    {r.cautions.map((x) => x.rule.replaceAll("-", " ")).join(", ")}
                  </span>
                ) : null}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
