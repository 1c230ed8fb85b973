// The shapes the server speaks in, as its OpenAPI document has them.
import type { components } from "./schema";

export type Schemas = components["schemas"];
export type Refusal = Schemas["Refusal"];
export type Doc = Schemas["JobDocument"];
