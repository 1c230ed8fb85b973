// What answers are known by in the page, so that they can be asked for anew.
import type { Query, QueryClient, QueryKey } from "@tanstack/react-query";

type Init = { params?: { path?: { job_id?: number }; query?: Record<string, unknown> }; revision?: number };

const JOB = "/api/jobs/{job_id}";
const STAGE = /^\/api\/jobs\/\{job_id\}\/(listen|trace|build|cut|fit|prove)$/;

export const EVERY_JOB: QueryKey = ["get", JOB];
export const SHELF_KEY: QueryKey = ["get", "/api/shelf"];
export const WORKSHOP_KEY: QueryKey = ["get", "/api/workshop"];
export const BOARD: QueryKey = ["get", "/api/jobs"];
export const jobKey = (id: number): QueryKey => ["get", JOB, { params: { path: { job_id: id } } }];

const said = (key: QueryKey): { path: string; init: Init } => ({
  path: String(key[1]),
  init: (key[2] ?? {}) as Init,
});

// The job an answer is about.
export const jobOf = (key: QueryKey): number | null => said(key).init.params?.path?.job_id ?? null;

// The answers of a job's stages, or of one of them.
export const ofStages =
  (id: number, path?: string) =>
  ({ queryKey }: Query): boolean => {
    const key = said(queryKey);
    return STAGE.test(key.path) && key.init.params?.path?.job_id === id && (path ?? key.path) === key.path;
  };

// The newest answer there is to the same question about an earlier state of the job.
export function earlier<T>(
  client: QueryClient,
  id: number,
  path: string,
  asked: Record<string, unknown>,
): T | undefined {
  const same = JSON.stringify(asked);
  const found = client
    .getQueriesData<T>({ predicate: ofStages(id, path) })
    .map(([key, data]) => ({ init: said(key).init, data }))
    .filter(({ init, data }) => data !== undefined && JSON.stringify(init.params?.query ?? {}) === same)
    .sort((a, b) => (b.init.revision ?? 0) - (a.init.revision ?? 0));
  return found[0]?.data;
}
