// Asks what something not kept would give: one at a time, the newest next, so that a quick hand sees every answer there is.
// While the hand rests, or lies ready, what it would ask next is asked ahead; what is known of this hand is not asked again.
export function trier<Body, Answer>(ask: (body: Body) => Promise<Answer>, seen: (answer: Answer) => void) {
  type Asked = { told: string; body: Body };
  let wanted: Asked | null = null;
  let next: Asked[] = [];
  let [shown, from] = ["", ""];
  let asking = false;
  let known = new Map<string, Answer>();
  let refused = new Set<string>(); // what cannot be tried is seen once it is kept, or refused there
  const asked = (body: Body): Asked => ({ told: JSON.stringify(body), body });
  const show = (told: string) => {
    if (!known.has(told) || told === shown) return;
    shown = told;
    seen(known.get(told) as Answer);
  };
  const go = async () => {
    if (asking) return;
    asking = true;
    const [of, not] = [known, refused];
    const first = () => [...(wanted ? [wanted] : []), ...next].find((one) => !of.has(one.told) && !not.has(one.told));
    for (let one = first(); one && known === of; one = first()) {
      const now = one === wanted;
      try {
        of.set(one.told, await ask(one.body));
      } catch {
        not.add(one.told);
      }
      if (known === of && wanted) show(of.has(wanted.told) || !now ? wanted.told : one.told);
    }
    asking = false;
    if (known !== of && (wanted || next.length)) void go();
  };
  return {
    // What is to be seen now, or nothing more of this hand; what it would want next; and of which state of things that is
    // before anything is wanted.
    want(body: Body | null, ahead: readonly Body[], state = ""): void {
      [wanted, next] = [body === null ? null : asked(body), ahead.map(asked)];
      if (wanted) show(wanted.told);
      else {
        shown = "";
        if (!next.length || state !== from) [known, refused] = [new Map(), new Set()];
        from = state;
      }
      if (wanted || next.length) void go();
    },
  };
}
