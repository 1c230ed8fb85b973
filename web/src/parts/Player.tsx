// Sounds heard one beside another.
import { Button } from "antd";
import { useEffect, useRef, useState } from "react";

// Plays recordings of one scale, switches between them without a gap, and low-passes them.
export function Player({ sources }: { sources: readonly { name: string; url: string }[] }) {
  const machine = useRef<{ context: AudioContext; gains: GainNode[]; filter: BiquadFilterNode } | null>(null);
  const [playing, setPlaying] = useState(false);
  const [which, setWhich] = useState(0);
  const wanted = useRef(0); // what was pressed last, also while the sounds are still fetched
  const [low, setLow] = useState(false);
  const [wrong, setWrong] = useState("");
  const stop = () => {
    void machine.current?.context.close();
    machine.current = null;
    setPlaying(false);
  };
  useEffect(
    () => () => {
      void machine.current?.context.close();
      machine.current = null;
    },
    [],
  );
  const play = async () => {
    const context = new AudioContext();
    const filter = new BiquadFilterNode(context, { type: "lowpass", frequency: low ? 200 : context.sampleRate / 2 });
    filter.connect(context.destination);
    const mine = { context, gains: [] as GainNode[], filter };
    machine.current = mine; // from now on, so that a second press stops it rather than starting another
    setPlaying(true);
    setWrong("");
    try {
      const buffers = await Promise.all(
        sources.map(async (s) => context.decodeAudioData(await (await fetch(s.url)).arrayBuffer())),
      );
      if (machine.current !== mine) return;
      // all begin at one instant of the audio clock, so that switching between them never jumps
      const together = context.currentTime + 0.05;
      mine.gains = buffers.map((buffer, i) => {
        const source = new AudioBufferSourceNode(context, { buffer, loop: true });
        const gain = new GainNode(context, { gain: i === wanted.current ? 1 : 0 });
        source.connect(gain).connect(filter);
        source.start(together);
        return gain;
      });
    } catch {
      if (machine.current !== mine) return;
      stop();
      setWrong("The recording cannot be played here: it may be too long for this device, or its file is not kept.");
    }
  };
  const turn = (i: number) => {
    wanted.current = i;
    setWhich(i);
    if (!machine.current) return;
    // read once: the clock goes on between two readings, and the gains would no longer add up to one
    const at = machine.current.context.currentTime;
    machine.current.gains.forEach((g, k) => g.gain.setTargetAtTime(k === i ? 1 : 0, at, 0.01));
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
