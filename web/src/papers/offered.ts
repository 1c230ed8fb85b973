// The plans an offer of a job is to hold, kept for this tab until it is closed.
import { useState } from "react";
import type { Schemas } from "../api/client";

export type Plan = Schemas["PlanAsked"];
export const MOST = 3;
const FIRST: Plan = { name: "as planned", chosen: {}, changes: [] };
const named = (id: number) => `offer-${id}`;

const plansOf = (id: number): Plan[] => {
  try {
    const kept = JSON.parse(sessionStorage.getItem(named(id)) ?? "[]") as Plan[];
    return kept.length ? kept : [FIRST];
  } catch {
    return [FIRST];
  }
};

export function useOffered(id: number): [Plan[], (next: Plan[]) => void] {
  const [plans, setPlans] = useState(() => plansOf(id));
  const set = (next: Plan[]) => {
    sessionStorage.setItem(named(id), JSON.stringify(next));
    setPlans(next);
  };
  return [plans, set];
}

// Another plan beside them, in the place of one of its name; an error where there are as many as an offer holds.
export function alsoOffered(id: number, plan: Plan) {
  const kept = plansOf(id);
  const at = kept.findIndex((p) => p.name === plan.name);
  if (at < 0 && kept.length >= MOST) throw new Error(`An offer holds ${MOST} plans. Leave one out of it first.`);
  const next = at < 0 ? [...kept, plan] : kept.map((p, i) => (i === at ? plan : p));
  sessionStorage.setItem(named(id), JSON.stringify(next));
}
