// What is built beside the surfaces: absorbers of a room, remedies of a window; drawn from the parts that are cut.
import { Button } from "antd";
import type { Schemas } from "../../../api/client";
import { query } from "../../../api/client";
import { Ringing } from "../../../charts/Ringing";
import { useAddress } from "../../../parts/address";
import { Meter } from "../../../parts/Meter";
import { Empty, Note, Said } from "../../../parts/said";
import type { StageProps } from "../../../parts/stage";
import { amount, useUnits } from "../../../parts/units";
import { Working } from "../../../parts/Working";
import { num, signed } from "../../../parts/words";
import { AbsorberForm, WindowForm } from "./forms";
import { BuildDrawing } from "./BuildDrawing";
import { remedyWords, type Card, type Change } from "./kinds";
import css from "./builds.module.css";

const FIRST: Record<"absorbers" | "window", { name: string; given: Record<string, unknown> }> = {
  absorbers: {
    name: "Absorbers",
    given: {
      kind: "absorbers",
      room_mm: [4200, 3100, 2500],
      surfaces: { floor: "wood", ceiling: "gypsum", walls: "gypsum" },
      use: "office",
      frame: { size_mm: [1200, 600], depth_mm: 50, gap_mm: 50, fill: "stone-wool" },
    },
  },
  window: {
    name: "Window",
    given: {
      kind: "window",
      size_mm: [1230, 1480],
      stands: { panes: [["window-glass@4"]], seal: "worn" },
      remedies: ["seal"],
    },
  },
};

export function Builds({ id, page, edit }: StageProps) {
  const address = useAddress();
  const units = useUnits();
  const asked = query.useQuery(
    "get",
    "/api/jobs/{job_id}/builds-view",
    { params: { path: { job_id: id } }, revision: page.revision },
    { placeholderData: (before) => before },
  );
  const view = asked.data as Schemas["BuildsView"] | undefined;
  const cards = view?.cards ?? [];
  const card = cards.find((c) => c.id === address.number("build")) ?? cards.at(-1);
  const row = page.document.builds.find((b) => b.id === card?.id);
  const add = (kind: keyof typeof FIRST) =>
    void edit
      .create("builds", [FIRST[kind]])
      .then(() => address.put({ build: null }))
      .catch(edit.say);
  // field by field, so that what somebody else changes of it stays
  const change: Change = (values, within = []) =>
    row
      ? edit.operate(
          "builds",
          row,
          Object.entries(values).map(([key, value]) => ({ op: "set", at: ["given", ...within, key], value })),
        )
      : Promise.resolve();
  return (
    <>
      <section>
        <Said sentence={card?.sentence ?? view?.sentence ?? ""} detail={card ? view?.sentence : ""} />
        <div className="chips">
          <button className="chip" onClick={() => address.go({ view: null, build: null })}>
            ← the surfaces
          </button>
          {cards.map((c) => (
            <button
              key={c.id}
              className="chip"
              aria-pressed={c.id === card?.id}
              onClick={() => address.put({ build: c.id })}
            >
              {c.name}
            </button>
          ))}
          <button className="chip proposed" onClick={() => add("absorbers")}>
            + absorbers of a room
          </button>
          <button className="chip proposed" onClick={() => add("window")}>
            + a window or door
          </button>
        </div>
        {card ? (
          <Pictures card={card} />
        ) : view ? (
          <Empty
            title="Nothing is built yet"
            text="A room that rings too long, or a window that lets too much through."
          >
            <Button type="primary" size="large" onClick={() => add("absorbers")}>
              Hang absorbers
            </Button>
          </Empty>
        ) : null}
        {card?.built?.notes.map((n) => (
          <Note key={n} kind="info">
            {n}
          </Note>
        ))}
        <Working items={card?.working} />
      </section>
      <aside className="sheet">
        {card && row && view ? (
          <>
            <Figures card={card} currency={page.document.job.currency} />
            <div className="acts">
              <Button
                type={card.chosen ? "default" : "primary"}
                onClick={() => void edit.tryChange("builds", row, { chosen: !card.chosen })}
              >
                {card.chosen ? "Leave it out of the plan" : "Put it into the plan"}
              </Button>
            </div>
            {row.given.kind === "absorbers" ? (
              <AbsorberForm row={row} given={row.given} view={view} change={change} edit={edit} />
            ) : (
              <WindowForm row={row} given={row.given} view={view} change={change} edit={edit} doc={page.document} />
            )}
            <div className="acts">
              <Button danger onClick={() => void edit.remove("builds", row)}>
                Remove it
              </Button>
            </div>
            {card.kg ? <p className="small">It weighs {amount(card.kg, "kg", units)} in all.</p> : null}
          </>
        ) : (
          <p className="small">
            Its parts go to Cut and the buying list, its steps to Fit, and what it gives into the goal rule.
          </p>
        )}
      </aside>
    </>
  );
}

function Pictures({ card }: { card: Card }) {
  const built = card.built;
  if (!built) return null;
  const octaves = Object.entries(built.reverberation_s ?? {});
  return (
    <>
      {card.drawn ? <BuildDrawing drawn={card.drawn} name={card.name} /> : null}
      {octaves.length ? (
        <Ringing
          hz={octaves.map(([f]) => Number(f))}
          before={octaves.map(([, t]) => t[0] ?? null)}
          after={octaves.map(([, t]) => t[1] ?? null)}
          target={built.target_s ?? null}
          names={["as it is", "with them"]}
        />
      ) : null}
      {built.remedies?.length ? <Remedies remedies={built.remedies} /> : null}
    </>
  );
}

// Each remedy by itself, the most first: "almost nothing" as plainly as "12 dB".
function Remedies({ remedies }: { remedies: readonly Schemas["Remedy"][] }) {
  const most = Math.max(6, ...remedies.map((r) => r.sound_db));
  return (
    <ul className={css.remedies} aria-label="What each remedy gives by itself">
      {[...remedies]
        .sort((a, b) => b.sound_db - a.sound_db)
        .map((r) => (
          <li key={r.name}>
            <b>{remedyWords(r.name)}</b>
            <span className={css.bar} aria-hidden>
              <i style={{ width: `${(100 * Math.max(r.sound_db, 0)) / most}%` }} />
            </span>
            <b className="num">{signed(-r.sound_db)} dB(A)</b>
            <span className="small">
              {r.words} U {num(r.u_w_m2k, 2)} W/m²K · light {num(100 * r.light_share, 0)} % · sun’s heat{" "}
              {num(100 * r.summer_share, 0)} %
            </span>
          </li>
        ))}
    </ul>
  );
}

function Figures({ card, currency }: { card: Card; currency: string }) {
  const built = card.built;
  if (card.problem) return <Note kind="danger">{card.problem}</Note>;
  if (!built) return null;
  const meter = (label: string, value: number, unit: string, note = ""): Schemas["Meter"] => ({
    label,
    value,
    limit: null,
    unit,
    left: null,
    bought: null,
    note,
    older: false,
  });
  return (
    <>
      {built.count != null ? (
        <p className={css.big}>
          {built.count} <small>absorbers, wanted {num(built.target_s, 2)} s</small>
        </p>
      ) : built.change_dba != null ? (
        <p className={css.big}>
          {signed(built.change_dba)} <small>dB(A) of road noise, all together</small>
        </p>
      ) : null}
      {card.kg ? <Meter {...meter("Weight", card.kg, "kg")} /> : null}
      <Meter
        {...meter(
          "Material, as used",
          card.money,
          currency,
          card.unpriced.length ? `and ${card.unpriced.join(", ")} of no known price` : "",
        )}
      />
      <Meter {...meter("Work", card.hours, "h")} />
    </>
  );
}
