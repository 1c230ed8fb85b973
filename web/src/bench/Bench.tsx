// The Bench: samples compared in the shop's own box, read one after another in a drawn order; what differs, and what does not.
import { Button, Input, Select } from "antd";
import { useState } from "react";
import { query, type Schemas } from "../api/client";
import { useWorkshop } from "../api/workshop";
import { useAddress } from "../parts/address";
import { Ask, Field } from "../parts/fields";
import { useOnce } from "../parts/once";
import { Empty, Note, Said, State } from "../parts/said";
import { Unfold } from "../parts/Unfold";
import { hertz } from "../parts/words";
import { RoomTop } from "../parts/RoomTop";
import css from "./bench.module.css";
import { Told } from "./Told";

type Kept = Schemas["SeriesKept"];
type Card = Schemas["SeriesCard"];
type Workshop = ReturnType<typeof useWorkshop>;

export default function Bench() {
  const workshop = useWorkshop();
  const address = useAddress();
  const revision = workshop.asked.data?.revision ?? 0;
  const asked = query.useQuery("get", "/api/bench", { revision }, { placeholderData: (before) => before });
  const view = asked.data as Schemas["BenchView"] | undefined;
  const rows = workshop.doc?.series ?? [];
  const row = rows.find((r) => r.id === address.number("series")) ?? rows.at(-1);
  const card = view?.cards.find((c) => c.id === row?.id);
  const add = () =>
    void workshop
      .add("series", { name: `Series ${rows.length + 1}` })
      .then(() => address.put({ series: null }))
      .catch(workshop.say);
  return (
    <>
      <RoomTop where="the Bench" workshop={workshop} />
      <main className={css.room}>
        <State query={workshop.asked}>
          <section>
            <Said
              sentence={card?.sentence ?? view?.sentence ?? ""}
              detail="What a sample keeps back in this box, of this size: no rating."
            />
            <div className="chips">
              {rows.map((r) => (
                <button
                  key={r.id}
                  className="chip"
                  aria-pressed={r.id === row?.id}
                  onClick={() => address.put({ series: r.id })}
                >
                  {r.name}
                </button>
              ))}
              <button className="chip proposed" onClick={add}>
                + a series
              </button>
            </div>
            {row && card ? (
              <>
                {card.done < card.of && card.done === (row.runs?.length ?? 0) && row.samples?.length ? (
                  <Reading key={`${row.id} ${card.done}`} row={row} card={card} workshop={workshop} />
                ) : null}
                {card.result ? <Told result={card.result} bands={row.bands_hz ?? []} /> : null}
              </>
            ) : (
              <Empty
                title="Nothing is compared yet"
                text="A box, a loudspeaker, an opening: samples put on three times each tell which differ, and which do not."
              >
                <Button type="primary" size="large" onClick={add}>
                  Begin a series
                </Button>
              </Empty>
            )}
          </section>
          <aside className="sheet">
            {row ? (
              <Given row={row} workshop={workshop} />
            ) : (
              <p className="small">The order is drawn at random, the empty opening is read between.</p>
            )}
          </aside>
        </State>
      </main>
    </>
  );
}

// The next reading: what to do is the largest, its levels are typed as they are read off.
function Reading({ row, card, workshop }: { row: Kept; card: Card; workshop: Workshop }) {
  const [text, setText] = useState("");
  const [wrong, setWrong] = useState("");
  const [, once] = useOnce();
  const bands = row.bands_hz ?? [];
  const keep = async () => {
    const levels = text
      .trim()
      .split(/[\s;]+/)
      .map((t) => (t === "-" ? null : Number(t.replace(",", "."))));
    if (text.trim() === "" || levels.length !== bands.length || levels.some((v) => v !== null && !Number.isFinite(v)))
      return setWrong(`Type ${bands.length} levels in dB, from ${hertz(bands[0] ?? 0)} Hz up; “-” for one not read.`);
    try {
      const run = { sample: card.next_sample, level_db: levels };
      await workshop.change("series", row, [{ op: "set", at: ["runs"], value: [...(row.runs ?? []), run] }]);
    } catch (error) {
      setWrong(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <div className={css.next}>
      <p className={css.what}>{card.next}</p>
      <p className="small">
        {card.done} of {card.of} read · {bands.map((f) => hertz(f)).join(" · ")} Hz
      </p>
      <div className={css.type}>
        <Input
          size="large"
          value={text}
          aria-label="Levels, low to high"
          placeholder={bands.map(() => "71.2").join(" ")}
          status={wrong ? "error" : undefined}
          onChange={(e) => setText(e.target.value)}
          onPressEnter={() => void once(keep)}
        />
        <Button type="primary" size="large" onClick={() => void once(keep)}>
          Keep it
        </Button>
      </div>
      {wrong ? (
        <p className="wrong" role="alert">
          {wrong}
        </p>
      ) : null}
    </div>
  );
}

const numbers = (text: string) =>
  text
    .split(/[\s;]+/)
    .filter(Boolean)
    .map((t) => Number(t.replace(",", ".")));
const number = (text: string) => (text.trim() === "" ? null : Number(text.replace(",", ".")));

function Given({ row, workshop }: { row: Kept; workshop: Workshop }) {
  const set = (values: Record<string, unknown>) =>
    workshop.change(
      "series",
      row,
      Object.entries(values).map(([key, value]) => ({ op: "set" as const, at: [key], value })),
    );
  const bands = row.bands_hz ?? [];
  const samples = row.samples ?? [];
  const sample = (i: number, values: Record<string, unknown>) =>
    set({ samples: samples.map((s, k) => (k === i ? { ...s, ...values } : s)) });
  const begun = (row.runs?.length ?? 0) > 0;
  return (
    <>
      <Field label="Name" value={row.name} save={(name) => set({ name })} />
      <Ask label="What is read">
        <Select
          value={row.kind ?? "blocking"}
          options={[
            { value: "blocking", label: "sound through the opening" },
            { value: "laid round the source", label: "absorbers laid round the source: nothing of blocking" },
            { value: "in the open", label: "between source and meter in the open: nothing of blocking" },
          ]}
          onChange={(kind: string) => void set({ kind }).catch(workshop.say)}
        />
      </Ask>
      {begun ? null : (
        <Field
          label="Bands, Hz"
          value={bands.join(" ")}
          save={(text) => set({ bands_hz: numbers(text), rig: { ...row.rig, ceiling_db: {} } })}
        />
      )}
      <Field
        label="The box’s own ceiling, dB a band"
        value={bands.map((f) => row.rig?.ceiling_db?.[String(f)] ?? "-").join(" ")}
        save={(text) => {
          const read = text.split(/[\s;]+/).filter(Boolean);
          const pairs = bands.map((f, i) => [String(f), Number((read[i] ?? "-").replace(",", "."))] as const);
          const ceiling_db = Object.fromEntries(pairs.filter(([, v]) => Number.isFinite(v)));
          return set({ rig: { ...row.rig, ceiling_db } });
        }}
      />
      <Field
        label="Each is put on, times"
        value={String(row.times ?? 3)}
        save={(text) => set({ times: number(text) })}
      />
      <h2>Samples</h2>
      {samples.map((s, i) => (
        <Unfold key={i} summary={<b>{s.name}</b>}>
          <div className="two">
            <Field
              label="Weighs"
              unit="kg/m²"
              value={s.mass_kg_m2 == null ? "" : String(s.mass_kg_m2)}
              save={(text) => sample(i, { mass_kg_m2: number(text) })}
            />
            <Field
              label="Price of a square metre"
              value={s.money_m2 == null ? "" : String(s.money_m2)}
              save={(text) => sample(i, { money_m2: number(text) })}
            />
          </div>
          <div className="acts">
            <Button onClick={() => void sample(i, { sealed: !(s.sealed ?? true) }).catch(workshop.say)}>
              {(s.sealed ?? true) ? "Its edge cannot be sealed" : "Its edge is sealed"}
            </Button>
            {begun ? null : (
              <Button
                danger
                onClick={() => void set({ samples: samples.filter((_, k) => k !== i) }).catch(workshop.say)}
              >
                Remove it
              </Button>
            )}
          </div>
        </Unfold>
      ))}
      {begun ? null : <NewSample add={(name) => set({ samples: [...samples, { name }] })} />}
      <div className="acts">
        {begun ? (
          <Button onClick={() => void set({ runs: row.runs?.slice(0, -1) }).catch(workshop.say)}>
            Take the last reading back
          </Button>
        ) : (
          <Button onClick={() => void set({ drawn: ((row.drawn ?? 1) % 999_983) + 1 }).catch(workshop.say)}>
            Draw another order
          </Button>
        )}
        <Button danger onClick={() => void workshop.remove("series", row).catch(workshop.say)}>
          Remove it
        </Button>
      </div>
      {begun ? <Note kind="info">Bands and samples stay as they are once something is read.</Note> : null}
    </>
  );
}

function NewSample({ add }: { add: (name: string) => Promise<unknown> }) {
  return (
    <Field
      label="Another sample"
      value=""
      placeholder="board + vinyl"
      save={(name) => (name.trim() ? add(name.trim()) : Promise.resolve())}
    />
  );
}
