// Small pieces every view uses: what is said, states (empty, busy, refused), notes, meters, fields that keep what was typed.
import { Button, Drawer, Input, Spin } from "antd";
import { useId, useRef, useState, type ReactNode } from "react";
import { Refused, type Schemas } from "../api/client";
import { num } from "./words";

export const Said = ({ sentence, detail }: { sentence: string; detail?: string }) => (
  <header className="said">
    <h1>{sentence}</h1>
    {detail ? <p>{detail}</p> : null}
  </header>
);

export function State({
  query,
  children,
}: {
  query: { isPending: boolean; error: Error | null; refetch: () => unknown };
  children: ReactNode;
}) {
  if (query.error && query.isPending === false) {
    return (
      <div className="big-empty" role="alert">
        <h2>This did not work</h2>
        <p>{query.error.message}</p>
        <Button onClick={() => void query.refetch()}>Try again</Button>
      </div>
    );
  }
  return query.isPending ? (
    <div className="big-empty" aria-busy="true">
      <Spin />
      <p>Working it out …</p>
    </div>
  ) : (
    <>{children}</>
  );
}

export const Empty = ({ title, text, children }: { title: string; text: string; children?: ReactNode }) => (
  <div className="big-empty">
    <h2>{title}</h2>
    <p>{text}</p>
    {children}
  </div>
);

export const Note = ({ kind = "info", children }: { kind?: string; children: ReactNode }) => (
  <div className={`note ${kind}`}>{children}</div>
);

export function Meter({ label, value, limit, unit, older }: Schemas["Meter"]) {
  const over = limit !== null && limit !== undefined && value > limit;
  const share = limit ? Math.min(100, (100 * value) / limit) : 0;
  return (
    <div className={`meter ${over ? "over" : ""}`}>
      <span>
        {label}
        {older ? <span className="small"> before the last change</span> : null}
      </span>
      <span>
        <span className="num">{num(value)}</span> {limit ? `of ${num(limit, limit % 1 ? 1 : 0)} ` : ""}
        {unit}
      </span>
      {limit ? (
        <span className="bar">
          <i style={{ width: `${share}%` }} />
        </span>
      ) : null}
    </div>
  );
}

// A field that saves when left or on Enter; a refusal stays beside what was typed.
export function Field(props: {
  label: string;
  value: string;
  unit?: string;
  area?: boolean;
  placeholder?: string;
  save: (text: string) => Promise<unknown>;
}) {
  const { label, value, unit, area, placeholder, save } = props;
  const [draft, setDraft] = useState<string | null>(null);
  const [wrong, setWrong] = useState("");
  const id = useId();
  const sending = useRef(false); // Enter and the blur that follows it are one commit
  const commit = async () => {
    if (sending.current) return;
    if (draft === null || draft === value) return setDraft(null);
    sending.current = true;
    try {
      await save(draft);
      setDraft(null);
      setWrong("");
    } catch (error) {
      setWrong(error instanceof Refused ? error.message : String(error));
    } finally {
      sending.current = false;
    }
  };
  const common = {
    id,
    value: draft ?? value,
    placeholder,
    onChange: (e: { target: { value: string } }) => setDraft(e.target.value),
    onBlur: () => void commit(),
    status: wrong ? ("error" as const) : undefined,
    "aria-invalid": Boolean(wrong),
  };
  return (
    <label className="field" htmlFor={id}>
      <span>{label}</span>
      {area ? (
        <Input.TextArea {...common} rows={3} />
      ) : (
        <Input {...common} suffix={unit} onPressEnter={() => void commit()} />
      )}
      {wrong ? (
        <span className="wrong" role="alert">
          {wrong}
        </span>
      ) : null}
    </label>
  );
}

// A form field without saving of its own.
export function Ask({ label, children, wrong }: { label: string; children: ReactNode; wrong?: string }) {
  return (
    <label className="field">
      <span>{label}</span>
      {children}
      {wrong ? (
        <span className="wrong" role="alert">
          {wrong}
        </span>
      ) : null}
    </label>
  );
}

export function Working({ items }: { items: readonly Schemas["Working"][] | undefined }) {
  const [open, setOpen] = useState(false);
  if (!items?.length) return null;
  return (
    <>
      <Button type="text" onClick={() => setOpen(true)}>
        Show the working
      </Button>
      <Drawer title="The working" open={open} onClose={() => setOpen(false)} size={460}>
        <div className="form">
          {items.map((w) => (
            <section key={w.figure} className="rows">
              <h3>{w.figure}</h3>
              <p className="small">{w.formula}</p>
              {w.inputs.map((i) => (
                <div key={i.name}>
                  <span>{i.name}</span>
                  <span className="num">{i.value}</span>
                </div>
              ))}
              <div>
                <span>source</span>
                <span>{w.source}</span>
              </div>
              {w.valid ? (
                <div>
                  <span>valid</span>
                  <span>{w.valid}</span>
                </div>
              ) : null}
              <div>
                <span>accuracy</span>
                <span>{w.accuracy}</span>
              </div>
            </section>
          ))}
        </div>
      </Drawer>
    </>
  );
}
