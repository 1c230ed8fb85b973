// A surface of a usual size counts as measured once somebody moves its outline.
import type { Schemas } from "../../api/client";
import type { Operation } from "../../api/operations";

export const USUAL_SIZE = "usual size, not measured";

export const measured = (row: Schemas["Surface"], ...operations: Operation[]): Operation[] =>
  row.made_from === USUAL_SIZE ? [...operations, { op: "set", at: ["made_from"], value: "" }] : operations;
