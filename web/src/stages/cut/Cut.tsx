// Cut: the surface to scale with what stays clear and its pieces; sheets and rolls filled; what to buy.
import { useWidth } from "../../charts/Chart";
import { Button } from "antd";
import { useMemo, useState } from "react";
import { useAddress } from "../../parts/address";
import { ThumbAction } from "../../parts/thumb";
import { api, ask, type Schemas } from "../../api/client";
import { useShelf, useStage, useWork } from "../../api/hooks";
import { addSurface, NewSurface } from "../../parts/NewSurface";
import { useOnce } from "../../parts/once";
import { Empty, Note, Said, State } from "../../parts/said";
import type { StageProps } from "../../parts/stage";
import { Surfaces } from "../../parts/Surfaces";
import { percent } from "../../parts/words";
import css from "./cut.module.css";
import { Bench } from "./Bench";
import { NewGood, NewPiece, Points } from "./dialogs";
import { Apart } from "./Apart";
import { NewZone } from "./NewZone";
import { Access, KeepTemplate } from "./keeping";
import { SurfaceDrawing } from "../../parts/drawing/SurfaceDrawing";
import { BUY, Shopping } from "./Shopping";
import { Zones } from "./Zones";
import { Sheets } from "./Sheets";
import { amount, mass, useUnits } from "../../parts/units";

// the facts beside the drawing, px, where there is room for both
const [FACTS, SIDE_BY_SIDE] = [286, 610];

export default function Cut({ id, page, edit }: StageProps) {
  const doc = page.document;
  const address = useAddress();
  const wanted = address.number("surface") || doc.surfaces[0]?.id;
  const view = useStage(id, "cut", page.revision, wanted ? { surface_id: wanted } : {});
  const [top, room] = useWidth<HTMLDivElement>(874);
  const [dialog, setDialog] = useState<"zone" | "points" | "surface" | "piece" | "good" | "access" | "keep" | null>(
    null,
  );
  const [pointed, light] = useState("");
  const data = view.data;
  const shelf = useShelf();
  const units = useUnits();
  const named = (m: string) => shelf.data?.materials.find((x) => x.material.id === m)?.material.name ?? m;
  const work = useWork(id, data?.work ?? []);
  const row = doc.surfaces.find((s) => s.id === data?.surface?.id);
  const asked_for = address.get("piece") ?? "";
  const lit = pointed || asked_for;
  const layers = data?.surface?.layers ?? [];
  const all = address.get("layer") === "all";
  const apart = address.get("layer") === "apart";
  // the layer of the address, else that of the piece it names; what a pointer goes over changes nothing
  const ofPiece = layers.findIndex((l) => l.pieces.some((p) => p.label === asked_for));
  const asked = (address.number("layer") ?? 1 + Math.max(0, ofPiece)) - 1;
  const shown = layers[Math.min(all || apart ? 0 : asked, layers.length - 1)];
  const onPaper = `?layer=${Math.max(0, shown ? layers.indexOf(shown) : 0)}`;
  const sheets = useMemo(() => ordered(data?.sheets ?? [], shown), [data?.sheets, shown]);
  const at = address.number("sheet");
  // what is ticked is locked too: a piece that is another one since is not taken for cut
  const locked = new Set(sheets.flatMap((s) => s.pieces.filter((p) => p.locked).map((p) => p.label)));
  const done = new Set((doc.job.cut_pieces ?? []).filter((label) => locked.has(label)));
  const [adding, once] = useOnce();
  const twin = async () => {
    if (!row) return;
    const found = await ask(
      api.GET("/api/jobs/{job_id}/surfaces/{surface_id}/twin", {
        params: { path: { job_id: id, surface_id: row.id }, query: { mirror: true } },
      }),
    );
    const surface = { ...found.surface, name: `${row.name}, other side` };
    const layers = found.layers?.length ? found.layers : null;
    address.go({ surface: await addSurface(edit, surface, layers, {}, found.fixings), layer: null });
  };
  const layStrips = (alternative: number) => {
    const row = doc.alternatives.find((a) => a.id === alternative);
    if (row) void edit.tryChange("alternatives", row, { layers: row.layers.map((l) => ({ ...l, strips: true })) });
  };
  const large = at !== null && sheets.length > 0;
  return (
    <>
      <section>
        <State query={view}>
          <Said sentence={data?.sentence ?? ""} detail={data?.detail} />
          {data?.work.length ? <UnderWay work={work} wanted={data.work.length} /> : null}
          {data?.let_go.length ? (
            <Note kind="warn">
              Laid by hand before, no longer lying well, laid anew: {data.let_go.slice(0, 12).join(", ")}.
            </Note>
          ) : null}
          {(data?.left_bare ?? []).map((l) => (
            <Note key={`${l.surface_id} ${l.alternative_id}`} kind="info">
              {l.sentence}{" "}
              <Button size="small" onClick={() => layStrips(l.alternative_id)}>
                Lay it too
              </Button>
            </Note>
          ))}
          {large ? (
            <Bench
              id={id}
              page={page}
              edit={edit}
              sheets={sheets}
              at={Math.max(1, Math.min(at, sheets.length)) - 1}
              go={(n) => address.put({ sheet: n === null ? null : n + 1 })}
              lit={lit}
              light={light}
              done={done}
              letGo={data?.let_go ?? []}
            />
          ) : (
            <>
              <Surfaces
                surfaces={doc.surfaces}
                chosen={row?.id}
                pick={(n) => address.go({ surface: n, layer: null })}
                add={() => setDialog("surface")}
                counted
              />
              {data?.surface && row ? (
                <div className={css.cutTop} ref={top} data-roomy={room > SIDE_BY_SIDE || undefined}>
                  {apart && layers.length ? (
                    <Apart
                      view={data.surface}
                      room={room > SIDE_BY_SIDE ? room - FACTS : room}
                      lit={lit}
                      light={light}
                      open={(layer) => address.put({ layer })}
                    />
                  ) : (
                    <SurfaceDrawing
                      view={data.surface}
                      row={row}
                      layer={shown}
                      edit={edit}
                      room={room > SIDE_BY_SIDE ? room - FACTS : room}
                      lit={lit}
                      light={light}
                      all={all}
                    />
                  )}
                  <div className={css.cutFacts}>
                    <div className="chips">
                      {layers.map((l, i) => (
                        <button
                          key={l.material + String(i)}
                          className="chip"
                          aria-pressed={l === shown && !all && !apart}
                          onClick={() => address.put({ layer: i + 1 })}
                        >
                          <b>{l.letter}</b> {l.name}
                        </button>
                      ))}
                      {layers.length > 1 ? (
                        <button className="chip" aria-pressed={all} onClick={() => address.put({ layer: "all" })}>
                          all of them, one on another
                        </button>
                      ) : null}
                      {layers.length ? (
                        <button className="chip" aria-pressed={apart} onClick={() => address.put({ layer: "apart" })}>
                          layers apart
                        </button>
                      ) : null}
                    </div>
                    {shown && !all && !apart ? (
                      <p>
                        <b>Covers {percent(shown.reached)}</b>
                        <br />
                        <span className="small">
                          of {amount(data.surface.areas.treatable_m2, "m²", units, 2)} treatable
                          {Math.abs(shown.reached - shown.wanted) > 0.005
                            ? `; ${percent(shown.wanted)} wanted, its pieces come to this`
                            : ""}
                        </span>
                        <br />
                        <b>{mass(shown.kg, units)}</b>{" "}
                        <span className="small">on {row.count > 1 ? `all ${row.count}` : "it"}</span>
                        {shown.strips ? (
                          <>
                            <br />
                            <span className="small">In strips through the opening, numbered as they go in.</span>
                          </>
                        ) : null}
                      </p>
                    ) : layers.length ? null : (
                      <p className="small">Choose a stack in Build, then its pieces are laid here.</p>
                    )}
                    {row.made_from ? <p className="small">From {row.made_from}.</p> : null}
                    <div className="acts">
                      <Button onClick={() => setDialog("zone")}>Keep clear …</Button>
                      <Button onClick={() => setDialog("access")}>
                        {row.opening ? "Through an opening" : "How it is reached …"}
                      </Button>
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
                    {shown ? (
                      <label className="tickline">
                        <input
                          type="checkbox"
                          checked={(doc.job.cut_across ?? []).includes(shown.material)}
                          onChange={(e) =>
                            void edit.tryOperate(
                              "jobs",
                              doc.job,
                              e.target.checked
                                ? { op: "add", at: ["cut_across"], item: shown.material, after: null }
                                : { op: "remove", at: ["cut_across"], id: shown.material },
                            )
                          }
                        />
                        <span>Knife and rule: cut right across the sheet only</span>
                      </label>
                    ) : null}
                    <Zones row={row} edit={edit} />
                    <div className="acts">
                      <Button size="small" disabled={adding} onClick={() => void once(() => twin().catch(edit.say))}>
                        Add the other side, mirrored
                      </Button>
                      <Button size="small" onClick={() => setDialog("keep")}>
                        Keep as a template
                      </Button>
                    </div>
                  </div>
                </div>
              ) : sheets.length ? null : (
                <Empty
                  title="No surface drawn"
                  text="A panel, a wall, a lid: width times height is enough, corners can follow."
                >
                  <Button type="primary" size="large" onClick={() => setDialog("surface")}>
                    Draw the first surface
                  </Button>
                </Empty>
              )}
              <Sheets sheets={sheets} lit={lit} light={light} open={(n) => address.go({ sheet: n + 1 })} />
            </>
          )}
        </State>
      </section>
      <Shopping id={id} page={page} edit={edit} data={data} named={named} ask={setDialog} />
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
          doc={doc}
          done={(n) => address.go({ surface: n, layer: null })}
        />
      ) : null}
      {dialog === "zone" && row ? <NewZone row={row} edit={edit} close={() => setDialog(null)} /> : null}
      {dialog === "points" && row ? <Points row={row} edit={edit} close={() => setDialog(null)} /> : null}
      {dialog === "access" && row ? <Access row={row} edit={edit} close={() => setDialog(null)} /> : null}
      {dialog === "keep" && row ? (
        <KeepTemplate
          row={row}
          layers={chosenLayers(doc, row.id)}
          fixings={(doc.fixings ?? []).filter((f) => f.surface_id === row.id)}
          close={() => setDialog(null)}
        />
      ) : null}
      {dialog === "good" ? <NewGood edit={edit} close={() => setDialog(null)} /> : null}
      {dialog === "piece" ? <NewPiece edit={edit} close={() => setDialog(null)} /> : null}
    </>
  );
}

// The layers chosen for a surface, to be kept with its outline.
const chosenLayers = (doc: StageProps["page"]["document"], surface: number) =>
  doc.alternatives.find((a) => a.surface_id === surface && !a.zone && a.chosen)?.layers ?? [];

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
