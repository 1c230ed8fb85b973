// Cut: the surface to scale with what stays clear and its pieces; sheets and rolls filled; what to buy.
import { useWidth } from "../../charts/Chart";
import { Button } from "antd";
import { useState } from "react";
import { useAddress } from "../../parts/address";
import { ThumbAction } from "../../parts/thumb";
import { api, type Schemas } from "../../api/client";
import { useShelf, useStage, useWork } from "../../api/hooks";
import { NewSurface } from "../../parts/NewSurface";
import { Empty, Note, Said, State } from "../../parts/said";
import type { StageProps } from "../../parts/stage";
import { money, num, percent } from "../../parts/words";
import { Working } from "../../parts/Working";
import css from "./cut.module.css";
import { NewGood, NewPiece, NewZone, Points } from "./dialogs";
import { SurfaceDrawing } from "./drawing";
import { Rests } from "./Rests";
import { Sheets } from "./Sheets";

const BUY = "to-buy";
// the facts beside the drawing, px, where there is room for both
const [FACTS, SIDE_BY_SIDE] = [286, 610];

export default function Cut({ id, page, edit }: StageProps) {
  const doc = page.document;
  const address = useAddress();
  const wanted = address.number("surface") || doc.surfaces[0]?.id;
  const view = useStage(id, "cut", page.revision, wanted ? { surface_id: wanted } : {});
  const layer = (address.number("layer") ?? 1) - 1;
  const [top, room] = useWidth<HTMLDivElement>(874);
  const [dialog, setDialog] = useState<"zone" | "points" | "surface" | "piece" | "good" | null>(null);
  const data = view.data;
  const shelf = useShelf();
  const named = (m: string) => shelf.data?.materials.find((x) => x.material.id === m)?.material.name ?? m;
  const work = useWork(id, data?.work ?? []);
  const row = doc.surfaces.find((s) => s.id === data?.surface?.id);
  const shown = data?.surface?.layers[Math.min(layer, data.surface.layers.length - 1)];
  const onPaper = `?layer=${Math.max(0, shown ? (data?.surface?.layers.indexOf(shown) ?? 0) : 0)}`;
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
                onClick={() => address.go({ surface: s.id, layer: null })}
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
            <div className={css.cutTop} ref={top} data-roomy={room > SIDE_BY_SIDE || undefined}>
              <SurfaceDrawing
                view={data.surface}
                row={row}
                layer={shown}
                edit={edit}
                room={room > SIDE_BY_SIDE ? room - FACTS : room}
              />
              <div className={css.cutFacts}>
                <div className="chips">
                  {data.surface.layers.map((l, i) => (
                    <button
                      key={l.material + String(i)}
                      className="chip"
                      aria-pressed={l === shown}
                      onClick={() => address.put({ layer: i + 1 })}
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
                {shown ? (
                  <p className="small">
                    At 1:1:{" "}
                    {(["pdf", "svg", "dxf"] as const).map((kind) => (
                      <a
                        key={kind}
                        className={css.out}
                        href={`/api/jobs/${id}/surfaces/${row.id}/pieces.${kind}${kind === "pdf" ? onPaper : ""}`}
                        download
                      >
                        {{ pdf: "this layer on paper", svg: "SVG", dxf: "DXF" }[kind]}
                      </a>
                    ))}
                  </p>
                ) : null}
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
          <Sheets sheets={ordered(data?.sheets ?? [], shown)} />
        </State>
      </section>
      <aside className="sheet">
        <h2 id={BUY}>To buy for the whole job</h2>
        {data?.older ? (
          <Note kind="warn">From before the last change; the new list is being laid out.</Note>
        ) : data?.work.length ? (
          <Note kind="info">Not whole yet: pieces are still being laid out.</Note>
        ) : null}
        {data?.buy.length ? (
          <div className={`rows ${css.buy}`} data-testid="to-buy">
            {data.buy.map((b) => (
              <div key={`${b.material}@${b.thickness_mm ?? ""}`}>
                <span>{b.name}</span>
                <span>
                  <b className="num">
                    {b.unit.includes("roll") && b.needed.includes("m of")
                      ? b.unit
                      : `${b.units} ${b.units > 1 ? many(b.unit) : b.unit}`}
                  </b>
                  {b.spare ? (
                    <span className="small"> {b.unit.startsWith("pack") ? `(${b.needed})` : `${b.spare} spare`}</span>
                  ) : null}
                  <br />
                  <span className="small num">
                    {b.money === null ? "no price known" : money(b.money, data.currency)}
                  </span>
                </span>
              </div>
            ))}
            <div className={css.sum}>
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
        <Rests named={named} offered={data?.offcuts ?? []} taken={doc.offcuts_taken ?? []} edit={edit} />
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
          {(doc.goods ?? []).map((g) => (
            <div key={`g${g.id}`}>
              <span>
                {named(g.material)} <span className="small">{num(g.amount)}</span>
              </span>
              <button
                className="key"
                aria-label={`Remove goods ${named(g.material)}`}
                onClick={() => void edit.remove("goods", g)}
              >
                remove
              </button>
            </div>
          ))}
        </div>
        <div className="acts">
          <Button onClick={() => setDialog("piece")}>Add a piece</Button>
          <Button onClick={() => setDialog("good")}>Add goods</Button>
          <Working items={data?.working} />
        </div>
      </aside>
      <ThumbAction>
        {row ? (
          <Button type="primary" onClick={() => document.getElementById(BUY)?.scrollIntoView({ block: "center" })}>
            What to buy
          </Button>
        ) : (
          <Button type="primary" onClick={() => setDialog("surface")}>
            Draw a surface
          </Button>
        )}
      </ThumbAction>
      {dialog === "surface" ? (
        <NewSurface
          edit={edit}
          close={() => setDialog(null)}
          kind={doc.job.kind}
          done={(n) => address.go({ surface: n, layer: null })}
        />
      ) : null}
      {dialog === "zone" && row ? <NewZone row={row} edit={edit} close={() => setDialog(null)} /> : null}
      {dialog === "points" && row ? <Points row={row} edit={edit} close={() => setDialog(null)} /> : null}
      {dialog === "good" ? <NewGood edit={edit} close={() => setDialog(null)} /> : null}
      {dialog === "piece" ? <NewPiece edit={edit} close={() => setDialog(null)} /> : null}
    </>
  );
}

// "sheets", "packs of 8".
const many = (unit: string) => unit.replace(/^\w+/, "$&s");

// Those of the layer that is shown first.
function ordered(sheets: readonly Schemas["SheetView"][], shown: Schemas["LayerPieces"] | undefined) {
  const own = (s: Schemas["SheetView"]) =>
    Number(s.material === shown?.material && s.thickness_mm === shown.thickness_mm);
  return [...sheets].sort((a, b) => own(b) - own(a));
}

// Layouts that go on, in one line that keeps its place: the best so far can be taken.
function UnderWay({ work, wanted }: { work: Schemas["WorkState"][]; wanted: number }) {
  const some = work.filter((w) => w.found);
  const stop = () =>
    some.forEach((w) => void api.DELETE("/api/work/{work_id}", { params: { path: { work_id: w.id } } }));
  const share = work.reduce((sum, w) => sum + w.share, 0) / Math.max(work.length, 1);
  return (
    <div className={`acts ${css.underWay}`} role="status">
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
