// The working desk: small calculations of the trade, answered by the program with their working, kept with the job if wanted.
import { useAddress } from "../../parts/address";
import { keepPreviousData } from "@tanstack/react-query";
import { Button, Segmented, Select } from "antd";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { query, type Schemas } from "../../api/client";
import { Ask } from "../../parts/fields";
import { Note } from "../../parts/said";
import { Working } from "../../parts/Working";
import { Line, Trade } from "./desk-pictures";
import type { Traced } from "./paths";
import css from "./trace.module.css";
import { UnitInput } from "../../parts/UnitInput";
import { amount, useUnits } from "../../parts/units";

type Value = number | boolean | string | null;
type Form = Record<string, Value>;

// ``first`` is a calculation opened at once, as it was kept last.
export function Desk({ doc, edit, first }: { doc: Traced["doc"]; edit: Traced["edit"]; first: string | null }) {
  const page = query.useQuery("get", "/api/desk", {}, { staleTime: Infinity });
  const address = useAddress();
  const picked = address.get("desk") ?? first;
  const [form, setForm] = useState<Form>(
    (doc.calculations.filter((c) => c.calculation === first).at(-1)?.form ?? {}) as Form,
  );
  const entries = page.data?.entries ?? [];
  const entry = entries.find((e) => e.id === picked);
  const pick = (id: string, filled: Form = {}) => {
    address.put({ desk: id });
    setForm(filled);
  };
  return (
    <>
      <h2>Working desk</h2>
      {entry ? (
        <Sheet
          key={entry.id}
          entry={entry}
          form={form}
          setForm={setForm}
          doc={doc}
          edit={edit}
          back={() => address.put({ desk: "all" })}
        />
      ) : (
        <>
          <div className={css.desk}>
            {entries.map((e) => (
              <button key={e.id} className={css.deskCard} onClick={() => pick(e.id)}>
                <b>{e.title}</b>
                <span className="small">{e.about}</span>
              </button>
            ))}
          </div>
          {doc.calculations.map((c) => (
            <div role="article" key={c.id} className={css.test}>
              <button className="plain" onClick={() => pick(c.calculation, c.form as Form)}>
                <b>{c.name}</b>
              </button>
              <button className="key" onClick={() => void edit.remove("calculations", c)}>
                remove
              </button>
            </div>
          ))}
        </>
      )}
    </>
  );
}

type SheetProps = {
  entry: Schemas["DeskEntry"];
  form: Form;
  setForm: (f: Form) => void;
  doc: Traced["doc"];
  edit: Traced["edit"];
  back: () => void;
};

function Sheet({ entry, form, setForm, doc, edit, back }: SheetProps) {
  const units = useUnits();
  const navigate = useNavigate();
  const [settled, setSettled] = useState(form);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(form), 120);
    return () => clearTimeout(timer);
  }, [form]);
  const got = query.useQuery(
    "post",
    "/api/desk/{calculation}",
    { params: { path: { calculation: entry.id } }, body: { form: settled } },
    { placeholderData: keepPreviousData, retry: false },
  );
  const answer = got.data;
  const keep = () =>
    void edit
      .create("calculations", [
        { calculation: entry.id, name: `${entry.title}: ${answer?.sentence ?? ""}`.slice(0, 118), form },
      ])
      .catch(edit.say);
  // what passes through feet or mounts is a path known by its level; no other path is changed by it
  const places = doc.paths.filter((p) => p.level_dba != null || p.unknown);
  const [chosen, setChosen] = useState<number | null>(null);
  const place = chosen ?? places[0]?.id ?? null;
  const measure = () =>
    answer?.effect_db &&
    void edit
      .create("measures", [
        {
          name: entry.title,
          at: answer.effect_at,
          path_id: answer.effect_at === "path" ? place : null,
          effect_bands_db: answer.effect_db,
          calculation: entry.id,
          goods: answer.goods,
          note: answer.sentence,
        },
        ...answer.also.map((fitted) => ({
          name: fitted.name,
          at: "source" as const,
          effect_db: 0,
          air_m3_h: fitted.air_m3_h,
          goods: fitted.goods,
          note: `Belongs to: ${entry.title.toLowerCase()}`,
        })),
      ])
      .catch(edit.say);
  return (
    <div className="form">
      <div className="acts">
        <Button onClick={back}>All calculations</Button>
        <b>{entry.title}</b>
      </div>
      {got.error ? (
        <Note kind="danger">{(got.error as unknown as Error).message}</Note>
      ) : answer ? (
        <p className={css.answer} data-testid="answer">
          {answer.sentence}
        </p>
      ) : null}
      {answer?.trade ? <Trade trade={answer.trade} /> : null}
      {answer?.lines.map((l) => (
        <Line key={l.label} line={l} />
      ))}
      {answer?.cautions.map((c) => (
        <Note key={c} kind="warn">
          {c}
        </Note>
      ))}
      <div className="rows">
        {answer?.figures.map((f) => (
          <div key={f.label}>
            <span>{f.label}</span>
            <span className="num">
              {f.value == null ? "unknown" : amount(f.value, f.unit, units, Math.abs(f.value) < 10 ? 2 : 0)}
            </span>
          </div>
        ))}
      </div>
      <div className="acts">
        {answer ? <Working items={[answer.working]} /> : null}
        <Button onClick={keep} disabled={!answer}>
          Keep with the job
        </Button>
        {answer?.effect_db && (answer.effect_at !== "path" || place) ? (
          <Button onClick={measure}>Take it as a measure</Button>
        ) : null}
        {answer?.build ? (
          <Button
            onClick={() =>
              void edit
                .create("builds", [{ name: entry.title, given: answer.build }])
                .then(() => navigate(`/jobs/${doc.job.id}/build?view=builds`))
                .catch(edit.say)
            }
          >
            Make this a build
          </Button>
        ) : null}
        {answer?.effect_at === "path" && !place ? (
          <span className="small">
            List the way through its feet as a path of known level: then this can enter the budget.
          </span>
        ) : null}
        {answer?.effect_at === "path" && place ? (
          <Select
            aria-label="At which path"
            value={place}
            options={places.map((p) => ({ value: p.id, label: p.name }))}
            onChange={setChosen}
          />
        ) : null}
      </div>
      <div className="two">
        {entry.fields.map((f) => (
          <Ask key={f.name} label={f.title}>
            <Entry field={f} value={form[f.name] ?? f.value ?? null} set={(v) => setForm({ ...form, [f.name]: v })} />
          </Ask>
        ))}
      </div>
    </div>
  );
}

function Entry({ field, value, set }: { field: Schemas["DeskField"]; value: Value; set: (v: Value) => void }) {
  if (field.choices.length)
    return <Select value={String(value)} options={field.choices.map((c) => ({ value: c, label: c }))} onChange={set} />;
  if (typeof field.value === "boolean")
    return (
      <Segmented
        value={Boolean(value)}
        options={[
          { value: false, label: "no" },
          { value: true, label: "yes" },
        ]}
        onChange={set}
      />
    );
  return <UnitInput value={value == null ? "" : String(value)} unit={field.unit} inputMode="decimal" onText={set} />;
}
