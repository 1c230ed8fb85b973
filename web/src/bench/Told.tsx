// What a series tells: samples with their intervals, the best first, ties as bars over their names, and what could not be told.
import type { Schemas } from "../api/client";
import { Note } from "../parts/said";
import { hertz, num } from "../parts/words";
import css from "./bench.module.css";

type Result = Schemas["SeriesResult"];
type Beside = Schemas["SampleSaid"];

export function Told(props: { result: Result; said: readonly Beside[]; bands: readonly number[] }) {
  const { result, bands } = props;
  const beside = new Map(props.said.map((s) => [s.sample, s]));
  const sourced = props.said.some((s) => s.of_source_db != null);
  const foreseen = props.said.some((s) => s.predicted);
  const sorted = [...result.samples].sort((a, b) => b.all - a.all);
  const low = Math.min(...sorted.map((s) => s.all95_db[0]));
  const high = Math.max(...sorted.map((s) => s.all95_db[1]));
  const room = Math.max(high - low, 1);
  const at = (v: number) => `${(100 * (v - low)) / room}%`;
  const wide = (a: number, b: number) => `${(100 * (b - a)) / room}%`;
  const aside = (name: string) =>
    result.leaks.includes(name) ? "leaks" : result.not_comparable.includes(name) ? "not comparable loose" : "";
  return (
    <>
      <table className={css.told} aria-label="What each sample keeps back over all bands">
        <thead>
          <tr>
            <th>Sample</th>
            <th>Keeps back, dB</th>
            <th aria-label="Its interval" />
            <th>Low</th>
            <th>Middle</th>
            <th>High</th>
            <th>dB a kg</th>
            {sourced ? <th>Off the source, dB(A)</th> : null}
            {foreseen ? <th>Predicted, dB</th> : null}
          </tr>
        </thead>
        <tbody>
          {sorted.map((s) => (
            <tr key={s.sample} data-aside={aside(s.sample) || undefined}>
              <th scope="row">
                {s.sample}
                {aside(s.sample) ? <span className={css.aside}> {aside(s.sample)}</span> : null}
              </th>
              <td className="num">
                <b>{num(s.all, 1)}</b>
              </td>
              <td className={css.span}>
                <i style={{ left: at(s.all95_db[0]), width: wide(s.all95_db[0], s.all95_db[1]) }} />
                <b style={{ left: at(s.all) }} />
              </td>
              {[s.low, s.middle, s.high, s.per_kg].map((v, i) => (
                <td key={i} className="num">
                  {v == null ? "" : num(v, 1)}
                </td>
              ))}
              {sourced ? <td className="num">{num(beside.get(s.sample)?.of_source_db, 1)}</td> : null}
              {foreseen ? <Foreseen of={beside.get(s.sample)} /> : null}
            </tr>
          ))}
        </tbody>
      </table>
      {result.ranking.length ? (
        <ol className={css.ties} aria-label="Groups that nothing tells apart, the best first">
          {result.ranking.map((group) => (
            <li key={group.join()}>
              <span>{group.join(" · ")}</span>
              {group.length > 1 ? <b className="small">a tie</b> : null}
            </li>
          ))}
        </ol>
      ) : null}
      {result.notes.map((n) => (
        <Note key={n} kind="info">
          {n}
        </Note>
      ))}
      {props.said.map((s) =>
        s.predicted?.finding ? (
          <Note key={s.sample} kind="warn">
            {s.sample}: {s.predicted.finding}
          </Note>
        ) : null,
      )}
      <details className={css.bands}>
        <summary>Every band</summary>
        <div className={css.scroll} tabIndex={0} role="region" aria-label="Differences per band">
          <table>
            <thead>
              <tr>
                <th>Hz</th>
                {sorted.map((s) => (
                  <th key={s.sample}>{s.sample}</th>
                ))}
              </tr>
            </thead>
            <tbody>
              {bands.map((f, i) => (
                <tr key={f}>
                  <th scope="row">{hertz(f)}</th>
                  {sorted.map((s) => {
                    const span = s.interval95_db[i];
                    const least = result.ceiling[s.sample]?.at_least_hz.includes(f);
                    const value = s.difference_db[i];
                    return (
                      <td key={s.sample} className="num">
                        {value == null ? "" : `${least ? "≥ " : ""}${num(value, 1)}`}
                        {span && !least ? ` ± ${num((span[1] - span[0]) / 2, 1)}` : ""}
                      </td>
                    );
                  })}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </details>
    </>
  );
}

// What the model gives for this very stack and size, beside what was read.
function Foreseen({ of }: { of: Beside | undefined }) {
  const p = of?.predicted;
  return <td className="num">{p ? `${num(p.all, 1)} ± ${num(p.within_db, 1)}` : ""}</td>;
}
