// Runs: a level log looked at and corrected before it is kept; a kept run whose window is dragged; its sound played.
import { Button, Input, Modal, Select } from "antd";
import { useEffect, useRef, useState } from "react";
import { useQuery } from "@tanstack/react-query";
import { api, ask, Refused, upload, type Schemas } from "../../api/client";
import type { StageProps } from "../../shell/JobShell";
import { Ask, State } from "../../parts/parts";
import { num } from "../../parts/words";

type Look = Schemas["RunView"];
type Window = readonly [number, number];
type At = Record<string, string>;

const [W, H, TOP, EDGE] = [640, 190, 8, 16];

// The run with its window: both ends are dragged, or moved with the arrow keys.
export function RunPicture({
  look,
  window: chosen,
  choose,
}: {
  look: Look;
  window: Window;
  choose: (w: Window) => void;
}) {
  const svg = useRef<SVGSVGElement | null>(null);
  const low = Math.min(...look.level_db);
  const span = Math.max(Math.max(...look.level_db) - low, 6);
  const x = (s: number) => EDGE + (s / look.length_s) * (W - 2 * EDGE);
  const y = (v: number) => TOP + (1 - (v - low) / span) * (H - TOP - 24);
  const line = (values: readonly number[]) =>
    values
      .map((v, i) => `${i ? "L" : "M"}${x(((i + 0.5) / values.length) * look.length_s).toFixed(1)} ${y(v).toFixed(1)}`)
      .join("");
  const least = look.length_s / 200;
  const move = (end: 0 | 1, s: number) => {
    const to = Math.round(Math.min(Math.max(s, 0), look.length_s) * 100) / 100;
    choose(end === 0 ? [Math.min(to, chosen[1] - least), chosen[1]] : [chosen[0], Math.max(to, chosen[0] + least)]);
  };
  const drag = (end: 0 | 1) => (e: React.PointerEvent<SVGGElement>) => {
    if (e.type === "pointerdown") e.currentTarget.setPointerCapture(e.pointerId);
    if (e.type === "pointermove" && !e.currentTarget.hasPointerCapture(e.pointerId)) return;
    const box = svg.current?.getBoundingClientRect();
    if (box) move(end, ((((e.clientX - box.left) / box.width) * W - EDGE) / (W - 2 * EDGE)) * look.length_s);
  };
  return (
    <>
      <svg ref={svg} className="run" viewBox={`0 0 ${W} ${H}`} role="group" aria-label="Level over time">
        <rect
          x={x(chosen[0])}
          y={TOP}
          width={x(chosen[1]) - x(chosen[0])}
          height={H - TOP - 20}
          fill="var(--moss-wash)"
        />
        <path d={line(look.level_db)} fill="none" stroke="var(--bark)" strokeWidth={1} opacity={0.6} />
        <path d={line(look.smooth_db)} fill="none" stroke="var(--water)" strokeWidth={2} strokeDasharray="5 3" />
        {[0, 1].map((k) => {
          const end = k as 0 | 1;
          return (
            <g
              key={end}
              role="slider"
              tabIndex={0}
              className="window-end"
              aria-label={end ? "End of the window" : "Start of the window"}
              aria-valuemin={0}
              aria-valuemax={look.length_s}
              aria-valuenow={chosen[end]}
              aria-valuetext={`${num(chosen[end])} s`}
              onPointerDown={drag(end)}
              onPointerMove={drag(end)}
              onKeyDown={(e) => {
                const by = { ArrowLeft: -1, ArrowRight: 1, PageDown: -10, PageUp: 10 }[e.key];
                if (by) {
                  e.preventDefault();
                  move(end, chosen[end] + by * Math.max(look.length_s / 100, 0.125));
                }
              }}
            >
              <rect x={x(chosen[end]) - 12} y={TOP} width={24} height={H - TOP - 20} fill="transparent" />
              <line x1={x(chosen[end])} x2={x(chosen[end])} y1={TOP} y2={H - 20} stroke="var(--moss)" strokeWidth={3} />
              <circle
                cx={x(chosen[end])}
                cy={(H - 20) / 2}
                r={9}
                fill="var(--card)"
                stroke="var(--moss)"
                strokeWidth={3}
              />
              <text x={Math.min(Math.max(x(chosen[end]), 24), W - 32)} y={H - 4} textAnchor="middle" fontSize={13}>
                {num(chosen[end])} s
              </text>
            </g>
          );
        })}
        <text x={EDGE + 4} y={TOP + 12} fontSize={12} className="soft">
          {num(low + span)} dB
        </text>
        <text x={EDGE + 4} y={H - 26} fontSize={12} className="soft">
          {num(low)} dB
        </text>
      </svg>
      <p className="small">Dashed: smoothed, for looking. The result comes from the energy inside the window.</p>
      <div className="chips" role="group" aria-label="Steady stretches">
        <button className="chip" onClick={() => choose([0, look.length_s])}>
          all of it
        </button>
        {look.steady_s
          .filter(([a, b]) => b - a < look.length_s * 0.98)
          .map(([a, b]) => (
            <button key={a} className="chip" onClick={() => choose([a, b])}>
              steady {num(a, 0)} to {num(b, 0)} s
            </button>
          ))}
      </div>
    </>
  );
}

export function LogDialog({
  id,
  file,
  at,
  edit,
  close,
}: {
  id: number;
  file: File;
  at: At;
  edit: StageProps["edit"];
  close: () => void;
}) {
  const [column, setColumn] = useState("");
  const [time, setTime] = useState("");
  const [interval, setEvery] = useState("");
  const [seen, setSeen] = useState<Schemas["Understood"] | null>(null);
  const [chosen, setChosen] = useState<Window | null>(null);
  const [wrong, setWrong] = useState("");
  const fields = { column, time_column: time, interval_s: interval };
  const wanted = JSON.stringify(fields);

  useEffect(() => {
    let gone = false;
    upload<Schemas["Understood"]>(`/api/jobs/${id}/logs/look`, { file, ...(JSON.parse(wanted) as At) })
      .then((found) => {
        if (!gone) {
          setSeen(found);
          setWrong("");
          setChosen(found.look.steady_s[0] ?? found.look.window_s);
        }
      })
      .catch((e: unknown) => {
        if (!gone) setWrong(e instanceof Refused ? e.message : String(e));
      });
    return () => {
      gone = true;
    };
  }, [id, file, wanted]);

  const keep = async () => {
    const window: At = chosen ? { from_s: String(chosen[0]), to_s: String(chosen[1]) } : {};
    try {
      await upload(`/api/jobs/${id}/logs`, { file, ...at, ...fields, ...window });
      await edit.refresh();
      close();
    } catch (e) {
      setWrong(e instanceof Refused ? e.message : String(e));
    }
  };
  const names = (seen?.columns ?? []).map((c) => ({
    value: String(c.number),
    label: `${c.number} ${c.name || "without a name"} (${c.cells.slice(0, 2).join(", ")} …)`,
  }));
  const taken = (role: string) => seen?.columns.find((c) => c.taken_for === role)?.number;
  return (
    <Modal
      open
      onCancel={close}
      onOk={() => void keep()}
      okText="Keep this window"
      okButtonProps={{ disabled: !seen || Boolean(wrong) }}
      title={`What is in ${file.name}`}
      width={760}
    >
      <div className="form">
        {wrong ? (
          <p className="note danger" role="alert">
            {wrong}
          </p>
        ) : null}
        {seen ? (
          <>
            <p>
              <b>
                {seen.samples} samples of {seen.quantity ?? seen.column}
              </b>
              , every {num(seen.interval_s, seen.interval_s % 1 ? 3 : 0)} s, {num(seen.look.length_s, 0)} s long. Energy
              mean {num(seen.figures.Leq)} dB over all of it.
            </p>
            {chosen ? <RunPicture look={seen.look} window={chosen} choose={setChosen} /> : null}
          </>
        ) : null}
        <div className="two">
          <Ask label="Column of the level">
            <Select
              aria-label="Column of the level"
              value={column || String(taken("level") ?? "")}
              options={names}
              onChange={setColumn}
            />
          </Ask>
          <Ask label="Column of the time">
            <Select
              aria-label="Column of the time"
              value={time || String(taken("time") ?? "none")}
              options={[...names, { value: "none", label: "none: count samples" }]}
              onChange={setTime}
            />
          </Ask>
        </div>
        <Ask label="Seconds between samples (if the file does not tell)">
          <Input value={interval} suffix="s" onChange={(e) => setEvery(e.target.value)} />
        </Ask>
      </div>
    </Modal>
  );
}

// A kept run: drag its window anew; hear it, low-passed for what comes through the structure.
export function RunDialog({
  id,
  reading,
  edit,
  close,
}: {
  id: number;
  reading: Schemas["Reading"];
  edit: StageProps["edit"];
  close: () => void;
}) {
  const query = useQuery({
    queryKey: ["run", id, reading.id, reading.version],
    queryFn: () =>
      ask(
        api.GET("/api/jobs/{job_id}/readings/{reading_id}/run", {
          params: { path: { job_id: id, reading_id: reading.id } },
        }),
      ) as Promise<Schemas["RunPage"]>,
  });
  const [dragged, setDragged] = useState<Window | null>(null);
  const [wrong, setWrong] = useState("");
  const shown = dragged ?? query.data?.look.window_s;
  const keep = async () => {
    if (!shown) return;
    try {
      await ask(
        api.POST("/api/jobs/{job_id}/readings/{reading_id}/window", {
          params: { path: { job_id: id, reading_id: reading.id } },
          body: { version: reading.version, start_s: shown[0], end_s: shown[1] },
        }),
      );
      await edit.refresh();
      close();
    } catch (e) {
      setWrong(e instanceof Refused ? e.message : String(e));
    }
  };
  const levels = Object.entries(reading.levels ?? {});
  return (
    <Modal
      open
      onCancel={close}
      onOk={() => void keep()}
      okText="Use this window"
      okButtonProps={{ disabled: !dragged }}
      title={reading.file_name || reading.source}
      width={760}
    >
      <div className="form">
        {wrong ? (
          <p className="note danger" role="alert">
            {wrong}
          </p>
        ) : null}
        <State query={query}>
          {query.data && shown ? <RunPicture look={query.data.look} window={shown} choose={setDragged} /> : null}
        </State>
        <div className="figures">
          {levels.map(([name, value]) => (
            <span key={name}>
              {name} <b className="num">{num(value)} dB</b>
            </span>
          ))}
        </div>
        {reading.sound ? (
          <a href={`/api/jobs/${id}/readings/${reading.id}/loop.wav?seconds=60`} download="loop.wav">
            This window, looped to a minute, as a test signal (WAV)
          </a>
        ) : null}
        {reading.sound ? (
          <Player
            sources={[{ name: reading.file_name || "recording", url: `/api/jobs/${id}/readings/${reading.id}/sound` }]}
          />
        ) : null}
      </div>
    </Modal>
  );
}

// Plays recordings of one scale, switches between them without a gap, and low-passes them.
export function Player({ sources }: { sources: readonly { name: string; url: string }[] }) {
  const machine = useRef<{ context: AudioContext; gains: GainNode[]; filter: BiquadFilterNode } | null>(null);
  const [playing, setPlaying] = useState(false);
  const [which, setWhich] = useState(0);
  const [low, setLow] = useState(false);
  const [wrong, setWrong] = useState("");
  const stop = () => {
    void machine.current?.context.close();
    machine.current = null;
    setPlaying(false);
  };
  useEffect(() => () => void machine.current?.context.close(), []);
  const play = async () => {
    try {
      const context = new AudioContext();
      const filter = new BiquadFilterNode(context, { type: "lowpass", frequency: low ? 200 : context.sampleRate / 2 });
      filter.connect(context.destination);
      const buffers = await Promise.all(
        sources.map(async (s) => context.decodeAudioData(await (await fetch(s.url)).arrayBuffer())),
      );
      const gains = buffers.map((buffer, i) => {
        const source = new AudioBufferSourceNode(context, { buffer, loop: true });
        const gain = new GainNode(context, { gain: i === which ? 1 : 0 });
        source.connect(gain).connect(filter);
        source.start();
        return gain;
      });
      machine.current = { context, gains, filter };
      setPlaying(true);
      setWrong("");
    } catch {
      setWrong("The recording cannot be played here: it may be too long for this device, or its file is not kept.");
    }
  };
  const turn = (i: number) => {
    setWhich(i);
    machine.current?.gains.forEach((g, k) =>
      g.gain.setTargetAtTime(k === i ? 1 : 0, machine.current?.context.currentTime ?? 0, 0.01),
    );
  };
  const pass = () => {
    setLow(!low);
    if (machine.current) machine.current.filter.frequency.value = low ? machine.current.context.sampleRate / 2 : 200;
  };
  return (
    <div className="player" role="group" aria-label="Listen to it">
      <Button onClick={() => (playing ? stop() : void play())}>{playing ? "Stop" : "Play"}</Button>
      {sources.length > 1
        ? sources.map((s, i) => (
            <button key={s.url} className="chip" aria-pressed={i === which} onClick={() => turn(i)}>
              {s.name}
            </button>
          ))
        : null}
      <button className="chip" aria-pressed={low} onClick={pass}>
        only below 200 Hz
      </button>
      {wrong ? (
        <span className="wrong" role="alert">
          {wrong}
        </span>
      ) : null}
    </div>
  );
}
