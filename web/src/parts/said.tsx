// Small pieces every view uses: what is said, states (empty, busy, refused), notes, meters, fields that keep what was typed.
import { Button, Spin } from "antd";
import type { ReactNode } from "react";
import { statusOf } from "../api/entry";

export const Said = ({ sentence, detail }: { sentence: string; detail?: string }) => (
  <header className="said">
    <h1>{sentence}</h1>
    {detail ? <p>{detail}</p> : null}
  </header>
);

// What is said within a stage, under its sentence.
export const Lead = ({ sentence, detail }: { sentence: string; detail?: string }) => (
  <div className="lead">
    <p>{sentence}</p>
    {detail ? <p className="small">{detail}</p> : null}
  </div>
);

type Asked = { isPending: boolean; error: unknown; refetch: () => unknown; data?: unknown };

// What was answered stays in sight while it is asked for anew, and when that fails.
export function State({ query, children }: { query: Asked; children: ReactNode }) {
  const out = statusOf(query.error) === 401;
  const again = out ? (
    <Button type="primary" href={`/sign-in?to=${encodeURIComponent(location.pathname)}`}>
      Sign in
    </Button>
  ) : (
    <Button onClick={() => void query.refetch()}>Try again</Button>
  );
  const why = query.error instanceof Error ? query.error.message : "Something went wrong.";
  if (query.error && query.data === undefined && !query.isPending)
    return (
      <div className="big-empty" role="alert">
        <h2>This did not work</h2>
        <p>{why}</p>
        {again}
      </div>
    );
  if (query.isPending)
    return (
      <div className="big-empty" aria-busy="true">
        <Spin />
        <p>Working it out …</p>
      </div>
    );
  return (
    <>
      {query.error ? (
        <Note kind="warn">
          <b>Not the newest:</b> {why} {again}
        </Note>
      ) : null}
      {children}
    </>
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
