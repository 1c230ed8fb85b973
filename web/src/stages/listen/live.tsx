// A live instrument in the capture panel: large digits, the trace of the last seconds, log with one key, hands-free.
import { ThumbAction } from "../../parts/thumb";
import { Button, Select } from "antd";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, ask, author, Refused, type Schemas } from "../../api/client";
import type { StageProps } from "../../parts/stage";
import { typing } from "../../parts/typing";
import { num } from "../../parts/words";
import css from "./listen.module.css";
import tapUrl from "./mic-worklet.js?url&no-inline";
import { LiveBands, LiveTrace } from "./pictures";

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
    <div className={css.live} data-testid="live" data-state={live?.state ?? "opening"}>
      <div className={css.liveHead}>
        <b>{shown?.identity.name ?? "Opening …"}</b>
        <span className="small">
          {live ? (live.identity.calibrated ? live.identity.kind : "not calibrated: differences only") : ""}
        </span>
      </div>
      <div className={`${css.digits} ${shown?.overload ? css.over : ""}`} aria-live="off" data-testid="digits">
        {shown?.level_db != null ? num(shown.level_db) : "––.–"} <small>{shown?.unit ?? "dB(A)"}</small>
      </div>
      <p className={`small ${css.liveRange}`} data-testid="live-range">
        {shown?.low_db != null
          ? `${num(shown.low_db)} to ${num(shown.high_db)} in 5 s`
          : "waiting for the first levels"}
        {shown?.overload ? <b className="danger"> overload</b> : null}
        {shown?.steady ? <b className="good"> steady</b> : null}
        {frozen ? <b> frozen</b> : null}
      </p>
      <LiveTrace values={shown?.trace_db ?? []} unit={shown?.unit ?? "dB(A)"} />
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
      <ThumbAction>
        <Button type="primary" disabled={!live || busy} onClick={() => void toggle()}>
          {logging ? `Keep ${num(live?.mean_db)} ${live?.unit ?? ""}` : "Log what it reads"}
        </Button>
      </ThumbAction>
      <button
        className={`chip ${css.wide}`}
        aria-pressed={live?.armed ?? false}
        disabled={!live}
        onClick={() => void arm()}
      >
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
