// The next reading of a series: typed as it is read off, or many at once from one recording cut by its silences.
import { Button, Input } from "antd";
import { useRef, useState } from "react";
import { upload, type Schemas } from "../api/client";
import type { useWorkshop } from "../api/workshop";
import { FileInput } from "../parts/FileInput";
import { useOnce } from "../parts/once";
import { hertz, num } from "../parts/words";
import css from "./bench.module.css";

type Kept = Schemas["SeriesKept"];
type Card = Schemas["SeriesCard"];
type Cut = Schemas["Cut"];
type Run = NonNullable<Kept["runs"]>[number];
type Workshop = ReturnType<typeof useWorkshop>;

const said = (error: unknown) => (error instanceof Error ? error.message : String(error));

export function Reading({ row, card, workshop }: { row: Kept; card: Card; workshop: Workshop }) {
  const [text, setText] = useState("");
  const [wrong, setWrong] = useState("");
  const [cut, setCut] = useState<Cut | null>(null);
  const [, once] = useOnce();
  const picker = useRef<HTMLInputElement>(null);
  const bands = row.bands_hz ?? [];
  const add = async (more: Run[]) => {
    try {
      await workshop.change("series", row, [{ op: "set", at: ["runs"], value: [...(row.runs ?? []), ...more] }]);
      setCut(null);
    } catch (error) {
      setWrong(said(error));
    }
  };
  const keep = async () => {
    const levels = text
      .trim()
      .split(/[\s;]+/)
      .map((t) => (t === "-" ? null : Number(t.replace(",", "."))));
    if (text.trim() === "" || levels.length !== bands.length || levels.some((v) => v !== null && !Number.isFinite(v)))
      return setWrong(`Type ${bands.length} levels in dB, from ${hertz(bands[0] ?? 0)} Hz up; “-” for one not read.`);
    await add([{ sample: card.next_sample, take: 0, level_db: levels }]);
  };
  const take = async (file: File | undefined) => {
    if (!file) return;
    setWrong("");
    try {
      setCut(await upload<Cut>("/api/series/recording", { file, series_id: String(row.id) }));
    } catch (error) {
      setWrong(said(error));
    }
  };
  return (
    <div className={css.next}>
      <p className={css.what}>{card.next}</p>
      <p className="small">
        {card.done} of {card.of} read · {bands.map((f) => hertz(f)).join(" · ")} Hz
      </p>
      {cut ? (
        <Found
          cut={cut}
          on={card.order.slice(card.done)}
          bands={bands}
          keep={() =>
            once(() =>
              add(cut.found.map((f, i) => ({ sample: cut.samples[i] ?? null, take: cut.take, level_db: f.level_db }))),
            )
          }
          leave={() => setCut(null)}
        />
      ) : (
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
          <Button size="large" onClick={() => picker.current?.click()}>
            From one recording
          </Button>
          <FileInput picker={picker} label="Recording of the series" accept=".wav,.flac" take={take} />
        </div>
      )}
      {wrong ? (
        <p className="wrong" role="alert">
          {wrong}
        </p>
      ) : null}
    </div>
  );
}

function Found(props: {
  cut: Cut;
  on: readonly string[];
  bands: readonly number[];
  keep: () => Promise<unknown>;
  leave: () => void;
}) {
  const { cut, bands } = props;
  return (
    <>
      <p>{cut.sentence}</p>
      <div className={css.scroll} tabIndex={0} role="region" aria-label="Readings found">
        <table className={css.found}>
          <thead>
            <tr>
              <th>From, s</th>
              <th>What was on</th>
              {bands.map((f) => (
                <th key={f}>{hertz(f)} Hz</th>
              ))}
            </tr>
          </thead>
          <tbody>
            {cut.found.map((f, i) => (
              <tr key={f.from_s}>
                <td className="num">{num(f.from_s, 1)}</td>
                <td>{props.on[i]}</td>
                {f.level_db.map((v, k) => (
                  <td key={k} className="num">
                    {v == null ? "drowned" : num(v, 1)}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <div className="acts">
        <Button type="primary" size="large" onClick={() => void props.keep()}>
          Keep these {cut.found.length}
        </Button>
        <Button size="large" onClick={props.leave}>
          Leave them
        </Button>
      </div>
    </>
  );
}
