// Trace: sound flows through gates as wide as the energy they let through; a gate pulled down shows what closing it gives.
import { Button, Input, Modal, Select } from "antd";
import { useQuery, keepPreviousData } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { useStage } from "../api/hooks";
import { useWidth } from "../shell/GoalRule";
import type { StageProps } from "../shell/JobShell";
import { Ask, Empty, Field, Note, Said, State, Working } from "../shell/parts";
import { num, percent, signed } from "../shell/words";
import "./trace.css";

type View = Schemas["TraceView"];
type PathView = Schemas["PathView"];
type Pulls = Record<number, number>;
const MOST_PULL = 30;

export default function Trace({ id, page, edit }: StageProps) {
  const doc = page.document;
  const view = useStage(id, "trace", page.revision);
  const [pulls, setPulls] = useState<Pulls>({});
  const [adding, setAdding] = useState<"path" | "test" | null>(null);
  const [open, setOpen] = useState<number | null>(null);
  const pulled = usePulled(id, page.revision, pulls);
  const data = view.data;
  const active = Object.values(pulls).some((v) => v > 0);
  const shown = active ? (pulled.data?.pulled_dba ?? data?.total_dba) : data?.total_dba;
  const row = doc.paths.find((p) => p.id === open);
  return (
    <>
      <section>
        <State query={view}>
          {data ? (
            <>
              <Said sentence={data.sentence} detail={data.detail} />
              {data.paths.length ? (
                <Gates view={data} pulls={pulls} pull={(p, db) => setPulls({ ...pulls, [p]: db })} total={shown ?? null} active={active} />
              ) : (
                <Empty title="No way in yet" text="List every panel, leak and link the noise can take. A rough area each is enough to begin.">
                  <Button type="primary" size="large" onClick={() => setAdding("path")}>Add the first path</Button>
                </Empty>
              )}
              {data.paths.filter((p) => p.problem).map((p) => <Note key={p.id} kind="warn"><b>{p.name} has no figure.</b> {p.problem}.</Note>)}
              <div className="acts trace-acts">
                {active ? <Button onClick={() => setPulls({})}>Open all gates again</Button> : null}
                <Working items={data.working} />
                <span className="small">
                  Source: {data.source}, {data.condition}
                  {data.calibrated ? `; scaled by ${signed((data.total_dba ?? 0) - (data.unscaled_dba ?? 0))} dB to the level as found.` : "; not scaled: no reading as found yet."}
                </span>
              </div>
            </>
          ) : null}
        </State>
      </section>
      <aside className="sheet">
        <h2>Most you can gain by closing one path</h2>
        <div className="rows">
          {(data?.paths ?? []).map((p) => (
            <div key={p.id}>
              <button className="plain" onClick={() => setOpen(p.id)}>{p.name}</button>
              <span>
                {percent(p.share)} <b className="num">{p.ceiling_db == null ? "all" : `${signed(-p.ceiling_db)} dB`}</b>
              </span>
            </div>
          ))}
        </div>
        {(data?.advice ?? []).map((a) => <Note key={a} kind="good">{a}</Note>)}
        {(data?.block_offs ?? []).map((b) => (
          <Note key={b.id} kind={b.resolved ? "info" : "warn"}>
            <b>Block-off test, {doc.paths.find((p) => p.id === b.path_id)?.name}:</b> {b.words}{" "}
            <button className="plain" onClick={() => { const t = doc.block_offs.find((x) => x.id === b.id); if (t) void edit.remove("block_offs", t); }}>remove</button>
          </Note>
        ))}
        <div className="acts">
          <Link to={`/jobs/${id}/build`}><Button type="primary">Go to Build</Button></Link>
          <Button onClick={() => setAdding("path")}>Add a path</Button>
          {doc.paths.length ? <Button onClick={() => setAdding("test")}>Add a test</Button> : null}
        </div>
      </aside>
      {adding === "path" ? <AddPath doc={doc} edit={edit} close={() => setAdding(null)} /> : null}
      {adding === "test" ? <AddTest doc={doc} edit={edit} close={() => setAdding(null)} /> : null}
      <Modal title={row?.name} open={Boolean(row)} footer={null} onCancel={() => setOpen(null)}>
        {row ? <EditPath row={row} edit={edit} done={() => setOpen(null)} /> : null}
      </Modal>
    </>
  );
}

function usePulled(id: number, revision: number, pulls: Pulls) {
  const pull = Object.entries(pulls).filter(([, v]) => v > 0).map(([k, v]) => `${k}:${v.toFixed(1)}`).join(",");
  const [settled, setSettled] = useState(pull);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(pull), 50);
    return () => clearTimeout(timer);
  }, [pull]);
  return useQuery({
    queryKey: ["pulled", id, revision, settled],
    queryFn: () => ask(api.GET("/api/jobs/{job_id}/trace", { params: { path: { job_id: id }, query: { pull: settled } } })),
    enabled: settled !== "",
    placeholderData: keepPreviousData,
  });
}

const COLOURS = ["#b5453d", "#cc7a52", "#d3a05f", "#c2aa66", "#a3ab78", "#8ba68c", "#7d9d99", "#8893a3"];

function Gates({ view, pulls, pull, total, active }: { view: View; pulls: Pulls; pull: (id: number, db: number) => void; total: number | null; active: boolean }) {
  const [ref, width] = useWidth<HTMLDivElement>(850);
  const height = 470;
  const paths = view.paths.filter((p) => p.share > 0);
  const gap = 15;
  const room = height - 44 - gap * (paths.length - 1);
  // a band is as tall as its share of the energy, never thinner than a hair
  const heights = paths.map((p) => Math.max(5, p.share * room));
  const over = heights.reduce((a, b) => a + b, 0) / room;
  const scaled = heights.map((h) => h / Math.max(1, over));
  const tops: number[] = [];
  scaled.reduce((y, h) => { tops.push(y); return y + h + gap; }, 22);
  const wall = Math.round(width * 0.5);
  const ear = { x: width - 66, y: height / 2 };
  const inner = scaled.reduce((a, b) => a + b, 0) * 0.55;
  const ends = scaled.map((_, i) => ear.y - inner / 2 + scaled.slice(0, i).reduce((a, b) => a + b, 0) * 0.55);
  return (
    <div ref={ref}>
      <svg width={width} height={height} className="gates">
        <rect x={0} y={height * 0.12} width={98} height={height * 0.76} rx={7} fill="var(--tape)" />
        <text x={49} y={height / 2 - 6} textAnchor="middle" fontWeight={700} fontSize={14}>{view.condition.split(" ").slice(0, 2).join(" ")}</text>
        <text x={49} y={height / 2 + 14} textAnchor="middle" fontSize={12.5} className="soft">{view.calibrated ? "as measured" : "assumed"}</text>
        <rect x={wall - 5} y={4} width={10} height={height - 8} fill="var(--ink)" />
        {paths.map((p, i) => {
          const y = tops[i] ?? 0;
          const h = scaled[i] ?? 0;
          const from = height * 0.15 + (i / Math.max(1, paths.length)) * height * 0.7;
          const fromH = (height * 0.7 / Math.max(1, paths.length)) * 0.72;
          const db = pulls[p.id] ?? 0;
          const left = h * Math.pow(10, -db / 10);
          const colour = COLOURS[Math.min(i, COLOURS.length - 1)] ?? "#888";
          const toH = left * 0.55;
          const end = ends[i] ?? ear.y;
          const mid = wall + (ear.x - wall) * 0.5;
          return (
            <g key={p.id} className="ease">
              <path d={band(98, from, from + fromH, wall - 7, y, y + h, 98 + (wall - 98) * 0.5)} fill={colour} opacity={0.34} />
              <path d={band(wall + 7, y + h - left, y + h, ear.x - 40, end + (h * 0.55 - toH), end + h * 0.55, mid)} fill={colour} opacity={0.92} />
              <rect x={wall - 7} y={y} width={14} height={h} fill="var(--card)" />
              <rect x={wall - 7} y={y} width={14} height={h - left} fill="var(--ink)" />
              <text x={wall - 16} y={y + h / 2 + 5} textAnchor="end" fontWeight={700} fontSize={15}>{percent(p.share)}</text>
              <text x={wall + 22} y={y + h / 2 + 5} fontWeight={700} fontSize={15} className="halo">
                {p.name}
                {db > 0 ? ` −${num(db, 0)} dB` : ""}
              </text>
              <Knob path={p} x={wall} y={y} h={h} db={db} pull={pull} />
            </g>
          );
        })}
        <circle cx={ear.x} cy={ear.y} r={60} fill="var(--card)" stroke="var(--ink)" strokeWidth={2} />
        <text x={ear.x} y={ear.y + 2} textAnchor="middle" fontSize={29} fontWeight={700} data-testid="at-ear">{num(total)}</text>
        <text x={ear.x} y={ear.y + 22} textAnchor="middle" fontSize={13}>dB(A) at ear</text>
        {active && total != null && view.total_dba != null ? (
          <text x={ear.x} y={ear.y + 40} textAnchor="middle" fontSize={13} fontWeight={700} style={{ fill: "var(--moss)" }}>{signed(total - view.total_dba)} dB</text>
        ) : null}
      </svg>
    </div>
  );
}

function band(x1: number, a1: number, b1: number, x2: number, a2: number, b2: number, mid: number): string {
  return `M${x1} ${a1}C${mid} ${a1} ${mid} ${a2} ${x2} ${a2}L${x2} ${b2}C${mid} ${b2} ${mid} ${b1} ${x1} ${b1}Z`;
}

function Knob({ path, x, y, h, db, pull }: { path: PathView; x: number; y: number; h: number; db: number; pull: (id: number, db: number) => void }) {
  const from = useRef<{ y: number; db: number } | null>(null);
  const set = (value: number) => pull(path.id, Math.min(MOST_PULL, Math.max(0, value)));
  const closed = h * (1 - Math.pow(10, -db / 10));
  return (
    <g
      className="knob"
      role="slider"
      tabIndex={0}
      aria-label={`Close ${path.name}`}
      aria-valuemin={0}
      aria-valuemax={MOST_PULL}
      aria-valuenow={Math.round(db)}
      aria-valuetext={`${num(db, 0)} dB closed`}
      onPointerDown={(e) => { e.currentTarget.setPointerCapture(e.pointerId); from.current = { y: e.clientY, db }; }}
      onPointerMove={(e) => { if (from.current) set(from.current.db + (e.clientY - from.current.y) * 0.16); }}
      onPointerUp={() => { from.current = null; }}
      onKeyDown={(e) => {
        const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 5, PageUp: -5 }[e.key];
        if (step) { e.preventDefault(); set(db + step); }
        if (e.key === "Home") set(0);
        if (e.key === "End") set(MOST_PULL);
      }}
    >
      <circle cx={x} cy={y + closed} r={20} fill="transparent" />
      <circle cx={x} cy={y + closed} r={8} fill="var(--card)" stroke="var(--ink)" strokeWidth={2.4} />
    </g>
  );
}

function EditPath({ row, edit, done }: { row: Schemas["Path"]; edit: StageProps["edit"]; done: () => void }) {
  const save = (key: string) => (text: string) => edit.change("paths", row, { [key]: text });
  const text = (v: number | null | undefined) => (v == null ? "" : String(v));
  return (
    <div className="form">
      <Field label="Name" value={row.name} save={save("name")} />
      <div className="two">
        <Field label="Open area now" unit="cm²" value={text(row.leak_cm2)} save={save("leak_cm2")} />
        <Field label="Open area as planned" unit="cm²" value={text(row.planned_leak_cm2)} placeholder="as now" save={save("planned_leak_cm2")} />
        <Field label="Louder here than the source by" unit="dB" value={text(row.incident_offset_db)} save={save("incident_offset_db")} />
        <Field label="R can be at most" unit="dB" value={text(row.cap_db)} placeholder="no cap" save={save("cap_db")} />
        {row.surface_id == null && row.transmission_loss_db ? <Field label="Area" unit="m²" value={text(row.area_m2)} save={save("area_m2")} /> : null}
        {row.level_dba != null ? <Field label="Level at the listener" unit="dB(A)" value={text(row.level_dba)} save={save("level_dba")} /> : null}
      </div>
      <div className="acts">
        <button className="chip" aria-pressed={row.easy} onClick={() => void edit.tryChange("paths", row, { easy: !row.easy })}>easy to reach</button>
        <Button danger onClick={() => { void edit.remove("paths", row); done(); }}>Remove this path</Button>
      </div>
    </div>
  );
}

type Dialog = { doc: Schemas["JobDocument"]; edit: StageProps["edit"]; close: () => void };
const KINDS = [
  { value: "surface", label: "through a panel" },
  { value: "leak", label: "an opening or leak" },
  { value: "level", label: "a level I know (structure-borne)" },
];

function AddPath({ doc, edit, close }: Dialog) {
  const free = doc.surfaces.filter((s) => !doc.paths.some((p) => p.surface_id === s.id));
  const [kind, setKind] = useState(free.length || !doc.surfaces.length ? "surface" : "leak");
  const [name, setName] = useState("");
  const [surface, setSurface] = useState<number | "new">(free[0]?.id ?? "new");
  const [width, setWidth] = useState("");
  const [height, setHeight] = useState("");
  const [value, setValue] = useState("");
  const [wrong, setWrong] = useState("");
  const save = async () => {
    try {
      let body: Record<string, unknown> = { name: name || doc.surfaces.find((s) => s.id === surface)?.name };
      if (kind === "surface") {
        let id: unknown = surface;
        if (surface === "new") {
          const made = await edit.create("surfaces", [{ name, outline_mm: [[0, 0], [width, 0], [width, height], [0, height]], substrate: { material: doc.job.kind === "room" ? "gypsum-board" : doc.job.kind === "enclosure" ? "plywood" : "steel", thickness_mm: doc.job.kind === "room" ? 12.5 : doc.job.kind === "enclosure" ? 9 : 0.8 } }]);
          id = made[0]?.["id"];
        }
        body = { ...body, surface_id: id };
      } else body = { ...body, [kind === "leak" ? "leak_cm2" : "level_dba"]: value };
      await edit.create("paths", [body]);
      close();
    } catch (error) {
      setWrong(error instanceof Error ? error.message : "Not kept.");
    }
  };
  return (
    <Modal title="Another way in" open onCancel={close} onOk={() => void save()} okText="Add">
      <div className="form">
        <Ask label="How does the noise come?"><Select value={kind} options={KINDS} onChange={setKind} /></Ask>
        {kind === "surface" ? (
          <Ask label="Panel"><Select value={surface} options={[...free.map((s) => ({ value: s.id as number | "new", label: s.name })), { value: "new" as const, label: "a new panel" }]} onChange={setSurface} /></Ask>
        ) : null}
        {kind !== "surface" || surface === "new" ? <Ask label="Name"><Input value={name} onChange={(e) => setName(e.target.value)} placeholder="Rear doors" /></Ask> : null}
        {kind === "surface" && surface === "new" ? (
          <div className="two">
            <Ask label="Width"><Input value={width} suffix="mm" onChange={(e) => setWidth(e.target.value)} /></Ask>
            <Ask label="Height"><Input value={height} suffix="mm" onChange={(e) => setHeight(e.target.value)} /></Ask>
          </div>
        ) : null}
        {kind !== "surface" ? <Ask label={kind === "leak" ? "Open area" : "Level at the listener"}><Input value={value} suffix={kind === "leak" ? "cm²" : "dB(A)"} onChange={(e) => setValue(e.target.value)} /></Ask> : null}
        {wrong ? <Note kind="danger">{wrong}</Note> : null}
      </div>
    </Modal>
  );
}

function AddTest({ doc, edit, close }: Dialog) {
  const [path_id, setPath] = useState(doc.paths[0]?.id);
  const [open, setOpen] = useState("");
  const [blocked, setBlocked] = useState("");
  const [cover, setCover] = useState("");
  const [wrong, setWrong] = useState("");
  const list = (text: string) => text.split(/[;\s]+/).filter(Boolean);
  const save = async () => {
    try {
      await edit.create("block_offs", [{ path_id, open_db: list(open), blocked_db: list(blocked), cover_insertion_loss_db: cover }]);
      close();
    } catch (error) {
      setWrong(error instanceof Error ? error.message : "Not kept.");
    }
  };
  return (
    <Modal title="Block-off test" open onCancel={close} onOk={() => void save()} okText="Keep the test">
      <p className="small">Cover one path with something heavy and read again. Repeats make it surer.</p>
      <div className="form">
        <Ask label="Path"><Select value={path_id} options={doc.paths.map((p) => ({ value: p.id, label: p.name }))} onChange={setPath} /></Ask>
        <Ask label="Levels with it open"><Input value={open} suffix="dB(A)" placeholder="74.8 74.6 74.7" onChange={(e) => setOpen(e.target.value)} /></Ask>
        <Ask label="Levels with it covered"><Input value={blocked} suffix="dB(A)" placeholder="73.6 73.5" onChange={(e) => setBlocked(e.target.value)} /></Ask>
        <Ask label="What the cover itself stops (empty if unknown)"><Input value={cover} suffix="dB" onChange={(e) => setCover(e.target.value)} /></Ask>
        {wrong ? <Note kind="danger">{wrong}</Note> : null}
      </div>
    </Modal>
  );
}
