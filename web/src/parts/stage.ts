// What every stage is given: the job's number, its page, and the hand that edits it.
import type { Schemas } from "../api/client";
import type { Editing } from "../api/edits";

export type StageProps = {
  id: number;
  page: Schemas["JobPage"];
  edit: Editing;
  settled?: boolean;
  here?: readonly Schemas["Somebody"][];
};

export const STAGES = ["listen", "trace", "build", "cut", "fit", "prove"] as const;
export type StageName = (typeof STAGES)[number];
export const titled = (stage: string): string => stage.charAt(0).toUpperCase() + stage.slice(1);
