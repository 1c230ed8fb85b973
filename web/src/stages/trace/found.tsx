// What was found at the job: is it in the structure or in the air, treatment already there, leaks, rattles with their cures.
import { Button, Segmented } from "antd";
import type { Schemas } from "../../api/client";
import { Note } from "../../parts/said";
import { Leaks } from "./leaks";
import type { Traced } from "./paths";
import { Rattles } from "./rattles";
import css from "./trace.module.css";

type Props = { doc: Traced["doc"]; edit: Traced["edit"]; view: Schemas["TraceView"] };
const SAYS = { structure: "structure", air: "air", neither: "neither" } as const;

export function Found({ doc, edit, view }: Props) {
  return (
    <>
      <Telling doc={doc} edit={edit} view={view} />
      <Rattles doc={doc} edit={edit} view={view} />
      <Leaks doc={doc} edit={edit} view={view} />
      {view.surveys.length ? <Survey doc={doc} edit={edit} view={view} /> : null}
    </>
  );
}

function Telling({ doc, edit, view }: Props) {
  const s = view.statement;
  const question = s.open_questions[0];
  const answer = (says: string) => {
    if (!question) return;
    const row = doc.hints.find((h) => h.hint === question.id);
    void (row
      ? edit.tryChange("hints", row, { says })
      : edit.create("hints", [{ hint: question.id, says }]).catch(edit.say));
  };
  return (
    <>
      <h2>Through the air, or through the structure?</h2>
      <Note kind={s.verdict === "neither" ? "info" : "good"}>
        <b>{s.sentence}</b>
      </Note>
      <div className="rows">
        {s.indications.map((i) => (
          <div key={i.words}>
            <span>{i.words}</span>
            <span className="small">{SAYS[i.says]}</span>
          </div>
        ))}
      </div>
      {question ? (
        <div role="article" className={css.test}>
          <b>{question.question}</b>
          <span className="acts">
            {["yes", "no"].map((a) => (
              <Button key={a} onClick={() => answer(a)}>
                {a}
              </Button>
            ))}
          </span>
        </div>
      ) : null}
      {doc.hints.length ? (
        <button
          className="plain small"
          onClick={() => {
            const last = doc.hints[doc.hints.length - 1];
            if (last) void edit.remove("hints", last);
          }}
        >
          take the last answer back
        </button>
      ) : null}
    </>
  );
}

const STATES = ["whole", "missing", "broken", "worn", "glued"] as const;
const DO = ["keep", "restore", "replace", "build on"] as const;

function Survey({ doc, edit, view }: Props) {
  return (
    <>
      <h2>Treatment already there</h2>
      {view.surveys.map((s) => {
        const row = doc.surfaces.find((x) => x.id === s.surface_id);
        return row ? (
          <details key={s.surface_id} className={css.test} open={Boolean(row.survey) || undefined}>
            <summary>
              <b>{s.name}</b>: {s.state || s.present}
            </summary>
            <span className="small">{s.present}</span>
            <Segmented
              size="small"
              value={row.survey || undefined}
              options={[...STATES]}
              onChange={(survey) => void edit.tryChange("surfaces", row, { survey })}
            />
            <Segmented
              size="small"
              value={row.survey_do || undefined}
              options={[...DO]}
              onChange={(survey_do) => void edit.tryChange("surfaces", row, { survey_do })}
            />
            <p>{s.words}</p>
          </details>
        ) : null;
      })}
    </>
  );
}
