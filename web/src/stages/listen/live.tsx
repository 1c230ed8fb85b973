// A live instrument in the capture panel: large digits, the trace of the last seconds, log with one key, hands-free.
import { Button, Select } from "antd";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, ask, author, Refused, type Schemas } from "../../api/client";
import type { StageProps } from "../../shell/JobShell";
import { typing } from "../../parts/typing";
import { hertz, num } from "../../parts/words";
import tapUrl from "./mic-worklet.js?url&no-inline";

type Live = Schemas["LiveView"];
type Props = {
  id: number;
  edit: StageProps["edit"];
  at: { position_id: number; condition_id: number; round_id: number };
  background: boolean;
  instrument: "meter" | "microphone";
  close: () => void;
};

const POLL_MS = 250;

// Opens the microphone without the browser's own gain control and posts its samples.
async function openMicrophone(capture: string, context: AudioContext, stream: MediaStream, fail: (e: unknown) => void) {
  await context.audioWorklet.addModule(tapUrl);
  const tap = new AudioWorkletNode(context, "tap", { numberOfOutputs: 0 });
  context.createMediaStreamSource(stream).connect(tap);
  let turn: Promise<unknown> = Promise.resolve();
  tap.port.onmessage = (e: MessageEvent<Float32Array>) => {
    turn = turn
      .then(() =>
        fetch(`/api/captures/${capture}/samples`, {
          method: "POST",
          body: e.data as Float32Array<ArrayBuffer>,
          headers: { "X-Author": author(), "Content-Type": "application/octet-stream" },
        }),
      )
      .catch(fail);
  };
}

function beep() {
  const context = new AudioContext();
  const tone = context.createOscillator();
  const level = context.createGain();
  level.gain.value = 0.2;
  tone.frequency.value = 660;
  tone.connect(level).connect(context.destination);
  tone.start();
  tone.stop(context.currentTime + 0.35);
  tone.onended = () => void context.close();
}

export function LivePanel({ id, edit, at, background, instrument, close }: Props) {
  const [live, setLive] = useState<Live | null>(null);
  const [frozen, setFrozen] = useState<Live | null>(null);
  const [scenes, setScenes] = useState<readonly string[]>([]);
  const [scene, setScene] = useState("steady run");
  const [wrong, setWrong] = useState("");
  const [busy, setBusy] = useState(false);
  const key = useRef<string | null>(null);
  const kept = useRef(0);
  const { position_id, condition_id, round_id } = at;

  useEffect(() => {
    let gone = false;
    let stream: MediaStream | undefined;
    let context: AudioContext | undefined;
    let timer: ReturnType<typeof setTimeout>;
    const fail = (e: unknown) => !gone && setWrong(e instanceof Error ? e.message : String(e));
    const poll = async () => {
      if (gone || !key.current) return;
      try {
        setLive(await ask(api.GET("/api/captures/{capture}", { params: { path: { capture: key.current } } })));
      } catch (e) {
        fail(e);
      }
      timer = setTimeout(() => void poll(), POLL_MS);
    };
    const begin = async () => {
      try {
        if (instrument === "microphone") {
          stream = await navigator.mediaDevices.getUserMedia({
            audio: { autoGainControl: false, echoCancellation: false, noiseSuppression: false, channelCount: 1 },
          });
          context = new AudioContext();
        }
        const opened = await ask(
          api.POST("/api/jobs/{job_id}/captures", {
            params: { path: { job_id: id } },
            body: {
              instrument,
              scene,
              position_id,
              condition_id,
              round_id,
              background,
              sample_rate_hz: context?.sampleRate ?? 48000,
              rate: 1,
              drop_s: Number(new URLSearchParams(location.search).get("drop") ?? 0),
            },
          }),
        );
        key.current = opened.capture;
        setScenes(opened.scenes);
        if (stream && context) await openMicrophone(opened.capture, context, stream, fail);
        await poll();
      } catch (e) {
        fail(
          e instanceof DOMException
            ? new Error("The microphone was not let in: allow it for this page, or type the level.")
            : e,
        );
      }
    };
    void begin();
    return () => {
      gone = true;
      clearTimeout(timer);
      stream?.getTracks().forEach((t) => t.stop());
      void context?.close();
      if (key.current) void api.DELETE("/api/captures/{capture}", { params: { path: { capture: key.current } } });
      key.current = null;
    };
  }, [id, instrument, scene, position_id, condition_id, round_id, background]);

  useEffect(() => {
    if (live && live.kept > kept.current) {
      kept.current = live.kept;
      beep();
      void edit.refresh();
    }
  }, [live, edit]);

  const logging = live?.logging_s != null;
  const toggle = useCallback(async () => {
    if (!key.current || busy) return;
    setBusy(true);
    try {
      const path = { capture: key.current };
      await ask(api.POST("/api/captures/{capture}/log", { params: { path }, body: { on: !logging } }));
      setLive(await ask(api.GET("/api/captures/{capture}", { params: { path } })));
      setWrong("");
      if (logging) await edit.refresh();
    } catch (e) {
      setWrong(e instanceof Refused ? e.message : String(e));
    } finally {
      setBusy(false);
    }
  }, [busy, edit, logging]);

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.key !== "l" || e.ctrlKey || e.metaKey || typing(e.target)) return;
      e.preventDefault();
      void toggle();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [toggle]);

  const arm = async () => {
    if (!key.current || !live) return;
    setLive(
      await ask(
        api.POST("/api/captures/{capture}/arm", {
          params: { path: { capture: key.current } },
          body: { on: !live.armed },
        }),
      ),
    );
  };
  const shown = frozen ?? live;
  return (
    <div className="live" data-testid="live" data-state={live?.state ?? "opening"}>
      <div className="live-head">
        <b>{shown?.identity.name ?? "Opening …"}</b>
        <span className="small">
          {live ? (live.identity.calibrated ? live.identity.kind : "not calibrated: differences only") : ""}
        </span>
      </div>
      <div className={`digits ${shown?.overload ? "over" : ""}`} aria-live="off">
        {shown?.level_db != null ? num(shown.level_db) : "––.–"} <small>{shown?.unit ?? "dB(A)"}</small>
      </div>
      <p className="small live-range">
        {shown?.low_db != null
          ? `${num(shown.low_db)} to ${num(shown.high_db)} in 5 s`
          : "waiting for the first levels"}
        {shown?.overload ? <b className="danger"> overload</b> : null}
        {shown?.steady ? <b className="good"> steady</b> : null}
        {frozen ? <b> frozen</b> : null}
      </p>
      <LiveTrace values={shown?.trace_db ?? []} />
      {shown?.bands_db.length ? <LiveBands hz={shown.bands_hz} db={shown.bands_db} /> : null}
      {live?.said ? (
        <p className="note warn" role="status">
          {live.said}
        </p>
      ) : null}
      {wrong ? (
        <p className="note danger" role="alert">
          {wrong}
        </p>
      ) : null}
      <div className="acts">
        <Button type="primary" size="large" disabled={!live || busy} onClick={() => void toggle()}>
          {logging ? `● Keep: ${num(live?.logging_s)} s, ${num(live?.mean_db)} ${live?.unit ?? ""}` : "Log (l)"}
        </Button>
        <button className="chip" aria-pressed={frozen !== null} onClick={() => setFrozen(frozen ? null : live)}>
          freeze
        </button>
        <button className="chip" onClick={close}>
          close
        </button>
      </div>
      <button className="chip wide" aria-pressed={live?.armed ?? false} disabled={!live} onClick={() => void arm()}>
        {live?.armed ? `hands-free is on: ${live.kept} kept` : "hands-free: keep by itself when steady"}
      </button>
      {live?.armed ? (
        <p className="note danger">Do not touch this while driving. A tone says when a reading is kept.</p>
      ) : null}
      {instrument === "meter" && scenes.length ? (
        <label className="field">
          <span>Scene of the simulated meter</span>
          <Select value={scene} options={scenes.map((value) => ({ value, label: value }))} onChange={setScene} />
        </label>
      ) : null}
    </div>
  );
}

function LiveTrace({ values }: { values: readonly number[] }) {
  if (values.length < 2) return <svg className="live-trace" viewBox="0 0 300 60" aria-hidden />;
  const low = Math.min(...values);
  const span = Math.max(Math.max(...values) - low, 6);
  const d = values
    .map(
      (v, i) =>
        `${i ? "L" : "M"}${((i / (values.length - 1)) * 300).toFixed(1)} ${(56 - ((v - low) / span) * 52).toFixed(1)}`,
    )
    .join("");
  return (
    <svg
      className="live-trace"
      viewBox="0 0 300 60"
      preserveAspectRatio="none"
      role="img"
      aria-label="Level of the last 30 seconds"
    >
      <path d={d} fill="none" stroke="var(--water)" strokeWidth={1.8} vectorEffect="non-scaling-stroke" />
    </svg>
  );
}

function LiveBands({ hz, db }: { hz: readonly number[]; db: readonly (number | null)[] }) {
  const bands = hz.map((f, i) => ({ f, v: db[i] ?? null })).filter((b) => b.f >= 25 && b.f <= 10000);
  const known = bands.map((b) => b.v).filter((v): v is number => v !== null);
  if (!known.length) return null;
  const high = Math.max(...known);
  const step = 300 / bands.length;
  const tall = (v: number | null) => (v === null ? 0 : Math.max(0, 50 - (high - v)));
  return (
    <svg
      className="live-bands"
      viewBox="0 0 300 66"
      role="img"
      aria-label={`One-third octaves, unweighted; the loudest reads ${num(high)} dB`}
    >
      {bands.map((b, i) => (
        <rect key={b.f} x={i * step + 1} width={step - 2} y={52 - tall(b.v)} height={tall(b.v)} fill="var(--water)">
          <title>{`${hertz(b.f)} Hz: ${num(b.v)} dB`}</title>
        </rect>
      ))}
      {bands.map((b, i) =>
        [31.5, 125, 500, 2000, 8000].includes(b.f) ? (
          <text key={b.f} x={(i + 0.5) * step} y={64} textAnchor="middle" fontSize={10} className="soft">
            {hertz(b.f)}
          </text>
        ) : null,
      )}
      <text x={299} y={9} textAnchor="end" fontSize={10} className="soft">
        top {num(high, 0)} dB, Hz
      </text>
    </svg>
  );
}
