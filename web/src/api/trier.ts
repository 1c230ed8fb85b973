// Asks what something not kept would give: one at a time, the newest next, so that a quick hand sees every answer there is.
// While the hand rests, what it would ask next is asked ahead; what is known of this hand is not asked again.
export function trier<Body, Answer>(ask: (body: Body) => Promise<Answer>, seen: (answer: Answer) => void) {
  type Asked = { told: string; body: Body };
  let wanted: Asked | null = null;
  let next: Asked | null = null;
  let shown = "";
  let asking = false;
  let known = new Map<string, Answer>();
  let refused = new Set<string>(); // what cannot be tried is seen once it is kept, or refused there
  const asked = (body: Body | null): Asked | null => (body === null ? null : { told: JSON.stringify(body), body });
  const show = (told: string) => {
    if (!known.has(told) || told === shown) return;
    shown = told;
    seen(known.get(told) as Answer);
  };
  const go = async () => {
    if (asking) return;
    asking = true;
    const [of, not] = [known, refused];
    const open = (one: Asked | null) => (one && !of.has(one.told) && !not.has(one.told) ? one : null);
    const first = () => open(wanted) ?? open(next);
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
    if (known !== of && wanted) void go();
  };
  return {
    // What is to be seen now, or nothing more of this hand; and what it would want next.
    want(body: Body | null, ahead: Body | null): void {
      [wanted, next] = [asked(body), asked(ahead)];
      if (wanted) {
        show(wanted.told);
        void go();
      } else [known, refused, shown] = [new Map(), new Set(), ""];
    },
  };
}
