// A search for a plan: begun, watched while it goes on, stopped; which one is open stands in the address.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { api, query, type Schemas } from "../../../api/client";
import { useAddress } from "../../../parts/address";

export type Found = Schemas["PlansFound"];
export type Plan = Schemas["FoundPlan"];

// A search ends within ten seconds: what it compares is compared ahead, while nobody waits. Whoever wants more asks for it.
export const SHORT_S = 8;
export const LONG_S = 30;

export function useSearch(id: number, revision: number) {
  const address = useAddress();
  const client = useQueryClient();
  const work = address.get("search") ?? "";
  const options = query.queryOptions("get", "/api/jobs/{job_id}/plan/{work_id}", {
    params: { path: { job_id: id, work_id: work } },
  });
  const asked = query.useQuery(
    "get",
    "/api/jobs/{job_id}/plan/{work_id}",
    { params: { path: { job_id: id, work_id: work } } },
    {
      enabled: work !== "",
      refetchInterval: (q) => {
        const seen = q.state.data as Schemas["PlanState"] | undefined;
        return seen?.open ? (seen.found ? 500 : 200) : false;
      },
      retry: false,
    },
  );
  const state = work ? (asked.data as Schemas["PlanState"] | undefined) : undefined;
  const begin = useMutation({
    mutationFn: async (body: Schemas["PlansAsked"]) => {
      const { data } = await api.POST("/api/jobs/{job_id}/plan", {
        params: { path: { job_id: id } },
        body,
      });
      return data;
    },
    onSuccess: (begun) => {
      if (begun) address.put({ search: begun.id, of: revision, at: null });
    },
  });
  const stop = async () => {
    await api.DELETE("/api/work/{work_id}", { params: { path: { work_id: work } } });
    await client.invalidateQueries({ queryKey: options.queryKey });
  };
  const older = state !== undefined && !state.open && (address.number("of") ?? revision) !== revision;
  return { work, state, begin, stop, older, lost: work !== "" && asked.error instanceof Error ? asked.error : null };
}

const RESTING_MS = 400;

// While the view is open and nobody has asked yet, what a search asked like this would begin with is worked out.
export function useAhead(id: number, revision: number, asked: Omit<Schemas["PlansAsked"], "seconds">, off: boolean) {
  const body = JSON.stringify(asked);
  useEffect(() => {
    if (off) return;
    let left = false;
    let begun = "";
    const stop = () =>
      void api.DELETE("/api/work/{work_id}", { params: { path: { work_id: begun } } }).catch(() => null);
    const begin = async () => {
      const { data } = await api.POST("/api/jobs/{job_id}/plan-ahead", {
        params: { path: { job_id: id } },
        body: { ...(JSON.parse(body) as typeof asked), seconds: LONG_S },
      });
      begun = data?.id ?? "";
      if (left && begun) stop();
    };
    // no plan can be found of this job, or the line is down: whoever asks for one is told so
    const timer = setTimeout(() => void begin().catch(() => null), RESTING_MS);
    return () => {
      left = true;
      clearTimeout(timer);
      if (begun) stop();
    };
  }, [id, revision, body, off]);
}

// The plan looked at: the one picked, else the cheapest that is enough, else the best.
export const pickedIn = (found: Found, at: number | null): number | null =>
  at !== null && at <= found.plans.length ? at - 1 : (found.cheapest ?? found.best ?? null);

// How a patch is named when it is kept as chosen, and the materials of the new layers of a plan.
export const materialsOf = (found: Found, plan: Plan): string[] => [
  ...new Set(
    found.units.flatMap((u, i) =>
      (u.options[plan.choice[i] ?? 0]?.ways ?? []).flatMap((w) => (w.layers ?? []).map((l) => l.material)),
    ),
  ),
];
