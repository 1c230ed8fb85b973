// Trace: sound flows through gates as wide as the energy they let through; beside it the plan, the tests, what was found, the desk.
import { GoTo } from "../../parts/GoTo";
import { ThumbAction } from "../../parts/thumb";
import { useAddress } from "../../parts/address";
import { keepPreviousData } from "@tanstack/react-query";
import { Button, Modal, Segmented, Select } from "antd";
import { useEffect, useState } from "react";
import { query } from "../../api/client";
import { useStage } from "../../api/hooks";
import { NewSurface } from "../../parts/NewSurface";
import { Empty, Note, Said, State } from "../../parts/said";
import { Size } from "../../parts/Size";
import type { StageProps } from "../../parts/stage";
import { Working } from "../../parts/Working";
import { Desk } from "./desk";
import { Found } from "./found";
import { Gain } from "./gain";
import { Gates, type Pulls } from "./gates";
import { Flanks } from "./flanks";
import { AddPath, EditPath, Templates } from "./paths";
import { Gains, Plan } from "./plan";
import { Tests } from "./tests";
import css from "./trace.module.css";

const SIDES = [
  { value: "plan", label: "Plan" },
  { value: "tests", label: "Tests" },
  { value: "found", label: "Found" },
  { value: "desk", label: "Desk" },
] as const;

export default function Trace({ id, page, edit }: StageProps) {
  const doc = page.document;
  const [pulls, setPulls] = useState<Pulls>({});
  const headline = doc.goals.find((g) => g.headline)?.condition_id;
  const address = useAddress();
  const asked = address.number("condition");
  const [gone, setGone] = useState(() => (address.get("gone") ?? "").split(",").map(Number).filter(Boolean));
  const thinkAway = (path: number, away: boolean) => {
    const next = away ? [...gone, path] : gone.filter((x) => x !== path);
    setGone(next);
    address.put({ gone: next.join(",") || null });
  };
  const seen = doc.conditions.some((c) => c.id === asked) && asked !== headline ? asked : null;
  const condition_id = seen ?? headline;
  const view = useStage(id, "trace", page.revision, {
    ...(gone.length ? { gone: gone.join(",") } : {}),
    ...(seen ? { condition_id: seen } : {}),
  });
  const side = address.oneOf(
    "side",
    SIDES.map((x) => x.value),
  );
  const [adding, setAdding] = useState<"path" | "usual" | "round" | null>(null);
  const [panel, setPanel] = useState<number | "new" | null>(null);
  const open = address.number("path");
  const setOpen = (path: number | null) => address.put({ path });
  const pulled = usePulled(id, page.revision, pulls, seen);
  const data = view.data;
  const active = Object.values(pulls).some((v) => v > 0);
  const shown = active ? (pulled.data?.pulled_dba ?? data?.total_dba) : data?.total_dba;
  const row = doc.paths.find((p) => p.id === open);
  const gain = data && !data.paths.length ? data.gain : null;
  const shownSide = side ?? (gain ? "desk" : "plan");
  return (
    <>
      <section className={shownSide === "plan" ? undefined : css.stays}>
        <State query={view}>
          {data ? (
            <>
              <Said sentence={data.sentence} detail={data.detail} />
              {data.paths.length ? (
                <Gates
                  view={data}
                  pulls={pulls}
                  pull={(p, db) => setPulls({ ...pulls, [p]: db })}
                  total={shown ?? null}
                  active={active}
                />
              ) : gain ? (
                <Gain gain={gain} />
              ) : (
                <Empty
                  title="No way in yet"
                  text="List every panel, leak and link the noise can take. The usual ways of such a job are ready to be ticked."
                >
                  <div className="acts">
                    <Button type="primary" size="large" onClick={() => setAdding("usual")}>
                      Usual ways in
                    </Button>
                    <Button size="large" onClick={() => setAdding("path")}>
                      Add the first path
                    </Button>
                  </div>
                </Empty>
              )}
              {data.paths
                .filter((p) => p.problem)
                .map((p) => (
                  <Note key={p.id} kind="warn">
                    <b>{p.name} has no figure.</b> {p.problem.charAt(0).toUpperCase() + p.problem.slice(1)}.
                  </Note>
                ))}
              <div className={`acts ${css.traceActs}`}>
                {headline && doc.conditions.length > 1 ? (
                  <Select
                    aria-label="Condition"
                    value={condition_id}
                    options={doc.conditions.map((c) => ({ value: c.id, label: c.name }))}
                    onChange={(c) => {
                      address.put({ condition: c === headline ? null : c });
                      setPulls({});
                    }}
                  />
                ) : null}
                {active ? <Button onClick={() => setPulls({})}>Open all gates again</Button> : null}
                <Working items={data.working} />
                {data.paths.length ? (
                  <span className="small">
                    Source: {data.source}, {data.condition}; {data.mismatch}.
                  </span>
                ) : null}
              </div>
            </>
          ) : null}
        </State>
      </section>
      <aside className={`sheet ${css.panel}`}>
        <Segmented block value={shownSide} onChange={(to) => address.put({ side: to })} options={[...SIDES]} />
        {seen ? (
          <Note>Another condition than the goal's: shares by its own spectrum and readings, without the tests.</Note>
        ) : null}
        {data && shownSide === "plan" ? <Plan id={id} edit={edit} view={data} /> : null}
        {data && shownSide === "tests" ? <Tests doc={doc} edit={edit} view={data} /> : null}
        {data && shownSide === "found" ? <Found doc={doc} edit={edit} view={data} /> : null}
        {data && shownSide === "desk" ? <Desk doc={doc} edit={edit} first={gain ? "door" : null} /> : null}
      </aside>
      {data && shownSide === "plan" ? (
        <Gains
          doc={doc}
          edit={edit}
          view={data}
          gone={gone}
          thinkAway={thinkAway}
          open={setOpen}
          addPath={() => setAdding("path")}
          addUsual={() => setAdding("usual")}
          {...(data?.junctions?.length ? { addRound: () => setAdding("round") } : {})}
        />
      ) : null}
      <ThumbAction>
        {data?.ranking?.wishes.length && !data.ranking.sent ? (
          <Button type="primary" onClick={() => void edit.post("trace-plan", {}).catch(edit.say)}>
            Send the plan to Build
          </Button>
        ) : data?.paths.length || gain ? (
          <GoTo to={`/jobs/${id}/build`} type="primary">
            Go to Build
          </GoTo>
        ) : (
          <Button type="primary" onClick={() => setAdding("usual")}>
            List the usual ways in
          </Button>
        )}
      </ThumbAction>
      {adding === "path" ? (
        <AddPath doc={doc} edit={edit} close={() => setAdding(null)} panel={() => setPanel("new")} />
      ) : null}
      {panel === "new" ? (
        <NewSurface doc={doc} edit={edit} close={() => setPanel(null)} done={() => undefined} />
      ) : panel !== null ? (
        <Size id={id} page={page} edit={edit} surface_id={panel} close={() => setPanel(null)} />
      ) : null}
      {adding === "round" ? (
        <Flanks doc={doc} edit={edit} close={() => setAdding(null)} junctions={data?.junctions ?? []} />
      ) : null}
      {adding === "usual" ? <Templates doc={doc} edit={edit} close={() => setAdding(null)} /> : null}
      <Modal title={row?.name} open={Boolean(row)} footer={null} onCancel={() => setOpen(null)}>
        {row ? <EditPath row={row} doc={doc} edit={edit} close={() => setOpen(null)} size={setPanel} /> : null}
      </Modal>
    </>
  );
}

function usePulled(id: number, revision: number, pulls: Pulls, seen: number | null) {
  const pull = Object.entries(pulls)
    .filter(([, v]) => v > 0)
    .map(([k, v]) => `${k}:${v.toFixed(1)}`)
    .join(",");
  const [settled, setSettled] = useState(pull);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(pull), 50);
    return () => clearTimeout(timer);
  }, [pull]);
  return query.useQuery(
    "get",
    "/api/jobs/{job_id}/trace",
    {
      params: { path: { job_id: id }, query: { pull: settled, ...(seen ? { condition_id: seen } : {}) } },
      revision,
    },
    { enabled: settled !== "", placeholderData: keepPreviousData },
  );
}
