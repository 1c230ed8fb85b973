// Time as the server has it, the clocks that run down, and what tells of them: sound, shaking, a screen that stays awake.
import { useEffect, useState } from "react";
import type { Schemas } from "../../api/client";
import { serverNow } from "../../api/client";

type Step = Schemas["StepView"];
export type Running = { step: Step; name: string; then: string; endsAt: number };

const SECOND = 1000;
// for so long a weekday tells which day is meant
const WEEKDAY_TELLS = 6 * 24 * 3600 * SECOND;

// The time of the server, told anew while something runs.
export function useNow(on: boolean): number {
  const [now, setNow] = useState(serverNow);
  useEffect(() => {
    if (!on) return;
    const tell = () => setNow(serverNow());
    const timer = setInterval(tell, 500);
    document.addEventListener("visibilitychange", tell);
    return () => {
      clearInterval(timer);
      document.removeEventListener("visibilitychange", tell);
    };
  }, [on]);
  return on ? now : serverNow();
}

export const runningOf = (steps: readonly Step[]): Running[] =>
  steps
    .flatMap((step) =>
      step.timers
        .filter((t) => t.ends_at)
        .map((t) => ({ step, name: t.name, then: t.then, endsAt: Date.parse(t.ends_at ?? "") })),
    )
    .sort((a, b) => a.endsAt - b.endsAt);

export const minutesAndSeconds = (ms: number): string => {
  const s = Math.max(0, Math.ceil(ms / SECOND));
  const hours = Math.floor(s / 3600);
  const [m, rest] = [Math.floor((s % 3600) / 60), String(s % 60).padStart(2, "0")];
  return hours ? `${hours}:${String(m).padStart(2, "0")}:${rest}` : `${m}:${rest}`;
};

export const timeOfDay = (at: number): string => {
  const [then, now] = [new Date(at), serverNow()];
  const today = then.toDateString() === new Date(now).toDateString();
  const day =
    Math.abs(at - now) < WEEKDAY_TELLS
      ? { weekday: "short" as const }
      : { day: "numeric" as const, month: "short" as const };
  return then.toLocaleTimeString([], { ...(today ? {} : day), hour: "2-digit", minute: "2-digit" });
};

let speaker: AudioContext | null = null;
// A browser lets a page sound only after a press: the press that starts a clock.
export function unlockSound(): void {
  speaker ??= new AudioContext();
  void speaker.resume();
}

export function ring(): void {
  if ("vibrate" in navigator) navigator.vibrate([400, 200, 400]);
  if (speaker?.state !== "running") return;
  for (const at of [0, 0.4, 0.8]) {
    const [tone, loudness] = [speaker.createOscillator(), speaker.createGain()];
    tone.frequency.value = 880;
    loudness.gain.value = 0.25;
    tone.connect(loudness).connect(speaker.destination);
    tone.start(speaker.currentTime + at);
    tone.stop(speaker.currentTime + at + 0.25);
  }
}

// The screen stays awake while something runs, where the browser can.
export function useAwake(on: boolean): void {
  useEffect(() => {
    if (!on || !("wakeLock" in navigator)) return;
    let lock: WakeLockSentinel | null = null;
    let left = false;
    const hold = () => {
      if (document.visibilityState !== "visible") return;
      navigator.wakeLock
        .request("screen")
        .then((l) => (left ? void l.release() : void (lock = l)))
        .catch(() => undefined); // a low battery forbids it
    };
    hold();
    document.addEventListener("visibilitychange", hold);
    return () => {
      left = true;
      document.removeEventListener("visibilitychange", hold);
      void lock?.release();
    };
  }, [on]);
}
