// Places and conditions of a job, with names jobs of this kind usually have.
import { Select } from "antd";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import type { Editing } from "../../api/edits";
import { useShelf } from "../../api/hooks";
import { useBegun } from "../../parts/begun";
import { Dialog } from "../../parts/Dialog";
import { Field } from "../../parts/fields";
import { NO_OCTAVES, Octaves } from "../../parts/octaves";
import { num } from "../../parts/words";
import { Adder } from "./Adder";
import css from "./listen.module.css";

type Doc = Schemas["JobDocument"];

type Props = { doc: Doc; edit: Editing };

export function Places({ doc, edit, open }: Props & { open: boolean }) {
  const shelf = useShelf();
  const spectra = (shelf.data?.spectra ?? []).map((s) => ({ value: s.id, label: s.name }));
  const bySpeed = (id: string) => shelf.data?.spectra.find((s) => s.id === id)?.at_km_h;
  const start = shelf.data?.offers.starts?.find((x) => x.kind === doc.job.kind);
  const [typing, setTyping] = useState<number | null>(null);
  const typed = doc.conditions.find((c) => c.id === typing);
  return (
    <details className={css.places} open={open || undefined}>
      <summary>Places and conditions</summary>
      <div className="two">
        <div className="form">
          {doc.positions.map((p) => (
            <div key={p.id} className={css.line}>
              <Field label="Place" value={p.name} save={(name) => edit.change("positions", p, { name })} />
              <button
                className="chip"
                aria-pressed={p.control}
                title="Nothing should change here: its drift is taken off the others"
                onClick={() => void edit.tryChange("positions", p, { control: !p.control })}
              >
                control
              </button>
              <button
                className="chip"
                aria-pressed={p.at_source}
                title="Near the source: the bands read here are what meets the paths"
                onClick={() => void edit.tryChange("positions", p, { at_source: !p.at_source })}
              >
                at the source
              </button>
              <button className="key" aria-label={`Remove ${p.name}`} onClick={() => void edit.remove("positions", p)}>
                remove
              </button>
            </div>
          ))}
          <Adder
            label="Another place"
            placeholder={start?.places[0] ?? "Driver's ear"}
            add={(name) => edit.create("positions", [{ name }])}
          />
          <Names
            taken={doc.positions}
            names={start?.places ?? []}
            add={(name) => edit.create("positions", [{ name }]).catch(edit.say)}
          />
        </div>
        <div className="form">
          {doc.conditions.map((c) => (
            <div key={c.id} className={css.line}>
              <Field label="Condition" value={c.name} save={(name) => edit.change("conditions", c, { name })} />
              <label className="field">
                <span>Source</span>
                <Select
                  value={c.spectrum_db ? TYPED : c.spectrum}
                  listHeight={620}
                  options={[
                    { value: TYPED, label: c.spectrum_db ? "as typed by octave" : "type it by octave …" },
                    ...spectra,
                  ]}
                  onSelect={(spectrum) =>
                    spectrum === TYPED
                      ? setTyping(c.id)
                      : void edit.tryChange("conditions", c, { spectrum, spectrum_db: null })
                  }
                />
              </label>
              {!c.spectrum_db && bySpeed(c.spectrum) ? (
                <Field
                  label="Speed"
                  unit="km/h"
                  value={c.speed_km_h == null ? "" : String(c.speed_km_h)}
                  placeholder={num(bySpeed(c.spectrum), 0)}
                  save={(speed_km_h) => edit.change("conditions", c, { speed_km_h })}
                />
              ) : null}
              <button className="key" aria-label={`Remove ${c.name}`} onClick={() => void edit.remove("conditions", c)}>
                remove
              </button>
            </div>
          ))}
          <Adder
            label="Another condition"
            placeholder={start?.conditions[0]?.[0] ?? "80 km/h"}
            add={(name) =>
              edit.create("conditions", [{ name, ...speedIn(name), ...(start ? { spectrum: start.spectrum } : {}) }])
            }
          />
          <Names
            taken={doc.conditions}
            names={(start?.conditions ?? []).map((c) => c[0] ?? "")}
            add={(name) =>
              edit
                .create("conditions", [
                  {
                    name,
                    ...speedIn(name),
                    spectrum: start?.conditions.find((c) => c[0] === name)?.[1] ?? start?.spectrum,
                  },
                ])
                .catch(edit.say)
            }
          />
        </div>
      </div>
      {typed ? <TypedSpectrum condition={typed} edit={edit} close={() => setTyping(null)} /> : null}
    </details>
  );
}

// "90 km/h" in the name of a condition is its speed.
function speedIn(name: string): { speed_km_h?: number } {
  const found = /(\d+(?:[.,]\d+)?)\s*km\/h/i.exec(name);
  return found?.[1] ? { speed_km_h: Number(found[1].replace(",", ".")) } : {};
}

// Names jobs of this kind usually have, to be taken with one press.
function Names({
  names,
  taken,
  add,
}: {
  names: readonly string[];
  taken: readonly { name: string }[];
  add: (name: string) => unknown;
}) {
  const free = names.filter((n) => !taken.some((t) => t.name === n));
  return free.length ? (
    <div className="chips" role="group" aria-label="Usual names">
      {free.map((n) => (
        <button key={n} className="chip" onClick={() => void add(n)}>
          + {n}
        </button>
      ))}
    </div>
  ) : null;
}

const TYPED = "typed";

// The source's own spectrum by octave, where it is known from a maker or an earlier job.
function TypedSpectrum({
  condition,
  edit,
  close,
}: {
  condition: Schemas["Condition"];
  edit: Editing;
  close: () => void;
}) {
  const [octaves, setOctaves] = useState(NO_OCTAVES);
  const begun = useBegun(condition);
  return (
    <Dialog
      title={`Spectrum of ${condition.name}`}
      ok="Keep it"
      save={() => edit.change("conditions", begun, { spectrum_db: octaves })}
      close={close}
    >
      <Octaves
        values={octaves}
        change={setOctaves}
        hint="Level of the source in each octave, dB, unweighted. Its shape counts; the level is held to what was read."
      />
    </Dialog>
  );
}
