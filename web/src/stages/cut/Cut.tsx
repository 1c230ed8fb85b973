// Cut: the surface to scale with what stays clear and its pieces; sheets and rolls filled; what to buy.
import { Button, Input, Modal, Select } from "antd";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { api, itemId, type Schemas } from "../../api/client";
import { useShelf, useStage, useWork } from "../../api/hooks";
import { FILL, Hatches, Letter, path } from "../../parts/hatches";
import type { StageProps } from "../../shell/JobShell";
import { Ask, Empty, Field, Note, Said, State, Working } from "../../parts/parts";
import { money, num, percent } from "../../parts/words";
import "./cut.module.css";

type Surface = Schemas["Surface"];
type Drawn = Schemas["SurfaceView"];
type Sheet = Schemas["SheetView"];
const ZONES = [
  "drain",
  "vent",
  "fixing",
  "moving part",
  "airbag seam",
  "hot part",
  "module",
  "cable run",
  "sealing face",
] as const;

export default function Cut({ id, page, edit }: StageProps) {
  const doc = page.document;
  const [search, setSearch] = useSearchParams();
  const wanted = Number(search.get("surface")) || doc.surfaces[0]?.id;
  const view = useStage(id, "cut", page.revision, wanted ? { surface_id: wanted } : {});
  const [layer, setLayer] = useState(0);
  const [dialog, setDialog] = useState<"zone" | "points" | "surface" | "piece" | null>(null);
  const data = view.data;
  const work = useWork(id, data?.work ?? []);
  const row = doc.surfaces.find((s) => s.id === data?.surface?.id);
  const shown = data?.surface?.layers[Math.min(layer, data.surface.layers.length - 1)];
  return (
    <>
      <section>
        <State query={view}>
          <Said sentence={data?.sentence ?? ""} detail={data?.detail} />
          {data?.work.length ? <UnderWay work={work} wanted={data.work.length} /> : null}
          <div className="chips" role="group" aria-label="Surfaces">
            {doc.surfaces.map((s) => (
              <button
                key={s.id}
                className="chip"
                aria-pressed={s.id === row?.id}
                onClick={() => setSearch({ surface: String(s.id) })}
              >
                {s.name}
                {s.count > 1 ? ` × ${s.count}` : ""}
              </button>
            ))}
            <button className="chip" onClick={() => setDialog("surface")}>
              + surface
            </button>
          </div>
          {data?.surface && row ? (
            <div className="cut-top">
              <SurfaceDrawing view={data.surface} row={row} layer={shown} edit={edit} />
              <div className="cut-facts">
                <div className="chips">
                  {data.surface.layers.map((l, i) => (
                    <button
                      key={l.material + String(i)}
                      className="chip"
                      aria-pressed={l === shown}
                      onClick={() => setLayer(i)}
                    >
                      <b>{l.letter}</b> {l.name}
                    </button>
                  ))}
                </div>
                {shown ? (
                  <p>
                    <b>Treated {percent(shown.reached)}</b>
                    <br />
                    <span className="small">
                      of {num(data.surface.areas.treatable_m2, 2)} m² treatable
                      {shown.reached + 0.03 < shown.wanted
                        ? `; ${percent(shown.wanted)} wanted, rectangles reach this`
                        : ""}
                    </span>
                    <br />
                    <b>{num(shown.kg)} kg</b>{" "}
                    <span className="small">on {row.count > 1 ? `all ${row.count}` : "it"}</span>
                  </p>
                ) : (
                  <p className="small">Choose a stack in Build, then its pieces are laid here.</p>
                )}
                <div className="acts">
                  <Button onClick={() => setDialog("zone")}>Keep clear …</Button>
                  <Button onClick={() => setDialog("points")}>Outline by points</Button>
                </div>
                <details className="rows">
                  <summary>{row.keep_clear.length} kept clear</summary>
                  {row.keep_clear.map((z, i) => (
                    <div key={z.id || `${z.kind}${i}`}>
                      <span>
                        {z.kind}
                        {z.name ? `, ${z.name}` : ""}{" "}
                        <span className="small">
                          {z.shape === "circle"
                            ? `Ø ${num(z.width_mm, 0)}`
                            : `${num(z.width_mm, 0)} × ${num(z.height_mm, 0)}`}{" "}
                          mm
                        </span>
                      </span>
                      <button
                        className="key"
                        aria-label={`Remove ${z.kind}`}
                        onClick={() =>
                          void edit.tryOperate("surfaces", row, { op: "remove", at: ["keep_clear"], id: z.id ?? "" })
                        }
                      >
                        remove
                      </button>
                    </div>
                  ))}
                </details>
                <Sheets
                  sheets={[...data.sheets].sort(
                    (a, b) =>
                      Number(b.material === shown?.material && b.thickness_mm === shown.thickness_mm) -
                      Number(a.material === shown?.material && a.thickness_mm === shown.thickness_mm),
                  )}
                />
              </div>
            </div>
          ) : (
            <Empty
              title="No surface drawn"
              text="A panel, a wall, a lid: width times height is enough, corners can follow."
            >
              <Button type="primary" size="large" onClick={() => setDialog("surface")}>
                Draw the first surface
              </Button>
            </Empty>
          )}
          {data?.surface ? null : <Sheets sheets={data?.sheets ?? []} />}
        </State>
      </section>
      <aside className="sheet">
        <h2>To buy for the whole job</h2>
        {data?.older ? (
          <Note kind="warn">From before the last change; the new list is being laid out.</Note>
        ) : data?.work.length ? (
          <Note kind="info">Not whole yet: pieces are still being laid out.</Note>
        ) : null}
        {data?.buy.length ? (
          <div className="rows buy">
            {data.buy.map((b) => (
              <div key={`${b.material}@${b.thickness_mm ?? ""}`}>
                <span>{b.name}</span>
                <span>
                  <b className="num">
                    {b.unit.includes("roll") && b.needed.includes("m of")
                      ? b.unit
                      : `${b.units} ${b.unit}${b.units > 1 && !b.unit.startsWith("pack") ? "s" : ""}`}
                  </b>
                  {b.spare ? (
                    <span className="small"> {b.unit.startsWith("pack") ? `(${b.needed})` : `${b.spare} spare`}</span>
                  ) : null}
                  <br />
                  <span className="small num">{money(b.money, data.currency)}</span>
                </span>
              </div>
            ))}
            <div className="sum">
              <b>{num(data.kg)} kg bought</b>
              <b className="num">{money(data.money, data.currency)}</b>
            </div>
          </div>
        ) : (
          <p className="small">Nothing yet: the list follows from the stacks chosen in Build.</p>
        )}
        {data?.utilisation != null ? (
          <Note kind="good">{percent(data.utilisation)} of the opened stock ends up on the job.</Note>
        ) : null}
        {data?.unplaced.map((u) => (
          <Note key={u} kind="danger">
            Does not fit: {u}.
          </Note>
        ))}
        <div className="rows">
          {doc.pieces.map((p) => (
            <div key={p.id}>
              <span>
                {p.quantity} × {p.name}{" "}
                <span className="small">
                  {num(p.width_mm, 0)} × {num(p.height_mm, 0)} mm
                </span>
              </span>
              <button
                className="key"
                aria-label={`Remove piece ${p.name}`}
                onClick={() => void edit.remove("pieces", p)}
              >
                remove
              </button>
            </div>
          ))}
        </div>
        <div className="acts">
          <Button onClick={() => setDialog("piece")}>Add a piece</Button>
          <Working items={data?.working} />
        </div>
      </aside>
      {dialog === "surface" ? (
        <NewSurface
          edit={edit}
          close={() => setDialog(null)}
          kind={doc.job.kind}
          done={(n) => setSearch({ surface: String(n) })}
        />
      ) : null}
      {dialog === "zone" && row ? <NewZone row={row} edit={edit} close={() => setDialog(null)} /> : null}
      {dialog === "points" && row ? <Points row={row} edit={edit} close={() => setDialog(null)} /> : null}
      {dialog === "piece" ? <NewPiece edit={edit} close={() => setDialog(null)} /> : null}
    </>
  );
}

// Layouts that go on, in one line that keeps its place: the best so far can be taken.
function UnderWay({ work, wanted }: { work: Schemas["WorkState"][]; wanted: number }) {
  const some = work.filter((w) => w.found);
  const stop = () =>
    some.forEach((w) => void api.DELETE("/api/work/{work_id}", { params: { path: { work_id: w.id } } }));
  const share = work.reduce((sum, w) => sum + w.share, 0) / Math.max(work.length, 1);
  return (
    <div className="acts under-way" role="status">
      <span>
        {wanted === 1 ? "One material is" : `${wanted} materials are`} being laid out: {percent(share)} of the ways
        tried.
      </span>
      {some.length ? (
        <Button size="small" onClick={stop}>
          Take what there is
        </Button>
      ) : null}
    </div>
  );
}

const LEFT = 108;

function SurfaceDrawing({
  view,
  row,
  layer,
  edit,
}: {
  view: Drawn;
  row: Surface;
  layer: Schemas["LayerPieces"] | undefined;
  edit: StageProps["edit"];
}) {
  const xs = view.outline_mm.map((p) => p[0] ?? 0);
  const ys = view.outline_mm.map((p) => p[1] ?? 0);
  const [x0, y0] = [Math.min(...xs), Math.min(...ys)];
  const scale = Math.min(430 / view.areas.width_mm, 400 / view.areas.height_mm);
  const w = view.areas.width_mm * scale;
  const h = view.areas.height_mm * scale;
  const at = (p: readonly number[]): [number, number] => [
    LEFT + ((p[0] ?? 0) - x0) * scale,
    34 + h - ((p[1] ?? 0) - y0) * scale,
  ];
  const shape = (points: readonly (readonly number[])[]) => path(points.map(at));
  const stretch = (axis: 0 | 1) => (to_mm: number) =>
    edit.operate("surfaces", row, [{ op: "stretch", at: ["outline_mm"], axis, to_mm }]);
  return (
    <div className="surface-draw">
      <svg
        width={LEFT + w + 14}
        height={h + 50}
        role="img"
        aria-label={`${view.name}, ${num(view.areas.width_mm, 0)} by ${num(view.areas.height_mm, 0)} mm`}
      >
        <Hatches />
        <defs>
          <clipPath id="treatable">
            <path d={view.treatable_mm.flat().map(shape).join("")} clipRule="evenodd" />
          </clipPath>
        </defs>
        <path d={shape(view.outline_mm)} fill="var(--tape)" stroke="var(--ink)" strokeWidth={2.5} />
        <g clipPath={layer?.pieces.some((p) => p.trim) ? "url(#treatable)" : undefined}>
          {layer?.pieces.map((p) => (
            <path key={p.label} d={shape(p.outline_mm)} fill={FILL[layer.letter]} stroke="var(--ink)" strokeWidth={1} />
          ))}
        </g>
        {row.keep_clear.map((z, i) => {
          const [x, y] = at([z.x_mm, z.y_mm + z.height_mm]);
          const [zw, zh] = [z.width_mm * scale, z.height_mm * scale];
          return (
            <g key={i}>
              {z.shape === "circle" ? (
                <ellipse cx={x + zw / 2} cy={y + zh / 2} rx={zw / 2} ry={zh / 2} className="clear" />
              ) : (
                <rect x={x} y={y} width={zw} height={zh} className="clear" />
              )}
              {zw > 46 && zh > 15 ? (
                <text
                  x={x + zw / 2}
                  y={y + zh / 2 + 4}
                  textAnchor="middle"
                  fontSize={11.5}
                  style={{ fill: "var(--cranberry)" }}
                >
                  {z.name || z.kind}
                </text>
              ) : (
                <title>{z.name || z.kind}</title>
              )}
            </g>
          );
        })}
        {layer?.pieces.map((p) => {
          const [a, b] = [at(p.outline_mm[0] ?? [0, 0]), at(p.outline_mm[2] ?? [0, 0])];
          return (
            <Letter
              key={p.label}
              x={(a[0] + b[0]) / 2}
              y={(a[1] + b[1]) / 2}
              letter={p.label.replace(/^\D+/, "")}
              r={11}
            />
          );
        })}
        <path
          d={`M${LEFT} 18h${w}M${LEFT} 12v12M${LEFT + w} 12v12M${LEFT - 18} 34v${h}M${LEFT - 24} 34h12M${LEFT - 24} ${34 + h}h12`}
          stroke="var(--bark)"
          fill="none"
        />
      </svg>
      <Dimension at={[LEFT + w / 2 - 54, 0]} label="Width" value={view.areas.width_mm} save={stretch(0)} />
      <Dimension at={[0, 34 + h / 2 - 18]} label="Height" value={view.areas.height_mm} save={stretch(1)} />
    </div>
  );
}

// A dimension on the drawing; the whole outline is stretched to it.
function Dimension({
  at,
  label,
  value,
  save,
}: {
  at: readonly [number, number];
  label: string;
  value: number;
  save: (v: number) => Promise<unknown>;
}) {
  return (
    <div className="dim" style={{ left: at[0], top: at[1] }}>
      <Field
        label={label}
        unit="mm"
        value={num(value, 0)}
        save={(text) => save(Number(text.replace(/\s/g, "").replace(",", ".")))}
      />
    </div>
  );
}

function Sheets({ sheets }: { sheets: readonly Sheet[] }) {
  const seen = new Map<string, Sheet[]>();
  for (const s of sheets) {
    const key = `${s.material}@${s.thickness_mm}|${s.roll ? s.number : s.pieces.map((p) => JSON.stringify(p.outline_mm)).join()}`;
    seen.set(key, [...(seen.get(key) ?? []), s]);
  }
  return (
    <div className="sheets">
      {[...seen.values()].map((alike) => {
        const s = alike[0];
        if (!s) return null;
        const turned = s.roll;
        const [w, h] = turned ? [s.length_mm, s.width_mm] : [s.width_mm, s.length_mm];
        const scale = turned ? Math.min(84 / h, 280 / w) : 112 / Math.max(w, h);
        const at = (p: readonly number[]) =>
          turned ? [(p[1] ?? 0) * scale, (p[0] ?? 0) * scale] : [(p[0] ?? 0) * scale, (p[1] ?? 0) * scale];
        return (
          <figure key={`${s.material}@${s.thickness_mm}#${s.number}`}>
            <figcaption>
              <b>{alike.length > 1 ? `${alike.length} sheets alike` : s.roll ? "Roll" : `Sheet ${s.number}`}</b> ·{" "}
              {num(s.width_mm, 0)} × {num(s.length_mm, 0)} mm
              <br />
              <span className="small">{s.name}</span>
            </figcaption>
            <svg
              width={Math.min(w * scale, 420) + 2}
              height={h * scale + 2}
              viewBox={`-1 -1 ${w * scale + 2} ${h * scale + 2}`}
              preserveAspectRatio="xMinYMin"
              role="img"
              aria-label={`${s.name}: ${s.pieces.length} pieces`}
            >
              <Hatches />
              <rect width={w * scale} height={h * scale} fill="var(--card)" stroke="var(--bark)" />
              {s.pieces.map((p) => {
                const [a, b] = [at(p.outline_mm[0] ?? [0, 0]), at(p.outline_mm[2] ?? [0, 0])];
                return (
                  <g key={p.label}>
                    <path d={path(p.outline_mm.map(at))} fill={FILL[s.letter]} stroke="var(--ink)" strokeWidth={0.8} />
                    <Letter
                      x={((a[0] ?? 0) + (b[0] ?? 0)) / 2}
                      y={((a[1] ?? 0) + (b[1] ?? 0)) / 2}
                      letter={p.label}
                      r={9}
                    />
                  </g>
                );
              })}
            </svg>
          </figure>
        );
      })}
    </div>
  );
}

type Dialog = { edit: StageProps["edit"]; close: () => void };
const message = (error: unknown) => (error instanceof Error ? error.message : "Not kept.");
const FIRST = { vehicle: ["steel", 0.8], enclosure: ["plywood", 9], room: ["gypsum-board", 12.5] } as const;

export function NewSurface({
  edit,
  close,
  kind,
  done,
}: Dialog & { kind: Schemas["Job"]["kind"]; done: (id: number) => void }) {
  const shelf = useShelf();
  const [name, setName] = useState("");
  const [width, setWidth] = useState("");
  const [height, setHeight] = useState("");
  const [material, setMaterial] = useState<string>(FIRST[kind][0]);
  const [thickness, setThickness] = useState(String(FIRST[kind][1]));
  const [wrong, setWrong] = useState("");
  const substrates = (shelf.data?.materials ?? []).filter((m) => m.roles.includes("substrate"));
  const save = async () => {
    try {
      const made = await edit.together([
        edit.adding("surfaces", {
          name,
          outline_mm: [
            [0, 0],
            [width, 0],
            [width, height],
            [0, height],
          ],
          substrate: { material, thickness_mm: thickness },
        }),
        edit.adding("paths", { name, surface_id: "#0" }),
      ]);
      const id = made[0]?.["id"];
      if (typeof id === "number") done(id);
      close();
    } catch (error) {
      setWrong(message(error));
    }
  };
  return (
    <Modal title="A new surface" open onCancel={close} onOk={() => void save()} okText="Draw it">
      <div className="form">
        <Ask label="Name">
          <Input autoFocus value={name} placeholder="Sliding door" onChange={(e) => setName(e.target.value)} />
        </Ask>
        <div className="two">
          <Ask label="Width">
            <Input value={width} suffix="mm" onChange={(e) => setWidth(e.target.value)} />
          </Ask>
          <Ask label="Height">
            <Input value={height} suffix="mm" onChange={(e) => setHeight(e.target.value)} />
          </Ask>
          <Ask label="What it is made of">
            <Select
              value={material}
              options={substrates.map((m) => ({ value: m.id, label: m.name }))}
              onChange={(v) => {
                setMaterial(v);
                setThickness(String(substrates.find((m) => m.id === v)?.thicknesses_mm[0] ?? 1));
              }}
            />
          </Ask>
          <Ask label="Thickness">
            <Input value={thickness} suffix="mm" onChange={(e) => setThickness(e.target.value)} />
          </Ask>
        </div>
        {wrong ? <Note kind="danger">{wrong}</Note> : null}
      </div>
    </Modal>
  );
}

function NewZone({ row, edit, close }: Dialog & { row: Surface }) {
  const [kind, setKind] = useState<(typeof ZONES)[number]>("drain");
  const [values, setValues] = useState<Record<string, string>>({
    x_mm: "0",
    y_mm: "0",
    width_mm: "80",
    height_mm: "30",
    margin_mm: "",
  });
  const [shape, setShape] = useState("rectangle");
  const [wrong, setWrong] = useState("");
  const save = async () => {
    try {
      const { x_mm, y_mm, width_mm, height_mm } = values;
      const place =
        shape === "circle" ? { at_mm: [x_mm, y_mm], diameter_mm: width_mm } : { x_mm, y_mm, width_mm, height_mm };
      const zone = { kind, shape, ...place, margin_mm: values["margin_mm"] || null };
      await edit.operate("surfaces", row, [
        { op: "add", at: ["keep_clear"], item: { id: itemId(), ...zone }, after: null },
      ]);
      close();
    } catch (error) {
      setWrong(message(error));
    }
  };
  return (
    <Modal
      title={`Keep clear on the ${row.name.toLowerCase()}`}
      open
      onCancel={close}
      onOk={() => void save()}
      okText="Keep it clear"
    >
      <div className="form">
        <div className="two">
          <Ask label="What is there">
            <Select value={kind} options={ZONES.map((value) => ({ value, label: value }))} onChange={setKind} />
          </Ask>
          <Ask label="Shape">
            <Select
              value={shape}
              options={["rectangle", "circle"].map((value) => ({ value, label: value }))}
              onChange={setShape}
            />
          </Ask>
          {(shape === "circle"
            ? ([
                ["x_mm", "Centre from the left"],
                ["y_mm", "Centre from below"],
                ["width_mm", "Diameter"],
                ["margin_mm", "Margin (empty: by kind)"],
              ] as const)
            : ([
                ["x_mm", "From the left"],
                ["y_mm", "From below"],
                ["width_mm", "Width"],
                ["height_mm", "Height"],
                ["margin_mm", "Margin (empty: by kind)"],
              ] as const)
          ).map(([key, label]) => (
            <Ask key={key} label={label}>
              <Input
                value={values[key]}
                suffix="mm"
                onChange={(e) => setValues({ ...values, [key]: e.target.value })}
              />
            </Ask>
          ))}
        </div>
        {wrong ? <Note kind="danger">{wrong}</Note> : null}
      </div>
    </Modal>
  );
}

function Points({ row, edit, close }: Dialog & { row: Surface }) {
  const [text, setText] = useState(row.outline_mm.map((p) => p.join("; ")).join("\n"));
  const [wrong, setWrong] = useState("");
  const save = async () => {
    try {
      const outline_mm = text
        .split("\n")
        .filter((l) => l.trim())
        .map((l) => l.split(/[;\t]|\s+/).filter(Boolean));
      await edit.change("surfaces", row, { outline_mm });
      close();
    } catch (error) {
      setWrong(message(error));
    }
  };
  return (
    <Modal
      title={`Outline of the ${row.name.toLowerCase()}`}
      open
      onCancel={close}
      onOk={() => void save()}
      okText="Keep the outline"
    >
      <p className="small">One corner a line, in millimetres from the lower left: across; up.</p>
      <div className="form">
        <Input.TextArea value={text} aria-label="Corners" rows={8} onChange={(e) => setText(e.target.value)} />
        {wrong ? <Note kind="danger">{wrong}</Note> : null}
      </div>
    </Modal>
  );
}

function NewPiece({ edit, close }: Dialog) {
  const shelf = useShelf();
  const options = (shelf.data?.materials ?? [])
    .filter((m) => m.stock.form === "sheet" || m.stock.form === "roll")
    .map((m) => ({ value: m.id, label: m.name }));
  const [material, setMaterial] = useState("butyl-foil");
  const [values, setValues] = useState<Record<string, string>>({
    name: "",
    width_mm: "",
    height_mm: "",
    quantity: "1",
  });
  const [wrong, setWrong] = useState("");
  const save = async () => {
    try {
      await edit.create("pieces", [{ ...values, material, quantity: Number(values["quantity"]) }]);
      close();
    } catch (error) {
      setWrong(message(error));
    }
  };
  return (
    <Modal title="A piece beside those of the plan" open onCancel={close} onOk={() => void save()} okText="Add">
      <div className="form">
        <Ask label="Material">
          <Select value={material} options={options} onChange={setMaterial} />
        </Ask>
        <div className="two">
          {(
            [
              ["name", "Name", ""],
              ["quantity", "How many", ""],
              ["width_mm", "Width", "mm"],
              ["height_mm", "Height", "mm"],
            ] as const
          ).map(([key, label, unit]) => (
            <Ask key={key} label={label}>
              <Input
                value={values[key]}
                suffix={unit}
                onChange={(e) => setValues({ ...values, [key]: e.target.value })}
              />
            </Ask>
          ))}
        </div>
        {wrong ? <Note kind="danger">{wrong}</Note> : null}
      </div>
    </Modal>
  );
}
