// What is built beside the surfaces: boxes, platforms, closed holes, absorbers, windows; drawn from the parts that are cut.
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
import { BoxForm } from "./BoxForm";
import { BoxTrade, Loudest } from "./BoxPictures";
import { BuildDrawing } from "./BuildDrawing";
import { FIRST, OFFERED, type Kind } from "./firsts";
import { AbsorberForm, WindowForm } from "./forms";
import { remedyWords, type Card, type Change, type FormProps, type Row } from "./kinds";
import { BaffleForm, PlatformForm } from "./MoreForms";
import { Passed } from "./Passed";
import { put } from "./values";
import css from "./builds.module.css";

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
  const add = (kind: Kind) => begin(FIRST[kind]);
  const begin = (first: Record<string, unknown>) =>
    void edit
      .create("builds", [first])
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
          {(Object.keys(OFFERED) as Kind[]).map((kind) => (
            <button key={kind} className="chip proposed" onClick={() => add(kind)}>
              + {OFFERED[kind]}
            </button>
          ))}
        </div>
        {card ? (
          <Pictures card={card} row={row} change={change} say={edit.say} />
        ) : view ? (
          <Empty
            title="Nothing is built yet"
            text="A machine that is too loud, a floor it shakes, a room that rings, a window that lets too much through."
          >
            <Button type="primary" size="large" onClick={() => add(FOR[page.document.job.kind] ?? "absorbers")}>
              Begin with {OFFERED[FOR[page.document.job.kind] ?? "absorbers"]}
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
            <GivenForm {...{ row, given: row.given, view, change, edit, doc: page.document }} />
            <div className="acts">
              <Button
                onClick={() =>
                  begin({
                    name: `${row.name}, another`.slice(0, 110),
                    given: row.given,
                    chosen: false,
                    path_id: row.path_id,
                  })
                }
              >
                Another like it
              </Button>
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

// What a kind of job mostly begins with.
const FOR: Partial<Record<Schemas["JobDocument"]["job"]["kind"], Kind>> = {
  enclosure: "box",
  vehicle: "baffle",
  room: "absorbers",
};

// The form of a build by its kind: each knows what is given of its own.
const FORMS = {
  absorbers: AbsorberForm,
  window: WindowForm,
  box: BoxForm,
  platform: PlatformForm,
  baffle: BaffleForm,
} as unknown as Record<Kind, (props: FormProps<Row["given"]>) => React.JSX.Element>;

function GivenForm(props: FormProps<Row["given"]>) {
  const Form = FORMS[props.given.kind];
  return <Form key={props.row.id} {...props} />;
}

function Pictures({
  card,
  row,
  change,
  say,
}: {
  card: Card;
  row: Row | undefined;
  change: Change;
  say: (error: unknown) => void;
}) {
  const built = card.built;
  if (!built) return null;
  const box = row?.given.kind === "box" ? row.given : null;
  // the openings take the sizes of the picked box, one after the other as they stand
  const pick = (spot: Schemas["TradeSpot"]) =>
    void change({
      fan_m3_h: spot.fan_m3_h,
      openings: (box?.openings ?? []).reduce<unknown[]>(
        (all, o, i) => put(all, i, { ...o, width_mm: spot.sizes_mm[i]?.[0], height_mm: spot.sizes_mm[i]?.[1] }),
        [...(box?.openings ?? [])],
      ),
    }).catch(say);
  const octaves = Object.entries(built.reverberation_s ?? {});
  return (
    <>
      {card.drawn ? <BuildDrawing drawn={card.drawn} name={card.name} id={card.id} /> : null}
      {built.trade?.length ? <BoxTrade spots={built.trade} most={box?.machine.most_c ?? null} pick={pick} /> : null}
      {built.loudest ? <Loudest ways={built.loudest} /> : null}
      {built.transmissibility_db ? <Passed of={built.transmissibility_db} /> : null}
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
          {signed(built.change_dba)}{" "}
          <small>{card.kind === "box" ? "dB(A) of the machine" : "dB(A) of road noise, all together"}</small>
        </p>
      ) : built.gain_db ? (
        <p className={css.big}>
          {signed(built.gain_db[0], 0)} to {signed(built.gain_db[1], 0)} <small>dB of bass</small>
        </p>
      ) : built.modes_hz ? (
        <p className={css.big}>
          {num(built.modes_hz[0] ?? 0, 1)} to {num(built.modes_hz.at(-1) ?? 0, 1)} <small>Hz, its six modes</small>
        </p>
      ) : null}
      {built.refused?.map((why) => (
        <Note key={why} kind="danger">
          {why} It counts for nothing until then.
        </Note>
      ))}
      {built.inside_c != null ? <Meter {...meter("Inside", built.inside_c, "°C")} /> : null}
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
