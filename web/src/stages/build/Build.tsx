// Build: a surface in section to scale, its curve against the noise, what it costs against what there is, what the trade says.
import { Button } from "antd";
import { useMemo, useState } from "react";
import { itemId, type Schemas } from "../../api/client";
import { useShelf, useStage, type Trying } from "../../api/hooks";
import { BLANK, type Operation, type Step } from "../../api/operations";
import { useAddress } from "../../parts/address";
import { Meter } from "../../parts/Meter";
import { NewSurface } from "../../parts/NewSurface";
import { Empty, Note, Said, State } from "../../parts/said";
import { Size } from "../../parts/Size";
import type { StageProps } from "../../parts/stage";
import { useSteady } from "../../parts/steady";
import { Surfaces } from "../../parts/Surfaces";
import { Unfold } from "../../parts/Unfold";
import { ThumbAction } from "../../parts/thumb";
import { num } from "../../parts/words";
import { Working } from "../../parts/Working";
import { Alternatives } from "./Alternatives";
import css from "./build.module.css";
import { Offering } from "../../papers/Offering";
import { Compare } from "./Compare";
import { CoverageSchool } from "./CoverageSchool";
import { Builds } from "./builds/Builds";
import { Curves } from "./Curves";
import { Offer } from "./Offer";
import { Offers } from "./Offers";
import { Hear } from "./plan/Hear";
import { Plans } from "./plan/Plans";
import { Rules } from "./Rules";
import { Schools } from "./Schools";
import { Section } from "./Section";
import { SHELF, ShelfStrip } from "./ShelfStrip";
import { SurfaceCard } from "./SurfaceCard";
import { Ties } from "./Ties";
import { ZoneChips } from "./Zones";
import { amount, useUnits } from "../../parts/units";

const VIEWS = ["section", "table", "coverage", "schools"] as const;
const NO_TIES: NonNullable<Schemas["BuildView"]["ties"]> = [];
const NONE_ALIKE: readonly number[] = [];
const NOTHING_SAID: Schemas["BuildView"]["rules"] = [];
const NAMES: Record<(typeof VIEWS)[number], string> = {
  section: "Section",
  table: "Side by side",
  coverage: "How much to cover",
  schools: "Where fitters disagree",
};

export default function Build(props: StageProps) {
  const view = useAddress().get("view");
  if (view === "offer") return <Offering {...props} />;
  if (view === "builds") return <Builds {...props} />;
  return view === "plan" ? <Plans {...props} /> : <OneSurface {...props} />;
}

function OneSurface({ id, page, edit }: StageProps) {
  const units = useUnits();
  const doc = page.document;
  const address = useAddress();
  const surface = doc.surfaces.find((s) => s.id === address.number("surface")) ?? doc.surfaces[0];
  const named = doc.alternatives.find((a) => a.id === address.number("plan") && a.surface_id === surface?.id);
  const zones = surface?.zones ?? [];
  const zone = named?.zone ?? zones.find((z) => z.id === address.get("zone"))?.id ?? "";
  const own = surface?.id;
  const alternatives = useMemo(
    () => doc.alternatives.filter((a) => a.surface_id === own && (a.zone ?? "") === zone),
    [doc.alternatives, own, zone],
  );
  const chosen = named ?? alternatives.find((a) => a.chosen) ?? alternatives[0];
  const query = {
    ...(surface ? { surface_id: surface.id } : {}),
    ...(chosen ? { alternative_id: chosen.id } : {}),
    zone,
  };
  const [trying, setTrying] = useState<Trying | null>(null);
  const view = useStage(id, "build", page.revision, query, trying);
  const [adding, setAdding] = useState(false);
  const [sizing, setSizing] = useState(false);
  const data = view.data;
  const cards = useShelf().data?.materials;
  const card = (id: string) => cards?.find((m) => m.material.id === id);
  const seen = address.oneOf("view", VIEWS) ?? "section";
  // the trade is not asked while a hand drags: what it said before stands until then
  const [said, setSaid] = useState(NOTHING_SAID);
  if (data?.asked && data.rules !== said) setSaid(data.rules);
  const rules = data?.asked ? data.rules : said;

  // operations on the layers of the plan; the first layer begins one
  const change = (...operations: Operation[]) =>
    !chosen
      ? Promise.resolve()
      : trying?.step
        ? edit.turn("alternatives", chosen, operations)
        : edit.tryOperate("alternatives", chosen, ...operations);
  // what a hand that still drags would change, seen and not kept; and what one would change next that drags, or lies ready
  const attempt = useSteady((operation: Operation | null, ...next: Operation[]) => {
    const step = (one: Operation): Step | null =>
      chosen
        ? { ...BLANK, collection: "alternatives", row: chosen.id, version: chosen.version, operations: [one] }
        : null;
    const now = operation && step(operation);
    const ahead = next.flatMap((one) => step(one) ?? []);
    setTrying(now || ahead.length ? { step: now, next: ahead } : null);
  });
  const begin = (layers: unknown[], takes_out: string[] = []) =>
    surface
      ? edit
          .create("alternatives", [{ surface_id: surface.id, zone, name: "Plan A", layers, takes_out }])
          .catch(edit.say)
      : Promise.resolve();
  const add = (material: string, thickness_mm: number, after: string | null = null) => {
    const item = { id: itemId(), material, thickness_mm, coverage: 1 };
    // a board laid over something soft is screwed through it until somebody says better
    const under = chosen?.layers.at(-1);
    const leaf = card(material)?.acts === "plate" && under && card(under.material)?.acts === "soft" && !under.tie;
    const hard = { kind: "point-fixings", spacing_mm: 400 };
    const tied: Operation[] =
      leaf && after === null ? [{ op: "set", at: ["layers", under.id ?? "", "tie"], value: hard }] : [];
    if (chosen) void change({ op: "add", at: ["layers"], item, after }, ...tied);
    else void begin([item]);
  };
  const changed = useSteady(change);
  const startSizing = useSteady(() => setSizing(true));
  const shelved = useSteady((material: string, mm: number) => add(material, mm));
  const dropped = useSteady(add);
  // what stands stays unless it is taken out by hand
  const standing = useSteady((item: string, out: boolean) => {
    if (!chosen) void begin([], out ? [item] : []);
    else
      void change(
        out ? { op: "add", at: ["takes_out"], item, after: null } : { op: "remove", at: ["takes_out"], id: item },
      );
  });

  return (
    <>
      <section>
        <State query={view}>
          <Said sentence={data?.sentence ?? ""} detail={data?.detail} />
          <Surfaces
            surfaces={doc.surfaces}
            chosen={surface?.id}
            pick={(n) => address.go({ surface: n, plan: null, zone: null, layer: null })}
            add={() => setAdding(true)}
          >
            {doc.paths.length ? (
              <button className="chip proposed" onClick={() => address.go({ view: "plan" })}>
                Find a plan for the whole job
              </button>
            ) : null}
            <button className="chip" onClick={() => address.go({ view: "builds" })}>
              Built things
            </button>
          </Surfaces>
          {surface && data?.substrate ? (
            <>
              <ZoneChips view={data} surface={surface} />
              <div className={css.views} role="tablist" aria-label="Looked at">
                {VIEWS.map((v) => (
                  <button
                    key={v}
                    role="tab"
                    aria-selected={v === seen}
                    onClick={() => address.put({ view: v === "section" ? null : v })}
                  >
                    {NAMES[v]}
                  </button>
                ))}
              </div>
              {seen === "section" ? (
                <>
                  <Section
                    id={id}
                    view={data}
                    alternative={chosen}
                    surface={surface}
                    change={changed}
                    attempt={attempt}
                    drop={dropped}
                    standing={standing}
                  />
                  <Ties ties={data.asked ? (data.ties ?? NO_TIES) : NO_TIES} change={changed} />
                  <ShelfStrip add={shelved} />
                  {data.curves ? (
                    <Curves view={data} name={surface.name} />
                  ) : data.problem ? (
                    <Note kind="warn">{data.problem}</Note>
                  ) : null}
                </>
              ) : seen === "table" ? (
                <Compare
                  id={id}
                  revision={page.revision}
                  surface={surface.id}
                  zone={zone}
                  pick={(plan) => address.go({ plan, view: null, layer: null })}
                />
              ) : seen === "coverage" ? (
                <CoverageSchool
                  id={id}
                  revision={page.revision}
                  surface={surface.id}
                  plan={chosen?.id}
                  change={change}
                />
              ) : (
                <Schools id={id} revision={page.revision} surface={surface.id} zone={zone} edit={edit} />
              )}
            </>
          ) : (
            <Empty
              title="Nothing to build on"
              text={
                "Add the panel that carries most of the noise; its own skin is the first layer. " +
                "A box or wall that is still to be built begins with its boards."
              }
            >
              <Button type="primary" size="large" onClick={() => setAdding(true)}>
                Add a surface
              </Button>
            </Empty>
          )}
        </State>
      </section>
      <aside className="sheet">
        <Offers id={id} revision={page.revision} edit={edit} />
        {surface ? (
          <>
            <Alternatives
              surface={surface}
              surfaces={doc.surfaces}
              alike={data?.alike ?? NONE_ALIKE}
              zone={zone}
              alternatives={alternatives}
              chosen={chosen}
              edit={edit}
            />
            {data?.was_done ? <p className="small">{data.was_done}</p> : null}
            {data?.wanted ? <Note kind={data.wanted.endsWith("reached.") ? "good" : "info"}>{data.wanted}</Note> : null}
            <h2>What it costs</h2>
            {data?.meters.map((m) => (
              <Meter key={m.label} {...m} />
            ))}
            {data?.offer ? <Offer offer={data.offer} open={() => address.go({ view: "offer" })} /> : null}
            {data?.goods.length ? (
              <details>
                <summary>Goods that go with it ({data.goods.length})</summary>
                <div className="rows">
                  {data.goods.map((g) => (
                    <div key={g.material}>
                      <span>
                        {g.name} <span className="small">{g.why}</span>
                      </span>
                      <span className="num">{num(g.amount, g.amount % 1 ? 1 : 0)}</span>
                    </div>
                  ))}
                </div>
              </details>
            ) : null}
          </>
        ) : null}
        {surface && chosen && data?.curves ? (
          <Unfold summary="Hear it, before and after">
            <Hear id={id} revision={page.revision} of={{ alternative_id: chosen.id }} readings={doc.readings} />
          </Unfold>
        ) : null}
        <h2>What the trade says</h2>
        <Rules rules={rules} change={changed} />
        {data?.heat && surface ? (
          <details>
            <summary>Heat and moisture, as an outer skin in winter: {data.heat.sentence}</summary>
            <div className="rows">
              {data.heat.figures.map((f) => (
                <div key={f.label}>
                  <span>{f.label}</span>
                  <span className="num">{f.value == null ? "unknown" : amount(f.value, f.unit, units)}</span>
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
        {surface ? <SurfaceCard surface={surface} edit={edit} size={startSizing} /> : null}
      </aside>
      <ThumbAction>
        {chosen && !chosen.chosen ? (
          <Button type="primary" onClick={() => void edit.tryChange("alternatives", chosen, { chosen: true })}>
            Choose “{chosen.name}”
          </Button>
        ) : surface ? (
          <Button type="primary" onClick={() => document.getElementById(SHELF)?.scrollIntoView({ block: "start" })}>
            Add a layer
          </Button>
        ) : (
          <Button type="primary" onClick={() => setAdding(true)}>
            Add a surface
          </Button>
        )}
      </ThumbAction>
      {sizing && surface ? (
        <Size id={id} page={page} edit={edit} surface_id={surface.id} close={() => setSizing(false)} />
      ) : null}
      {adding ? (
        <NewSurface
          edit={edit}
          doc={doc}
          close={() => setAdding(false)}
          done={(n) => address.go({ surface: n, plan: null, zone: null, layer: null })}
        />
      ) : null}
    </>
  );
}
