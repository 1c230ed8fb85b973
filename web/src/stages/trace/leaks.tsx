// The leak hunt.
import { Button, Input, Select } from "antd";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useShelf } from "../../api/hooks";
import { useTyped } from "../../parts/begun";
import { Ask } from "../../parts/fields";
import type { Traced } from "./paths";
import css from "./trace.module.css";
import { UnitInput } from "../../parts/UnitInput";

type Props = { doc: Traced["doc"]; edit: Traced["edit"]; view: Schemas["TraceView"] };

const HOW = ["light", "air", "listening tube", "paper strip", "smoke", "eye"] as const;

export function Leaks({ doc, edit, view }: Props) {
  const shelf = useShelf();
  const [place, setPlace] = useState("");
  const [how, setHow] = useState<(typeof HOW)[number]>("light");
  const [area_cm2, setArea] = useState("");
  const spots = (shelf.data?.offers.spots ?? []).filter((s) => s.kind === doc.job.kind);
  const add = () =>
    place.trim() &&
    void edit
      .create("leaks", [{ place: place.trim(), how, area_cm2 }])
      .then(() => {
        setPlace("");
        setArea("");
      })
      .catch(edit.say);
  return (
    <>
      <h2>Leak hunt</h2>
      <details>
        <summary>Where to look and listen</summary>
        <ul className="small">
          {spots.map((s) => (
            <li key={s.text}>{s.text}</li>
          ))}
        </ul>
      </details>
      {view.leaks.map((l) => {
        const row = doc.leaks.find((x) => x.id === l.id);
        return row ? (
          <div role="article" key={l.id} className={`${css.test} ${l.sealed ? css.done : ""}`}>
            <span className="tickline">
              <input
                type="checkbox"
                aria-label={`${l.place} sealed`}
                checked={l.sealed}
                onChange={(e) => void edit.tryChange("leaks", row, { sealed: e.target.checked })}
              />
              <b>{l.place}</b>
            </span>
            <span className="small">{l.words}</span>
            <Select
              size="small"
              aria-label={`Way in of ${l.place}`}
              allowClear
              placeholder="which way in is it?"
              value={row.path_id ?? undefined}
              options={doc.paths.map((p) => ({ value: p.id, label: p.name }))}
              onChange={(path_id: number | undefined) =>
                void edit.tryChange("leaks", row, { path_id: path_id ?? null })
              }
            />
            <span className="two">
              <Small
                label="before, dB(A)"
                value={row.before_db}
                save={(before_db) => void edit.tryChange("leaks", row, { before_db })}
              />
              <Small
                label="after sealing, dB(A)"
                value={row.after_db}
                save={(after_db) => void edit.tryChange("leaks", row, { after_db })}
              />
            </span>
            <button className="key" onClick={() => void edit.remove("leaks", row)}>
              remove
            </button>
          </div>
        ) : null;
      })}
      <div className="form">
        <Ask label="A leak found">
          <Input
            value={place}
            placeholder="sliding door, lower rear corner"
            onChange={(e) => setPlace(e.target.value)}
            onPressEnter={add}
          />
        </Ask>
        <div className="two">
          <Ask label="by">
            <Select value={how} options={HOW.map((h) => ({ value: h, label: h }))} onChange={setHow} />
          </Ask>
          <Ask label="Open area">
            <UnitInput value={area_cm2} unit="cm²" onText={setArea} onPressEnter={add} />
          </Ask>
        </div>
        <Button onClick={add} disabled={!place.trim()}>
          Keep the leak
        </Button>
      </div>
    </>
  );
}

function Small({
  label,
  value,
  save,
}: {
  label: string;
  value: number | null | undefined;
  save: (text: string) => void;
}) {
  const { begun, type, end } = useTyped(save);
  return (
    <Input
      aria-label={label}
      placeholder={label}
      value={begun?.text ?? (value == null ? "" : String(value))}
      onChange={(e) => type(e.target.value)}
      onBlur={() => {
        begun?.over(begun.text);
        end();
      }}
    />
  );
}
