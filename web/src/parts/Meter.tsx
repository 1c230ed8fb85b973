// A figure against its limit.
import type { Schemas } from "../api/client";
import { num } from "./words";

export function Meter({ label, value, limit, unit, older }: Schemas["Meter"]) {
  const over = limit !== null && limit !== undefined && value > limit;
  const share = limit ? Math.min(100, (100 * value) / limit) : 0;
  return (
    <div className={`meter ${over ? "over" : ""}`}>
      <span>
        {label}
        {older ? <span className="small"> before the last change</span> : null}
      </span>
      <span>
        <span className="num">{num(value)}</span> {limit ? `of ${num(limit, limit % 1 ? 1 : 0)} ` : ""}
        {unit}
      </span>
      {limit ? (
        <span className="bar">
          <i style={{ width: `${share}%` }} />
        </span>
      ) : null}
    </div>
  );
}
