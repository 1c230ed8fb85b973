// The working desk: small calculations of the trade, answered by the program with their working, kept with the job if wanted.
import { Button, Input, Segmented, Select } from "antd";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Ask, Note, Working } from "../../parts/parts";
import { num } from "../../parts/words";
import type { Dialog } from "./paths";

type Value = number | boolean | string | null;
type Form = Record<string, Value>;

// ``first`` is a calculation opened at once, as it was kept last.
export function Desk({ doc, edit, first }: { doc: Dialog["doc"]; edit: Dialog["edit"]; first: string | null }) {
  const page = useQuery({ queryKey: ["desk"], queryFn: () => ask(api.GET("/api/desk")), staleTime: Infinity });
  const [picked, setPicked] = useState<string | null>(first);
  const [form, setForm] = useState<Form>(
    (doc.calculations.filter((c) => c.calculation === first).at(-1)?.form ?? {}) as Form,
  );
  const entries = page.data?.entries ?? [];
  const entry = entries.find((e) => e.id === picked);
  const pick = (id: string, filled: Form = {}) => {
    setPicked(id);
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
          back={() => setPicked(null)}
        />
      ) : (
        <>
          <div className="desk">
            {entries.map((e) => (
              <button key={e.id} className="desk-card" onClick={() => pick(e.id)}>
                <b>{e.title}</b>
                <span className="small">{e.about}</span>
              </button>
            ))}
          </div>
          {doc.calculations.map((c) => (
            <div key={c.id} className="test">
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
  doc: Dialog["doc"];
  edit: Dialog["edit"];
  back: () => void;
};

function Sheet({ entry, form, setForm, doc, edit, back }: SheetProps) {
  const [settled, setSettled] = useState(form);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(form), 120);
    return () => clearTimeout(timer);
  }, [form]);
  const got = useQuery({
    queryKey: ["desk", entry.id, settled],
    queryFn: () =>
      ask(
        api.POST("/api/desk/{calculation}", { params: { path: { calculation: entry.id } }, body: { form: settled } }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });
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
          note: answer.sentence,
        },
        ...answer.also.map((name) => ({
          name,
          at: "source" as const,
          effect_db: 0,
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
        <Note kind="danger">{got.error.message}</Note>
      ) : answer ? (
        <p className="answer" data-testid="answer">
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
              {f.value == null ? "unknown" : num(f.value, Math.abs(f.value) < 10 ? 2 : 0)} {f.unit}
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
  return (
    <Input
      value={value == null ? "" : String(value)}
      suffix={field.unit}
      inputMode="decimal"
      onChange={(e) => set(e.target.value)}
    />
  );
}

// What is gained over what it costs, with the choices that lie on the curve.
function Trade({ trade }: { trade: Schemas["Trade"] }) {
  const from = Math.log(trade.x[0] ?? 1);
  const to = Math.log(trade.x[trade.x.length - 1] ?? 10);
  const low = Math.min(0, ...trade.values);
  const high = Math.max(low + 1, ...trade.values);
  const x = (v: number) => 8 + ((Math.log(v) - from) / (to - from)) * 296;
  const y = (v: number) => 92 - ((v - low) / (high - low)) * 72;
  const sorted = [...trade.points].sort((a, b) => a.x - b.x);
  return (
    <figure className="mini trade">
      <figcaption className="small">
        {trade.label}, over {trade.x_label}
      </figcaption>
      <svg viewBox="0 0 312 100" role="img" aria-label={`${trade.label} over ${trade.x_label}`}>
        <path d={`M8 ${y(0)}H304`} stroke="var(--line)" />
        <path
          d={trade.values.map((v, i) => `${i ? "L" : "M"}${x(trade.x[i] ?? 1)} ${y(v)}`).join("")}
          fill="none"
          stroke="var(--moss)"
          strokeWidth={2.5}
        />
        {sorted.map((p) => (
          <g key={p.label} fontSize={12} fontWeight={700} textAnchor="middle">
            <circle
              cx={x(p.x)}
              cy={y(p.value)}
              r={p.yours ? 7 : 4.5}
              fill={p.yours ? "var(--moss)" : "var(--card)"}
              stroke="var(--moss)"
              strokeWidth={2}
            />
            {p.yours ? (
              <text x={x(p.x)} y={y(p.value) - 12} fill="var(--ink)">
                {p.label}
              </text>
            ) : null}
          </g>
        ))}
      </svg>
      <div className="rows">
        {sorted.map((p) => (
          <div key={p.label} className={p.yours ? "strong" : undefined}>
            <span>{p.label}</span>
            <span className="num">
              {num(p.x, 0)} {trade.x_unit}
            </span>
            <span className="num">
              {num(-p.value)} {trade.unit}
            </span>
          </div>
        ))}
      </div>
    </figure>
  );
}

// A small curve over the one-third octaves 50 Hz to 5 kHz.
export function Line({ line }: { line: Schemas["BandLine"] }) {
  const values = line.values.map((v) => v ?? 0);
  const low = Math.min(0, ...values);
  const high = Math.max(low + 1, ...values);
  const x = (i: number) => 6 + (i / (values.length - 1)) * 300;
  const y = (v: number) => 62 - ((v - low) / (high - low)) * 50;
  return (
    <figure className="mini">
      <figcaption className="small">
        {line.label}, {num(low, 0)} to {num(high, 0)} {line.unit}; 50 Hz to 5 kHz
      </figcaption>
      <svg viewBox="0 0 312 70" role="img" aria-label={`${line.label} per band`}>
        <path d={`M6 ${y(0)}H306`} stroke="var(--line)" />
        <path
          d={values.map((v, i) => `${i ? "L" : "M"}${x(i)} ${y(v)}`).join("")}
          fill="none"
          stroke="var(--moss)"
          strokeWidth={2.5}
        />
      </svg>
    </figure>
  );
}
