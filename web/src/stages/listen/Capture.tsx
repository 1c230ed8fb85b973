// The capture panel of one cell: large digits, typing, live instruments, files, and the readings kept so far.
import { useAsking } from "../../parts/asking";
import { FileInput } from "../../parts/FileInput";
import { ThumbAction } from "../../parts/thumb";
import { App, Button, Input, Select, type InputRef } from "antd";
import { useRef, useState } from "react";
import { itemId, Refused, upload, type Schemas } from "../../api/client";
import { useShelf } from "../../api/hooks";
import type { StageProps } from "../../parts/stage";
import { num } from "../../parts/words";
import { asOctaves, Bands, bandsIn, NO_BANDS, type Begun } from "./Bands";
import { Calibration, Method, Photos, Signals } from "./around";
import { Echo } from "./Echo";
import css from "./listen.module.css";
import { LivePanel } from "./live";
import { Reading } from "./Reading";
import { History } from "./pictures";
import { LogDialog, RunDialog } from "./run";

type Cell = Schemas["Cell"];
type CaptureProps = Pick<StageProps, "id" | "edit"> & {
  doc: Schemas["JobDocument"];
  round: Schemas["Round"];
  cell: [number, number];
  view: Cell | undefined;
  widths: readonly Schemas["RingWidth"][];
  input: React.RefObject<InputRef | null>;
  // another round
  open: (round: number) => void;
};

// What the large figure rests on.
function meanWords(view: Cell): string {
  return [
    view.unit === "ms"
      ? `mean of ${view.repeats}`
      : `energy mean of ${view.repeats}, ± ${num(view.half_width_db)} dB (95 %)`,
    view.background_correction_db ? `background took ${num(view.background_correction_db)} dB` : "",
    view.set_ups > 1 ? `${view.set_ups} set-ups` : "",
    view.simulated ? "of a simulated meter" : "",
  ]
    .filter(Boolean)
    .join(", ");
}

export function Capture({ id, doc, edit, round, cell, view, widths, input, open }: CaptureProps) {
  const [text, setText] = useState("");
  const [wrong, setWrong] = useState("");
  const [background, setBackground] = useState(false);
  const [instrument, setInstrument] = useState<"meter" | "microphone" | null>(null);
  const [log, setLog] = useState<File | null>(null);
  const [opened, setOpened] = useState<number | null>(null);
  const [busy, setBusy] = useState(false);
  const [ticket, setTicket] = useState("");
  const shelf = useShelf();
  // the made-up meter is offered in the demo, or when asked for by name
  const simulated =
    Boolean(shelf.data?.simulated_meter) || new URLSearchParams(location.search).get("meter") === "simulated";
  const picker = useRef<HTMLInputElement>(null);
  const knocker = useRef<HTMLInputElement>(null);
  const asked = useRef(false);
  const [unsure, setUnsure] = useState(false);
  const [bands, setBands] = useState<Begun | null>(null);
  const asking = useAsking();
  const { message } = App.useApp();
  const [position_id, condition_id] = cell;
  const place = doc.positions.find((p) => p.id === position_id)?.name;
  const condition = doc.conditions.find((c) => c.id === condition_id)?.name;
  const kept = doc.readings.filter(
    (r) => r.round_id === round.id && r.position_id === position_id && r.condition_id === condition_id,
  );

  const post = (typed: Record<string, unknown>) =>
    edit.post("typed-readings", { position_id, condition_id, round_id: round.id, note: "", ...typed });
  const keep = async (as: { background?: boolean; repeats?: boolean } = {}) => {
    if (!(await meantRound())) return;
    try {
      await post({ text, ...as });
      setText("");
      setWrong("");
      setUnsure(false);
    } catch (error) {
      setUnsure(error instanceof Refused && error.refusal.where === "repeats");
      setWrong(error instanceof Refused ? error.message : String(error));
    }
    input.current?.focus();
  };
  // a reading typed into an older round, while a later one has readings, is asked about
  const later = doc.rounds.filter((r) => r.id > round.id && doc.readings.some((x) => x.round_id === r.id)).at(-1);
  const meantRound = async () => {
    if (!later || asked.current) return true;
    asked.current = await asking({
      title: `Keep it in “${round.name}”?`,
      content: `“${later.name}” is later and has readings already.`,
      yes: `Keep it in ${round.name}`,
      no: `Open ${later.name}`,
    });
    if (!asked.current) open(later.id);
    return asked.current;
  };
  const at = {
    position_id: String(position_id),
    condition_id: String(condition_id),
    round_id: String(round.id),
    background: String(background),
  };
  const bring = async (file: File | undefined) => {
    if (!file) return;
    setWrong("");
    if (!/\.(wav|flac)$/i.test(file.name) && !file.type.startsWith("audio/")) {
      const found = file.size < 65_536 ? await bandsIn(await file.text()).catch(() => null) : null;
      return found ? setBands(found) : setLog(file);
    }
    setBusy(true);
    const fresh = `${itemId()}${itemId()}`;
    setTicket(fresh);
    try {
      const done = await upload<Schemas["RecordingImported"]>(`/api/jobs/${id}/recordings`, { file, ...at }, fresh);
      const said = done.analysis.cautions.map((c) => c.text).join(" ");
      const scale = done.analysis.calibrated ? "" : " re full scale";
      const level = `${num(done.analysis.duration_s)} s, LAeq ${num(done.analysis.LAeq)} dB${scale}`;
      void message.success(`${level}. ${said}`, 8);
    } catch (error) {
      setWrong(error instanceof Refused ? error.message : String(error));
    }
    setBusy(false);
    setTicket("");
    await edit.refresh();
  };
  const knock = async (file: File | undefined) => {
    if (!file) return;
    setBusy(true);
    try {
      await upload(`/api/jobs/${id}/knocks/recording`, { file, ...at });
      setWrong("");
    } catch (error) {
      setWrong(error instanceof Refused ? error.message : String(error));
    }
    setBusy(false);
    await edit.refresh();
  };
  const traced = instrument ? undefined : kept.find((r) => r.history_db.length > 1);
  const rings = doc.knocks.filter((k) => k.round_id === round.id && k.position_id === position_id);
  const photos = doc.photos.filter((p) => p.position_id === position_id);
  const run = doc.readings.find((r) => r.id === opened);
  return (
    <>
      <div>
        <h2>{place}</h2>
        <span className="small">
          {condition}, round “{round.name}”
        </span>
      </div>
      {instrument ? (
        <LivePanel
          key={instrument}
          id={id}
          edit={edit}
          at={{ position_id, condition_id, round_id: round.id }}
          background={background}
          instrument={instrument}
          close={() => setInstrument(null)}
        />
      ) : (
        <>
          <div className={css.digits} aria-live="polite">
            {view?.level_db != null ? num(view.level_db) : "––.–"} <small>{view?.unit ?? "dB(A)"}</small>
          </div>
          <p className="small">{view?.repeats ? meanWords(view) : "nothing kept here yet"}</p>
        </>
      )}
      {traced ? <History reading={traced} unit={view?.unit ?? "dB(A)"} /> : null}
      {view?.ask_afresh == null || !view.reading_ids.length ? null : (
        <div className="note info">
          <b>Were these set up afresh each time,</b> or taken in one go? Only what was set up anew shows what placing
          and weather do.
          <div className="chips">
            {(
              [
                ["afresh each time", true],
                ["in one go", false],
              ] as const
            ).map(([words, afresh]) => (
              <button
                key={words}
                className={`chip ${view.ask_afresh === afresh ? "proposed" : ""}`}
                onClick={() =>
                  void edit
                    .together(
                      view.reading_ids
                        .slice(1)
                        .map((n) =>
                          edit.altering(
                            "readings",
                            { id: n, version: kept.find((r) => r.id === n)?.version ?? 0 },
                            { afresh },
                          ),
                        ),
                    )
                    .catch(edit.say)
                }
              >
                {words}
              </button>
            ))}
          </div>
        </div>
      )}
      <label className="field">
        <span>What does the meter say? A level, several, a range, or bands</span>
        <Input
          ref={input}
          size="large"
          inputMode="text"
          value={text}
          placeholder="74.8 or 73.9..75.8 or 63: 84 …"
          status={wrong ? "error" : undefined}
          onChange={(e) => setText(e.target.value)}
          onPressEnter={() => void keep()}
        />
        {wrong ? (
          <span className="wrong" role="alert">
            {wrong}
          </span>
        ) : null}
      </label>
      {unsure ? (
        <div className="chips" role="group" aria-label="Repeats, or bands?">
          <button className="chip" onClick={() => void keep({ repeats: true })}>
            repeats of one level
          </button>
          <button className="chip proposed" onClick={() => setBands(asOctaves(text.trim().split(/[\s;]+/)))}>
            bands
          </button>
        </div>
      ) : null}
      <div className="acts">
        <Button type="primary" size="large" onClick={() => void keep()}>
          Keep this reading ↵
        </Button>
        <Button size="large" disabled={!text.trim()} onClick={() => void keep({ background: true })}>
          Keep as background
        </Button>
      </div>
      {instrument ? null : (
        <ThumbAction>
          <Button type="primary" onClick={() => (text.trim() ? void keep() : input.current?.focus())}>
            {text.trim() ? "Keep what is typed" : "Take a reading"}
          </Button>
        </ThumbAction>
      )}
      <div className="chips" role="group" aria-label="Other ways to read">
        {simulated ? (
          <button
            className="chip"
            title="A made-up meter, for trying out"
            aria-pressed={instrument === "meter"}
            onClick={() => setInstrument(instrument === "meter" ? null : "meter")}
          >
            live meter (simulated)
          </button>
        ) : null}
        <button
          className="chip"
          aria-pressed={instrument === "microphone"}
          onClick={() => setInstrument(instrument === "microphone" ? null : "microphone")}
        >
          microphone
        </button>
        <button className="chip" onClick={() => setBands(NO_BANDS)}>
          bands …
        </button>
        <button className="chip" disabled={busy} onClick={() => picker.current?.click()}>
          {busy ? "reading it …" : "a file …"}
        </button>
        <button className="chip" disabled={busy} onClick={() => knocker.current?.click()}>
          knocks …
        </button>
        <button className="chip" aria-pressed={background} onClick={() => setBackground(!background)}>
          the next run or file is background
        </button>
        <FileInput picker={knocker} label="Recording of knocks" accept=".wav,.flac" take={knock} />
        <FileInput
          picker={picker}
          label="Log or recording"
          accept=".csv,.tsv,.txt,.wav,.flac,text/*,audio/wav,audio/flac"
          take={bring}
        />
      </div>
      {busy && ticket ? <Reading ticket={ticket} /> : null}
      <div className="rows">
        {kept.map((r) => (
          <div key={r.id}>
            <span>
              <span className="num">
                {r.level_db != null ? num(r.level_db) : `${num(r.low_db)} to ${num(r.high_db)}`}
              </span>{" "}
              dB{r.relative ? " re full scale" : ""}
              {r.bands_db.length ? " by bands" : ""}
              {r.background ? " background" : ""} <span className="small">{r.file_name || r.note || r.source}</span>
            </span>
            {r.run ? (
              <button className="key" aria-label={`Open run ${num(r.level_db)}`} onClick={() => setOpened(r.id)}>
                window
              </button>
            ) : null}
            <button
              className="key"
              aria-label={`Remove reading ${num(r.level_db ?? r.low_db)}`}
              onClick={() => void edit.remove("readings", r)}
            >
              remove
            </button>
          </div>
        ))}
      </div>
      {rings.length ? (
        <div className="rows">
          {rings.map((k) => (
            <div key={k.id}>
              <span>
                <b className="num">{num(k.frequency_hz, 0)} Hz</b> rings{" "}
                <b className="num">{num(k.decay_time_s, 2)} s</b>, loss factor {num(k.loss_factor, 3)}{" "}
                <span className="small">{k.knocks} knocks</span>
              </span>
              <Select
                size="small"
                aria-label="Panel knocked on"
                allowClear
                placeholder="on which panel?"
                value={k.surface_id ?? undefined}
                options={doc.surfaces.map((s) => ({ value: s.id, label: s.name }))}
                onChange={(surface_id: number | undefined) =>
                  void edit.tryChange("knocks", k, { surface_id: surface_id ?? null })
                }
              />
              <button className="key" aria-label="Remove knocks" onClick={() => void edit.remove("knocks", k)}>
                remove
              </button>
            </div>
          ))}
        </div>
      ) : null}
      <Echo rings={widths} id={id} doc={doc} edit={edit} round={round.id} position={position_id} />
      <Photos position={position_id} round={round.id} photos={photos} edit={edit} />
      <Calibration id={id} doc={doc} edit={edit} />
      <Method doc={doc} edit={edit} />
      <Signals />
      {bands ? (
        <Bands
          begun={bands}
          keep={(typed, weighting) =>
            post({ text: typed, weighting }).then(() => {
              if (unsure) setText(""); // what was typed was the bands
              setWrong("");
              setUnsure(false);
            })
          }
          close={() => setBands(null)}
        />
      ) : null}
      {log ? <LogDialog id={id} file={log} at={at} edit={edit} close={() => setLog(null)} /> : null}
      {run ? <RunDialog id={id} reading={run} edit={edit} close={() => setOpened(null)} /> : null}
    </>
  );
}
