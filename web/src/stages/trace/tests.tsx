// Tests of single paths: covering one, or putting a loudspeaker in the source's place; what each says.
import { Button, Input, Segmented, Select } from "antd";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Chart } from "../../charts/Chart";
import { linear } from "../../charts/scales";
import { Dialog } from "../../parts/Dialog";
import { Ask } from "../../parts/fields";
import { Note } from "../../parts/said";
import { num, percent } from "../../parts/words";
import type { Traced } from "./paths";
import css from "./trace.module.css";

type Props = { doc: Traced["doc"]; edit: Traced["edit"]; view: Schemas["TraceView"] };

export function Tests({ doc, edit, view }: Props) {
  const [adding, setAdding] = useState(false);
  const rows = (t: Schemas["TestView"]) =>
    (t.kind === "block-off" ? doc.block_offs : doc.substitutions).find((r) => r.id === t.id);
  return (
    <>
      <h2>What the tests say</h2>
      {view.tests.length ? null : (
        <p className="small">
          Cover one path with something heavy and read again: the drop tells what it carries. Where it cannot be
          covered, play a loudspeaker before it.
        </p>
      )}
      {view.tests.map((t) => {
        const path = view.paths.find((p) => p.id === t.path_id);
        return (
          <div role="article" key={`${t.kind}${t.id}`} className={`${css.test} ${t.resolved ? "" : css.open}`}>
            <b>{path?.name}</b> <span className="small">{t.kind}</span>
            <Span test={t} path={path} />
            <span>{t.words}</span>
            {path && t.resolved ? (
              <span className="small">
                The model said {percent(path.model_share)}; the budget now takes {percent(path.share)}.
              </span>
            ) : null}
            <button
              className="key"
              onClick={() => {
                const row = rows(t);
                if (row) void edit.remove(t.kind === "block-off" ? "block_offs" : "substitutions", row);
              }}
            >
              remove
            </button>
          </div>
        );
      })}
      {view.odd.map((o) => (
        <Note key={o} kind="warn">
          {o}
        </Note>
      ))}
      {doc.paths.length ? (
        <Button type="primary" onClick={() => setAdding(true)}>
          Add a test
        </Button>
      ) : null}
      {adding ? <AddTest doc={doc} edit={edit} close={() => setAdding(false)} /> : null}
    </>
  );
}

// The interval of a share on a scale from nothing to all, the model's share as a tick.
function Span({ test, path }: { test: Schemas["TestView"]; path: Schemas["PathView"] | undefined }) {
  const [low, high] = test.interval;
  const at = (width: number) => linear([0, 1], [0, width]);
  const marks: [string, number | undefined][] = [
    ["at least", low],
    ["the model", path?.model_share],
    ["at most", high],
  ];
  const known = marks.filter((m): m is [string, number] => m[1] !== undefined).sort((a, b) => a[1] - b[1]);
  return (
    <div className={css.span}>
      <Chart
        label={`Share of what is heard: ${path?.name ?? ""}`}
        columns={["mark", "share of what is heard"]}
        height={22}
        first={300}
        points={(width) => known.map(([name, v]) => ({ at: at(width)(v), name, values: [percent(v)] }))}
        legend={
          <span>
            {percent(low)} to {percent(high)} of all that is heard
          </span>
        }
      >
        {(width) => {
          const x = at(width);
          return (
            <>
              <rect x={0} y={8} width={width} height={6} rx={3} fill="var(--tape)" />
              <rect
                x={x(low)}
                y={5}
                width={Math.max(3, x(high) - x(low))}
                height={12}
                rx={3}
                fill={test.resolved ? "var(--moss)" : "var(--bark)"}
                opacity={test.resolved ? 0.8 : 0.45}
              />
              {path ? (
                <path d={`M${x(path.model_share)} 1v20`} stroke="var(--ink)" strokeWidth={2} strokeDasharray="3 2" />
              ) : null}
            </>
          );
        }}
      </Chart>
    </div>
  );
}

function AddTest({ doc, edit, close }: Traced) {
  const [kind, setKind] = useState<"cover" | "loudspeaker">("cover");
  const [path_id, setPath] = useState(doc.paths[0]?.id);
  const [fields, setFields] = useState<Record<string, string>>({});
  const list = (name: string) => (fields[name] ?? "").split(/[;\s]+/).filter(Boolean);
  const save = async () => {
    if (kind === "cover")
      await edit.create("block_offs", [
        {
          path_id,
          open_db: list("open"),
          blocked_db: list("blocked"),
          cover_insertion_loss_db: fields["cover"] ?? "",
        },
      ]);
    else
      await edit.create("substitutions", [
        { path_id, source_db: list("source"), heard_db: list("heard"), service_db: list("service") },
      ]);
  };
  const ask = (name: string, label: string, placeholder: string, unit = "dB(A)") => (
    <Ask label={label}>
      <Input
        value={fields[name] ?? ""}
        suffix={unit}
        placeholder={placeholder}
        onChange={(e) => setFields({ ...fields, [name]: e.target.value })}
      />
    </Ask>
  );
  return (
    <Dialog title="Test a path" ok="Keep the test" save={save} close={close}>
      <Segmented
        value={kind}
        onChange={setKind}
        options={[
          { value: "cover" as const, label: "cover it" },
          { value: "loudspeaker" as const, label: "loudspeaker for the source" },
        ]}
      />
      <p className="small">
        {kind === "cover"
          ? "Cover one path with something heavy and read again. Repeats make it surer."
          : "Engine off. Play broad noise close before the path; read there and at the listener, then the path's level in service."}
      </p>
      <Ask label="Path">
        <Select value={path_id} options={doc.paths.map((p) => ({ value: p.id, label: p.name }))} onChange={setPath} />
      </Ask>
      {kind === "cover" ? (
        <>
          {ask("open", "Levels with it open", "74.8 74.6 74.7")}
          {ask("blocked", "Levels with it covered", "73.6 73.5")}
          {ask("cover", "What the cover itself stops (empty if unknown)", num(12, 0), "dB")}
        </>
      ) : (
        <>
          {ask("source", "Loudspeaker, read at the path", "96.0 96.3")}
          {ask("heard", "The same, read at the listener", "71.5 71.2")}
          {ask("service", "In service, read at the path", "92.4 92.0")}
        </>
      )}
    </Dialog>
  );
}
