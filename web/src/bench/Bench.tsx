// The Bench: samples compared in the shop's own box, read one after another in a drawn order; what differs, and what does not.
import { Button } from "antd";
import { query, type Schemas } from "../api/client";
import { useWorkshop } from "../api/workshop";
import { useAddress } from "../parts/address";
import { Empty, Note, Said, State } from "../parts/said";
import { RoomTop } from "../parts/RoomTop";
import css from "./bench.module.css";
import { Given } from "./Given";
import { Own } from "./Own";
import { Reading } from "./Reading";
import { Told } from "./Told";

export default function Bench() {
  const workshop = useWorkshop();
  const address = useAddress();
  const revision = workshop.asked.data?.revision ?? 0;
  const asked = query.useQuery("get", "/api/bench", { revision }, { placeholderData: (before) => before });
  const view = asked.data as Schemas["BenchView"] | undefined;
  const rows = workshop.doc?.series ?? [];
  const row = rows.find((r) => r.id === address.number("series")) ?? rows.at(-1);
  const card = view?.cards.find((c) => c.id === row?.id);
  const own = address.get("own") !== null;
  const add = () =>
    void workshop
      .add("series", { name: `Series ${rows.length + 1}` })
      .then(() => address.put({ series: null, own: null }))
      .catch(workshop.say);
  return (
    <>
      <RoomTop where="the Bench" workshop={workshop} />
      <main className={css.room}>
        <State query={workshop.asked}>
          <section>
            {own ? null : (
              <Said
                sentence={card?.sentence ?? view?.sentence ?? ""}
                detail="What a sample keeps back in this box, of this size: no rating."
              />
            )}
            <div className="chips">
              {rows.map((r) => (
                <button
                  key={r.id}
                  className="chip"
                  aria-pressed={!own && r.id === row?.id}
                  onClick={() => address.put({ series: r.id, own: null })}
                >
                  {r.name}
                </button>
              ))}
              <button className="chip proposed" onClick={add}>
                + a series
              </button>
              <button className="chip" aria-pressed={own} onClick={() => address.put({ own: own ? null : "1" })}>
                Measure a property
              </button>
            </div>
            {own ? (
              <Own procedures={view?.procedures ?? []} workshop={workshop} />
            ) : row && card ? (
              <>
                {card.compares ? <Note kind="warn">{card.compares}</Note> : null}
                {card.done < card.of && card.done === (row.runs?.length ?? 0) && row.samples?.length ? (
                  <Reading key={`${row.id} ${card.done}`} row={row} card={card} workshop={workshop} />
                ) : null}
                {card.result ? (
                  <Told result={card.result} said={card.samples ?? []} bands={row.bands_hz ?? []} />
                ) : null}
                <div className={`acts ${css.pages}`}>
                  <Button href={`/api/series/${row.id}/paper.pdf`} download>
                    A page to print
                  </Button>
                  <Button href={`/api/series/${row.id}/paper.html`} download>
                    A page to send
                  </Button>
                </div>
                {view ? <Argued myths={view.myths} /> : null}
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
            {own ? (
              <p className="small">
                What you measured yourself stands on the Shelf as measured in the shop, with its readings, and narrows
                how sure a prediction is that leans on it. A datasheet says what one sample gave somebody once.
              </p>
            ) : row && card && view ? (
              <Given row={row} card={card} view={view} workshop={workshop} />
            ) : (
              <p className="small">The order is drawn at random, the empty opening is read between.</p>
            )}
          </aside>
        </State>
      </main>
    </>
  );
}

// What every shop argues about, with what this one has read of it.
function Argued({ myths }: { myths: Schemas["BenchView"]["myths"] }) {
  return (
    <section className={css.argued} aria-label="What is argued over">
      <h2>What is argued over, and what was read here</h2>
      <dl>
        {myths.map((m) => (
          <div key={m.question}>
            <dt>{m.words}</dt>
            {m.answers.length ? (
              m.answers.map((a) => <dd key={a}>{a}</dd>)
            ) : (
              <dd className="small">Nobody here has read it yet.</dd>
            )}
          </div>
        ))}
      </dl>
    </section>
  );
}
