// Prove: what changed and how sure it is; rounds as stairs; spectra and runs; was it fair; the report a customer keeps.
import { Link } from "react-router";
import { useAddress } from "../../parts/address";
import { Places } from "./Places";
import { GoTo } from "../../parts/GoTo";
import { ThumbAction } from "../../parts/thumb";
import { Button, Select } from "antd";
import { HandReport } from "../../papers/HandReport";
import { Papers } from "../../papers/Papers";
import { useStage } from "../../api/hooks";
import { Player } from "../../parts/Player";
import { Empty, Note, Said, State } from "../../parts/said";
import type { StageProps } from "../../parts/stage";
import { num, percent, signed } from "../../parts/words";
import type { Schemas } from "../../api/client";
import { Ringing } from "../../charts/Ringing";
import { Working } from "../../parts/Working";
import { FairCard, Reminders, SideEffects } from "./cards";
import css from "./prove.module.css";
import { Runs, Spectra } from "./Spectra";
import { Stairs } from "./Stairs";

export default function Prove({ id, page, edit }: StageProps) {
  const doc = page.document;
  const address = useAddress();
  const pair = {
    before_id: address.number("before") ?? undefined,
    after_id: address.number("after") ?? undefined,
  };
  const view = useStage(id, "prove", page.revision, pair);
  const data = view.data;
  const head = data?.cells.filter((c) => c.is_goal) ?? [];
  const cautions = [
    ...new Set((head.length ? head : (data?.cells ?? [])).flatMap((c) => c.comparison.cautions.map((x) => x.text))),
  ];
  const rounds = doc.rounds.map((r) => ({ value: r.id, label: r.name }));
  const pick = (key: "before" | "after", n: number) => {
    const now = { before: String(data?.before_id ?? ""), after: String(data?.after_id ?? ""), [key]: String(n) };
    address.go(now);
  };
  const goal = doc.goals.find((g) => g.headline);
  const sounds = [data?.before_id, data?.after_id].map((n) =>
    doc.readings.find(
      (r) => r.sound && r.round_id === n && r.position_id === goal?.position_id && r.condition_id === goal.condition_id,
    ),
  );
  const playable =
    sounds[0] && sounds[1] && sounds[0].relative === sounds[1].relative
      ? [sounds[0], sounds[1]].map((r, i) => ({
          name: (i ? data?.after : data?.before) ?? "",
          url: `/api/jobs/${id}/readings/${r.id}/sound`,
        }))
      : [];
  return (
    <>
      <section>
        <State query={view}>
          <Said sentence={data?.sentence ?? ""} detail={data?.detail} />
          {rounds.length > 1 ? (
            <div className={css.pair}>
              <Select
                aria-label="Before"
                value={data?.before_id ?? undefined}
                options={rounds}
                onChange={(n) => pick("before", n)}
              />
              <span>against</span>
              <Select
                aria-label="After"
                value={data?.after_id ?? undefined}
                options={rounds}
                onChange={(n) => pick("after", n)}
              />
              {pair.before_id || pair.after_id ? (
                <button className="chip" onClick={() => address.go({ before: null, after: null })}>
                  the job as a whole
                </button>
              ) : null}
            </div>
          ) : null}
          {data?.one_change ? <Note kind="warn">{data.one_change}</Note> : null}
          {data?.stairs.length ? <Stairs view={data} target={page.overview.goal_rule?.target ?? null} /> : null}
          {data?.rivals.map((r) => (
            <Note key={r.words}>
              <b>Both from “{r.base}”:</b> {r.words}
            </Note>
          ))}
          {data?.spectrum ? (
            <Spectra
              change={data.spectrum}
              response={data.response ?? null}
              before={data.before}
              after={data.after}
              good={data.up_is_good}
            />
          ) : null}
          {data?.echo ? (
            <>
              <h2>How long the room rings</h2>
              <Ringing
                hz={data.echo.frequency_hz}
                before={data.echo.before_s}
                after={data.echo.after_s}
                beforeWithin={data.echo.before_within_s}
                afterWithin={data.echo.after_within_s}
                target={data.unit === "s" ? (page.overview.goal_rule?.target ?? null) : null}
                names={[data.before || "before", data.after || "after"]}
              />
              <p className="small">{clarity(data.echo)}</p>
            </>
          ) : null}
          {data?.cells.length ? (
            <Places view={data} />
          ) : data?.echo ? null : (
            <Empty title="Nothing to compare yet" text="Read the same places in the same conditions after the work.">
              <GoTo to={`/jobs/${id}/listen?round=finished`} type="primary" size="large">
                Take the readings
              </GoTo>
            </Empty>
          )}
          {data?.runs.length ? <Runs runs={data.runs} unit={data.unit} /> : null}
          <Working items={data?.working} />
        </State>
      </section>
      <aside className="sheet">
        <FairCard fair={data?.fair} />
        {data?.drift_db != null ? (
          <Note kind="good">The control place moved by {signed(-data.drift_db)} dB; that is taken off.</Note>
        ) : null}
        {data?.control_notes.map((c) => (
          <Note key={c} kind="warn">
            {c}
          </Note>
        ))}
        {cautions.map((c) => (
          <Note key={c} kind="warn">
            {c}
          </Note>
        ))}
        {data?.promised ? <p className="small">{data.promised}</p> : null}
        {data?.was_done ? (
          <p className="small">
            {data.was_done.sentence} {data.was_done.differs.join(" ")}
          </p>
        ) : null}
        {data?.predicted_db != null && page.overview.goal_rule?.measured != null ? (
          <p className="small">
            Predicted {num(data.predicted_db)}
            {page.overview.goal_rule.predicted_within != null
              ? ` ± ${num(page.overview.goal_rule.predicted_within)}`
              : ""}
            , measured {num(page.overview.goal_rule.measured)} {data.unit}.
          </p>
        ) : null}
        {data?.next_step ? (
          <Note kind="danger">
            <b>Next:</b> {data.next_step} <Link to={`/jobs/${id}/trace`}>See Trace</Link>
          </Note>
        ) : null}
        {data?.ear.map((words) => (
          <Note key={words} kind="warn">
            {words}
          </Note>
        ))}
        {playable.length ? <Player sources={playable} /> : null}
        {data?.loudest_now.length ? (
          <>
            <h2>Loudest now, as predicted</h2>
            <div className="rows">
              {data.loudest_now.map((p) => (
                <div key={p.name}>
                  <span>{p.name}</span>
                  <span>
                    {percent(p.share)}{" "}
                    <b className="num">{p.ceiling_db == null ? "" : `${signed(-p.ceiling_db)} dB at most`}</b>
                  </span>
                </div>
              ))}
            </div>
          </>
        ) : null}
        {data?.rings.length ? (
          <>
            <h2>The drum note</h2>
            <div className="rows">
              {data.rings.map((r) => (
                <div key={r.position}>
                  <span>
                    {r.position} <span className="small">{num(r.frequency_hz[1] ?? r.frequency_hz[0], 0)} Hz</span>
                  </span>
                  <span className={r.shown ? "" : "small"}>
                    {r.words}
                    {r.loss_factor[0] != null && r.loss_factor[1] != null ? (
                      <span className="small">
                        , loss factor {num(r.loss_factor[0], 3)} → {num(r.loss_factor[1], 3)}
                      </span>
                    ) : null}
                    {r.struck ? (
                      <span className="small">
                        <br />
                        {r.struck}
                      </span>
                    ) : null}
                  </span>
                </div>
              ))}
            </div>
          </>
        ) : null}
        {data ? <SideEffects doc={doc} view={data} edit={edit} /> : null}
        <Reminders doc={doc} edit={edit} />
        {data?.remarks.map(([round, role, words]) => (
          <Note key={words}>
            “{words}”{" "}
            <span className="mend">
              {role}, {round}
            </span>
          </Note>
        ))}
        <ThumbAction>
          <Button type="primary" href={`/api/jobs/${id}/report.pdf`} download>
            Customer report
          </Button>
        </ThumbAction>
        <div className="acts">
          <Button type="primary" href={`/api/jobs/${id}/report.pdf`} download>
            Customer report
          </Button>
          <Button href={`/api/jobs/${id}/report.pdf?for=technical`} download>
            For the technical reader
          </Button>
          <Button href={`/api/jobs/${id}/report.html`} download>
            As a page
          </Button>
          <HandReport id={id} revision={page.revision} />
          <Button href={`/api/jobs/${id}/readings.csv`} download>
            All readings
          </Button>
          <Button href={`/api/jobs/${id}/export.json`} download>
            Whole job as a file
          </Button>
        </div>
        <Papers id={id} kind="report" />
      </aside>
    </>
  );
}

// How well speech stands out at 1 kHz, before and after.
const clarity = (echo: Schemas["EchoChange"]) => {
  const [a, b] = [echo.before_clarity_db[3], echo.after_clarity_db[3]];
  const told = (v: number | null | undefined) => (v == null ? "not read" : `${signed(v)} dB`);
  return a == null && b == null ? "" : `Speech clarity C50 at 1 kHz: ${told(a)}, then ${told(b)}.`;
};
