// The board of places and conditions for a round.
import { Curve } from "../../charts/marks";
import { linear } from "../../charts/scales";
import type { Schemas } from "../../api/client";
import { num, signed } from "../../parts/words";
import css from "./listen.module.css";

type Cell = Schemas["Cell"];

export function BoardTable({
  doc,
  cells,
  picked,
  pick,
}: {
  doc: Schemas["JobDocument"];
  cells: readonly Cell[];
  picked: [number, number] | null;
  pick: (p: [number, number]) => void;
}) {
  return (
    <table className={css.cells}>
      <thead>
        <tr>
          <td />
          {doc.conditions.map((c) => (
            <th key={c.id} scope="col">
              {c.name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {doc.positions.map((p) => (
          <tr key={p.id}>
            <th scope="row">{p.name}</th>
            {doc.conditions.map((c) => {
              const cell = cells.find((x) => x.position_id === p.id && x.condition_id === c.id);
              const on = picked?.[0] === p.id && picked[1] === c.id;
              return (
                <td key={c.id}>
                  <div className={css.hold}>
                    <button
                      className={`${css.cell} ${cell?.is_goal ? css.goal : ""} ${on ? css.on : ""} ${cell?.repeats ? "" : css.bare}`}
                      aria-pressed={on}
                      onClick={() => pick([p.id, c.id])}
                    >
                      <span className="unseen">{p.name}, </span>
                      <span className={css.condition}>
                        {c.name}
                        <span className="unseen">: </span>
                      </span>
                      {cell?.level_db != null ? (
                        <Filled cell={cell} />
                      ) : (
                        <span className={css.take}>
                          {on ? (
                            <>
                              <b>n</b> take reading
                            </>
                          ) : (
                            "not read"
                          )}
                        </span>
                      )}
                    </button>
                  </div>
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Filled({ cell }: { cell: Cell }) {
  return (
    <>
      <span className={css.level}>
        {cell.upper_bound ? "≤ " : ""}
        {num(cell.level_db)} <small>{cell.unit}</small>
      </span>
      <span className={css.spread}>
        <span aria-hidden>{"●".repeat(Math.min(cell.repeats, 6))}</span>
        <span className="unseen">, {cell.repeats} read</span>
        <br />
        {cell.change_db != null ? (
          <b className={css.change}>{signed(cell.change_db)} dB</b>
        ) : cell.spread_db == null ? (
          "one reading"
        ) : (
          `± ${num(cell.spread_db)} dB`
        )}
      </span>
      <Trace values={cell.history_db} />
    </>
  );
}

function Trace({ values }: { values: readonly number[] }) {
  if (values.length < 2) return <span />;
  const low = Math.min(...values);
  const y = linear([low, Math.max(...values, low + 3)], [28, 3]);
  const x = linear([0, values.length - 1], [0, 200]);
  return (
    <svg className={css.trace} viewBox="0 0 200 30" preserveAspectRatio="none" aria-hidden>
      <Curve xs={values.map((_, i) => x(i))} values={values} y={y} colour="var(--bark)" width={1.4} />
    </svg>
  );
}
