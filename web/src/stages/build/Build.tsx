// Build: the stack of a surface in section to scale, its curve against the noise, what it costs, what the trade says.
import { Button, Popover, Select, Slider } from "antd";
import { useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { itemId, type Schemas } from "../../api/client";
import { useShelf, useStage } from "../../api/hooks";
import type { Operation, Step } from "../../api/operations";
import { FILL, Hatches, Letter } from "../../parts/hatches";
import { useWidth } from "../../parts/GoalRule";
import type { StageProps } from "../../shell/JobShell";
import { Empty, Field, Meter, Note, Said, State, Working } from "../../parts/parts";
import { hertz, num, short } from "../../parts/words";
import { Frames } from "./frame";
import "./build.module.css";
import { NewSurface } from "../cut/Cut";

type View = Schemas["BuildView"];
type Layer = Schemas["StackLayerIn"];
type Material = Schemas["Material"];
type Change = (...operations: Operation[]) => Promise<unknown>;
type Attempt = (operation: Operation | null) => void;
const ROLES = ["damping", "decoupler", "barrier", "absorber", "seal", "isolator", "substrate"] as const;
const FLAGS = ["wet", "hot", "curved", "hidden", "walked on", "overhead", "trim over it"] as const;

export default function Build({ id, page, edit }: StageProps) {
  const doc = page.document;
  const [search, setSearch] = useSearchParams();
  const surface = doc.surfaces.find((s) => s.id === Number(search.get("surface"))) ?? doc.surfaces[0];
  const alternatives = doc.alternatives.filter((a) => a.surface_id === surface?.id);
  const chosen =
    alternatives.find((a) => a.id === Number(search.get("plan"))) ??
    alternatives.find((a) => a.chosen) ??
    alternatives[0];
  const query = { ...(surface ? { surface_id: surface.id } : {}), ...(chosen ? { alternative_id: chosen.id } : {}) };
  const [trying, setTrying] = useState<Step | null>(null);
  const view = useStage(id, "build", page.revision, query, trying);
  const [adding, setAdding] = useState(false);
  const data = view.data;

  // operations on the layers of the plan; the first layer begins one
  const change = (...operations: Operation[]) =>
    chosen ? edit.tryOperate("alternatives", chosen, ...operations) : Promise.resolve();
  // what a hand that still drags would change: seen, not kept
  const attempt = (operation: Operation | null) =>
    setTrying(
      operation && chosen
        ? {
            collection: "alternatives",
            row: chosen.id,
            version: chosen.version,
            values: {},
            operations: [operation],
            remove: false,
            force: false,
          }
        : null,
    );
  const add = (material: string, thickness_mm: number) => {
    const item = { id: itemId(), material, thickness_mm, coverage: 1 };
    if (chosen) void change({ op: "add", at: ["layers"], item, after: null });
    else if (surface)
      void edit.create("alternatives", [{ surface_id: surface.id, name: "Plan A", layers: [item] }]).catch(edit.say);
  };
  const another = async () => {
    if (!surface) return;
    const made = await edit
      .create("alternatives", [
        {
          surface_id: surface.id,
          name: `Plan ${String.fromCharCode(65 + alternatives.length)}`,
          layers: chosen?.layers ?? [],
          chosen: false,
        },
      ])
      .catch(edit.say);
    const fresh = made?.[0]?.["id"];
    if (fresh) setSearch({ surface: String(surface.id), plan: String(fresh) });
  };

  return (
    <>
      <section>
        <State query={view}>
          <Said sentence={data?.sentence ?? ""} detail={data?.detail} />
          <div className="chips" role="group" aria-label="Surfaces">
            {doc.surfaces.map((s) => (
              <button
                key={s.id}
                className="chip"
                aria-pressed={s.id === surface?.id}
                onClick={() => setSearch({ surface: String(s.id) })}
              >
                {s.name}
              </button>
            ))}
            <button className="chip" onClick={() => setAdding(true)}>
              + surface
            </button>
          </div>
          {surface && data?.substrate ? (
            <>
              <Section view={data} layers={chosen?.layers ?? []} change={change} attempt={attempt} drop={add} />
              {data.curves ? (
                <Curves view={data} name={surface.name} />
              ) : data.problem ? (
                <Note kind="warn">{data.problem}</Note>
              ) : null}
              <ShelfStrip add={add} />
            </>
          ) : (
            <Empty
              title="Nothing to build on"
              text="Add the panel that carries most of the noise; its own skin is the first layer."
            >
              <Button type="primary" size="large" onClick={() => setAdding(true)}>
                Add a surface
              </Button>
            </Empty>
          )}
        </State>
      </section>
      <aside className="sheet">
        {surface ? (
          <>
            <div className="chips" role="group" aria-label="Alternatives">
              {alternatives.map((a) => (
                <button
                  key={a.id}
                  className="chip"
                  aria-pressed={a.id === chosen?.id}
                  onClick={() => setSearch({ surface: String(surface.id), plan: String(a.id) })}
                >
                  {a.name}
                  {a.chosen ? " ✓" : ""}
                </button>
              ))}
              <button className="chip" onClick={() => void another()}>
                + alternative
              </button>
            </div>
            {chosen && !chosen.chosen ? (
              <Button type="primary" onClick={() => void edit.tryChange("alternatives", chosen, { chosen: true })}>
                Choose “{chosen.name}”
              </Button>
            ) : null}
            {data?.wanted ? <Note kind={data.wanted.endsWith("reached.") ? "good" : "info"}>{data.wanted}</Note> : null}
            <h2>What it costs</h2>
            {data?.meters.map((m) => (
              <Meter key={m.label} {...m} />
            ))}
          </>
        ) : null}
        <h2>What the trade says</h2>
        {data?.rules.length ? (
          data.rules.map((r) => (
            <Note key={r.rule} kind={r.severity}>
              <span title={r.why}>
                <b>{r.text}</b>{" "}
                <span className="mend">
                  {r.severity === "good" ? "" : r.why}
                  {r.mend ? ` ${r.mend}.` : ""}
                </span>
              </span>
            </Note>
          ))
        ) : (
          <p className="small">Nothing against it yet.</p>
        )}
        {data?.heat && surface ? (
          <details>
            <summary>Heat and moisture, as an outer skin in winter: {data.heat.sentence}</summary>
            <div className="rows">
              {data.heat.figures.map((f) => (
                <div key={f.label}>
                  <span>{f.label}</span>
                  <span className="num">
                    {f.value == null ? "unknown" : num(f.value, 1)} {f.unit}
                  </span>
                </div>
              ))}
            </div>
            <p className="small">20 °C and 50 % inside, −5 °C and 80 % outside.</p>
            {data.heat.cautions.map((c) => (
              <Note key={c} kind="warn">
                {c}
              </Note>
            ))}
          </details>
        ) : null}
        <div className="acts">
          <Working items={[...(data?.working ?? []), ...(data?.heat ? [data.heat.working] : [])]} />
        </div>
        {surface ? <SurfaceCard surface={surface} alternative={chosen} edit={edit} /> : null}
      </aside>
      {adding ? (
        <NewSurface
          edit={edit}
          kind={doc.job.kind}
          close={() => setAdding(false)}
          done={(n) => setSearch({ surface: String(n) })}
        />
      ) : null}
    </>
  );
}

function Section({
  view,
  layers,
  change,
  attempt,
  drop,
}: {
  view: View;
  layers: readonly Layer[];
  change: Change;
  attempt: Attempt;
  drop: (material: string, mm: number) => void;
}) {
  const [ref, width] = useWidth<HTMLDivElement>(850);
  const [over, setOver] = useState(false);
  const parts = view.substrate ? [view.substrate, ...view.layers] : view.layers;
  const left = 88;
  const dropWidth = 158;
  const depth = parts.reduce((sum, p) => sum + p.thickness_mm, 0);
  const lines = view.layers.filter((p) => p.family === "line").length;
  // one scale for all layers; a layer thinner than its letter is drawn wide enough to be seen and says its size
  const room = width - left - dropWidth - 24 - lines * 34;
  const least = 30;
  const scale = Math.max(0.5, Math.min(14, (room - parts.length * least * 0.6) / Math.max(depth, 1)));
  const height = 128;
  const top = 34;
  const widths = parts.map((p) => Math.max(least, p.thickness_mm * scale));
  const starts = widths.map((_, i) => left + widths.slice(0, i).reduce((sum, w) => sum + w + 2, 0));
  const x = left + widths.reduce((sum, w) => sum + w + 2, 0);
  return (
    <div
      ref={ref}
      className="section"
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        const [m, t] = e.dataTransfer.getData("text/plain").split("|");
        if (m) drop(m, Number(t));
      }}
    >
      <svg
        width={width}
        height={height + 92}
        role="img"
        aria-label={`Section: ${parts.map((p) => `${p.name} ${p.thickness_mm} mm`).join(", ")}`}
      >
        <Hatches />
        {[0, 1, 2, 3].map((i) => (
          <path
            key={i}
            d={`M${16 + i * 16} ${top + 4}q8 ${height / 2 - 4} 0 ${height - 8}`}
            fill="none"
            stroke="var(--cranberry)"
            strokeWidth={3.2 - i * 0.6}
            opacity={1 - i * 0.2}
          />
        ))}
        {parts.map((p, i) => {
          const w = widths[i] ?? least;
          const at = starts[i] ?? left;
          const treated = p.family === "damping" ? p.coverage : 1;
          const h = height * Math.max(0.12, treated);
          const long = p.name.length * 7.3 > w + 26;
          const row = i % 2;
          return (
            <g key={i}>
              {treated < 1 ? (
                <rect x={at} y={top} width={w} height={height} fill="none" stroke="var(--bark)" strokeDasharray="3 3" />
              ) : null}
              <rect
                x={at}
                y={top + (height - h) / 2}
                width={w}
                height={h}
                fill={i === 0 ? FILL["·"] : FILL[p.letter]}
                stroke="var(--ink)"
                strokeWidth={1.3}
              />
              {i > 0 ? <Letter x={at + w / 2} y={top + height / 2} letter={p.letter} /> : null}
              <path
                d={`M${at} ${top + height + 8}h${w}M${at} ${top + height + 4}v8M${at + w} ${top + height + 4}v8`}
                stroke="var(--bark)"
                fill="none"
              />
              <text
                x={at + w / 2}
                y={long && row ? 13 : long ? top + height + 46 : top + height + 28}
                textAnchor={at + w / 2 < 150 ? "start" : "middle"}
                dx={at + w / 2 < 150 ? -w / 2 : 0}
                fontSize={13}
                fontWeight={700}
              >
                {short(p.name, long ? 26 : 40)}
              </text>
              <text
                x={at + w / 2}
                y={long && row ? 28 : long ? top + height + 28 : top + height + 46}
                textAnchor={at + w / 2 < 150 ? "start" : "middle"}
                dx={at + w / 2 < 150 ? -w / 2 : 0}
                fontSize={12.5}
                className="soft"
              >
                {p.family === "line" ? "all round" : `${num(p.thickness_mm, p.thickness_mm % 1 ? 1 : 0)} mm`}
                {p.coverage < 1 || Math.abs(p.reached - p.coverage) > 0.02 ? `, ${Math.round(p.coverage * 100)} %` : ""}
                {Math.abs(p.reached - p.coverage) > 0.02 ? ` (cut: ${Math.round(p.reached * 100)} %)` : ""}
              </text>
            </g>
          );
        })}
        <rect
          x={x + 12}
          y={top}
          width={dropWidth - 14}
          height={height}
          rx={8}
          fill={over ? "var(--moss-wash)" : "none"}
          stroke="var(--moss)"
          strokeWidth={2}
          strokeDasharray="6 5"
        />
        <text
          x={x + 5 + dropWidth / 2}
          y={top + height / 2 - 2}
          textAnchor="middle"
          fontSize={14}
          style={{ fill: "var(--moss)" }}
        >
          drop a layer here
        </text>
        <text x={x + 5 + dropWidth / 2} y={top + height / 2 + 18} textAnchor="middle" fontSize={12.5} className="soft">
          or pick from the shelf
        </text>
      </svg>
      {layers.map((layer, i) => (
        <LayerHandle
          key={layer.id || `${i}${layer.material}`}
          layer={layer}
          i={i}
          layers={layers}
          change={change}
          attempt={attempt}
          box={[starts[i + 1] ?? 0, top, widths[i + 1] ?? least, height]}
        />
      ))}
    </div>
  );
}

function LayerHandle({
  layer,
  i,
  layers,
  change,
  attempt,
  box,
}: {
  layer: Layer;
  i: number;
  box: readonly [number, number, number, number];
  layers: readonly Layer[];
  change: Change;
  attempt: Attempt;
}) {
  const shelf = useShelf();
  const material = shelf.data?.materials.find((m) => m.id === layer.material);
  const [sliding, setSliding] = useState<number | null>(null);
  const coverage = sliding ?? layer.coverage;
  const own = layer.id ?? "";
  const setting = (key: "thickness_mm" | "coverage", value: number): Operation => ({
    op: "set",
    at: ["layers", own, key],
    value,
  });
  const put = (key: "thickness_mm" | "coverage", value: number) => change(setting(key, value));
  const drag = (c: number) => {
    setSliding(c);
    attempt(setting("coverage", c));
  };
  // the slider is let go of once the last of its changes is kept
  const last = useRef(0);
  const sent = useRef(layer.coverage);
  const settle = (c: number) => {
    if (c === sent.current) return; // a key let go of says once more what its press said
    sent.current = c;
    const mine = ++last.current;
    const done = () => {
      if (last.current !== mine) return;
      setSliding(null);
      attempt(null);
    };
    void put("coverage", c).then(done, done);
  };
  // arrows are taken here, one state a press: the slider's own handling cannot keep up with a held key on a slow machine
  const step = (e: React.KeyboardEvent) => {
    const by = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 }[e.key];
    if (!by) return;
    e.preventDefault();
    e.stopPropagation();
    const next = Math.min(1, Math.max(0.05, Math.round(100 * coverage + by) / 100));
    drag(next);
    settle(next);
  };
  const move = (by: -1 | 1) =>
    void change({ op: "move", at: ["layers"], id: own, after: (by > 0 ? layers[i + 1] : layers[i - 2])?.id ?? "" });
  return (
    <Popover
      trigger="click"
      title={material?.name}
      content={
        <div className="form layer-form">
          {material && material.thicknesses_mm.length > 1 ? (
            <Select
              value={layer.thickness_mm}
              aria-label="Thickness"
              options={material.thicknesses_mm.map((t) => ({ value: t, label: `${t} mm` }))}
              onChange={(mm) => void put("thickness_mm", mm)}
            />
          ) : null}
          {material?.family !== "line" ? (
            <label className="field">
              <span>Coverage {Math.round(coverage * 100)} %</span>
              <span onKeyDownCapture={step}>
                <Slider
                  min={0.05}
                  max={1}
                  step={0.01}
                  value={coverage}
                  onChange={drag}
                  onChangeComplete={settle}
                  tooltip={{ open: false }}
                />
              </span>
            </label>
          ) : null}
          <div className="acts">
            <Button disabled={i === 0} onClick={() => move(-1)}>
              towards the panel
            </Button>
            <Button disabled={i === layers.length - 1} onClick={() => move(1)}>
              outwards
            </Button>
            <Button danger onClick={() => void change({ op: "remove", at: ["layers"], id: own })}>
              Take out
            </Button>
          </div>
        </div>
      }
    >
      <button
        className="layer-handle"
        aria-label={`Edit layer ${i + 1}: ${material?.name ?? layer.material}`}
        style={{ left: box[0], top: box[1], width: box[2], height: box[3] }}
      />
    </Popover>
  );
}

function ShelfStrip({ add }: { add: (material: string, mm: number) => void }) {
  const shelf = useShelf();
  const [role, setRole] = useState<(typeof ROLES)[number]>("damping");
  const found = (shelf.data?.materials ?? []).filter((m) => m.roles.includes(role));
  return (
    <div className="shelf">
      <div className="chips" role="group" aria-label="Shelf">
        <b>Shelf</b>
        {ROLES.map((r) => (
          <button key={r} className="chip" aria-pressed={r === role} onClick={() => setRole(r)}>
            {r}
          </button>
        ))}
      </div>
      <div className="shelf-row">
        {found.map((m) => (
          <ShelfItem key={m.id} material={m} add={add} />
        ))}
      </div>
    </div>
  );
}

function ShelfItem({ material, add }: { material: Material; add: (material: string, mm: number) => void }) {
  const mm = material.thicknesses_mm[Math.min(1, material.thicknesses_mm.length - 1)] ?? 1;
  const facts = [
    material.thicknesses_mm.length ? `${material.thicknesses_mm.join(", ")} mm` : "",
    material.properties.density_kg_m3 ? `${material.properties.density_kg_m3} kg/m³` : "",
    material.source_class,
  ].filter(Boolean);
  return (
    <button
      className="shelf-item"
      draggable
      onDragStart={(e) => e.dataTransfer.setData("text/plain", `${material.id}|${mm}`)}
      onClick={() => add(material.id, mm)}
      aria-label={`Add ${material.name}`}
    >
      <b>{material.name}</b>
      <span className="small">{facts.join(" · ")}</span>
    </button>
  );
}

function Curves({ view, name }: { view: View; name: string }) {
  const [ref, width] = useWidth<HTMLDivElement>(850);
  const c = view.curves;
  if (!c) return null;
  const height = 262;
  const all = [...c.now_db, ...c.after_db];
  const top = Math.ceil((Math.max(...all) + 4) / 10) * 10;
  const low = Math.max(Math.floor(Math.min(...all) / 10) * 10, top - 70);
  const [x0, x1, y0, y1] = [44, width - 14, 14, height - 30];
  const n = c.frequency_hz.length;
  const x = (i: number) => x0 + ((i + 0.5) / n) * (x1 - x0);
  const y = (v: number) => y1 - ((Math.max(v, low) - low) / (top - low)) * (y1 - y0);
  const line = (values: readonly number[], by = 0) =>
    values.map((v, i) => `${i ? "L" : "M"}${x(i).toFixed(1)} ${y(v + by).toFixed(1)}`).join("");
  const back = (values: readonly number[], by: number) =>
    values
      .map((v, i) => `L${x(i).toFixed(1)} ${y(v + by).toFixed(1)}`)
      .reverse()
      .join("");
  const step = (x1 - x0) / n;
  const same = c.now_db.every((v, i) => v === c.after_db[i]);
  const resonance = view.resonance_hz;
  const at = resonance ? x0 + ((Math.log10(resonance / 50) * 10 + 0.5) / n) * (x1 - x0) : 0;
  return (
    <div ref={ref} className="curves">
      <svg
        width={width}
        height={height}
        role="img"
        aria-label={`Level at the listener through ${name}, per band, now and after`}
      >
        {[...Array(Math.round((top - low) / 10) + 1).keys()].map((k) => (
          <g key={k}>
            <line x1={x0} x2={x1} y1={y(low + k * 10)} y2={y(low + k * 10)} stroke="var(--line)" />
            <text x={x0 - 8} y={y(low + k * 10) + 4} textAnchor="end" fontSize={12} className="soft">
              {low + k * 10}
            </text>
          </g>
        ))}
        <text x={4} y={12} fontSize={12} className="soft">
          dB
        </text>
        {c.now_db.map((v, i) => (
          <rect key={i} x={x(i) - step * 0.36} width={step * 0.72} y={y(v)} height={y1 - y(v)} fill="var(--tape)" />
        ))}
        {same ? null : (
          <path
            d={`${line(c.after_db, c.error_db)}${back(c.after_db, -c.error_db)}Z`}
            fill="var(--heather)"
            opacity={0.2}
          />
        )}
        <path d={line(c.now_db)} fill="none" stroke="var(--ink)" strokeWidth={2.6} />
        {same ? null : (
          <path
            data-curve="after"
            d={line(c.after_db)}
            fill="none"
            stroke="var(--heather)"
            strokeWidth={2.6}
            strokeDasharray="6 4"
          />
        )}
        {c.frequency_hz.map((f, i) =>
          i % 3 === 1 ? (
            <text key={f} x={x(i)} y={height - 10} textAnchor="middle" fontSize={12} className="soft">
              {hertz(f)}
            </text>
          ) : null,
        )}
        <text x={x1} y={height - 10} textAnchor="end" fontSize={12} className="soft">
          Hz
        </text>
        {resonance && at < x1 ? (
          <g>
            <path d={`M${at} ${y0}v14`} stroke="var(--cranberry)" strokeWidth={2.2} />
            <text x={at + 7} y={y0 + 10} fontSize={12.5} style={{ fill: "var(--cranberry)" }}>
              lining resonates at {Math.round(resonance)} Hz
            </text>
          </g>
        ) : null}
        <text x={x1 - 6} y={y0 + 12} textAnchor="end" fontSize={13} fontWeight={700}>
          through it now
        </text>
        {same ? null : (
          <text
            x={x1 - 6}
            y={y0 + 30}
            textAnchor="end"
            fontSize={13}
            fontWeight={700}
            style={{ fill: "var(--heather)" }}
          >
            after, predicted ± {num(c.error_db, 0)} dB · {view.rating}
          </text>
        )}
      </svg>
    </div>
  );
}

function SurfaceCard({
  surface,
  alternative,
  edit,
}: {
  surface: Schemas["Surface"];
  alternative: Schemas["Alternative"] | undefined;
  edit: StageProps["edit"];
}) {
  const text = (v: number | null) => (v == null ? "" : String(v));
  return (
    <details>
      <summary>
        <b>About this surface</b>
      </summary>
      <div className="form">
        <Field label="Name" value={surface.name} save={(name) => edit.change("surfaces", surface, { name })} />
        <div className="two">
          <Field
            label="Depth there is"
            unit="mm"
            value={text(surface.depth_limit_mm)}
            placeholder="none"
            save={(v) => edit.change("surfaces", surface, { depth_limit_mm: v })}
          />
          <Field
            label="Weight each may gain"
            unit="kg"
            value={text(surface.kg_limit)}
            placeholder="none"
            save={(v) => edit.change("surfaces", surface, { kg_limit: v })}
          />
          <Field
            label="How many alike"
            value={String(surface.count)}
            save={(v) => edit.change("surfaces", surface, { count: Number(v) })}
          />
        </div>
        <div className="chips">
          {FLAGS.map((f) => (
            <button
              key={f}
              className="chip"
              aria-pressed={surface.flags.includes(f)}
              onClick={() =>
                void edit.tryOperate(
                  "surfaces",
                  surface,
                  surface.flags.includes(f)
                    ? { op: "remove", at: ["flags"], id: f }
                    : { op: "add", at: ["flags"], item: f, after: null },
                )
              }
            >
              {f}
            </button>
          ))}
        </div>
        <Frames surface={surface} alternative={alternative} edit={edit} />
        <Button danger onClick={() => void edit.remove("surfaces", surface)}>
          Remove this surface and its plans
        </Button>
      </div>
    </details>
  );
}
