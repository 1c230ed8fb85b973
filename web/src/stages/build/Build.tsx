// Build: the stack of a surface in section to scale, its curve against the noise, what it costs, what the trade says.
import { Button } from "antd";
import { useState } from "react";
import { useAddress } from "../../parts/address";
import { ThumbAction } from "../../parts/thumb";
import { itemId } from "../../api/client";
import { useStage } from "../../api/hooks";
import type { Operation, Step } from "../../api/operations";
import { Meter } from "../../parts/Meter";
import { NewSurface } from "../../parts/NewSurface";
import { Empty, Note, Said, State } from "../../parts/said";
import type { StageProps } from "../../parts/stage";
import { num } from "../../parts/words";
import { Working } from "../../parts/Working";
import { Curves } from "./Curves";
import { Section } from "./Section";
import { SHELF, ShelfStrip } from "./ShelfStrip";
import { SurfaceCard } from "./SurfaceCard";

export default function Build({ id, page, edit }: StageProps) {
  const doc = page.document;
  const address = useAddress();
  const surface = doc.surfaces.find((s) => s.id === address.number("surface")) ?? doc.surfaces[0];
  const alternatives = doc.alternatives.filter((a) => a.surface_id === surface?.id);
  const chosen =
    alternatives.find((a) => a.id === address.number("plan")) ?? alternatives.find((a) => a.chosen) ?? alternatives[0];
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
    if (fresh) address.go({ surface: surface.id, plan: Number(fresh), layer: null });
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
                onClick={() => address.go({ surface: s.id, plan: null, layer: null })}
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
                  onClick={() => address.go({ surface: surface.id, plan: a.id, layer: null })}
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
      {adding ? (
        <NewSurface
          edit={edit}
          kind={doc.job.kind}
          close={() => setAdding(false)}
          done={(n) => address.go({ surface: n, plan: null, layer: null })}
        />
      ) : null}
    </>
  );
}
