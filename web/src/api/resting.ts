// Waiting that somebody can cut short: until the server is tried again, and until a hand that makes a gesture rests.
const HELD_MS = 8000;

export function resting(holdMs: number) {
  let poke: () => void = () => undefined;
  let hurried = false;
  const pause = (ms: number) =>
    new Promise<void>((go) => {
      const timer = setTimeout(go, ms);
      poke = () => {
        clearTimeout(timer);
        go();
      };
    });
  return {
    pause,
    poke: () => poke(),
    // What is held back goes at once, and is held back no more until further notice.
    hurry: (on: boolean) => {
      hurried = on;
      if (on) poke();
    },
    // Until what a hand makes stays as it is, at most a while.
    of: async (made: () => unknown) => {
      const begun = Date.now();
      let seen: unknown;
      while (seen !== made() && Date.now() - begun < HELD_MS && !hurried) {
        seen = made();
        await pause(holdMs);
      }
    },
  };
}
