// A figure against its limit.
import type { Schemas } from "../api/client";
import { num } from "./words";

export function Meter({ label, value, limit, unit, older, left, bought, note }: Schemas["Meter"]) {
  const over = limit !== null && limit !== undefined && value > limit;
  const share = limit ? Math.min(100, (100 * value) / limit) : 0;
  return (
    <div className={`meter ${over ? "over" : ""}`}>
      <span>
        {label}
        {older ? <span className="small"> before the last change</span> : null}
        {note ? <span className="small"> {note}</span> : null}
      </span>
      <span>
        <span className="num">{num(value)}</span> {limit ? `of ${num(limit, limit % 1 ? 1 : 0)} ` : ""}
        {unit}
      </span>
      {left != null || bought != null ? (
        <span className="small meter-more">
          {[
            left == null ? "" : left < 0 ? `${num(-left)} ${unit} too much` : `${num(left)} ${unit} left`,
            bought == null ? "" : `${num(bought)} ${unit} as bought`,
          ]
            .filter(Boolean)
            .join(" · ")}
        </span>
      ) : null}
      {limit ? (
        <span className="bar">
          <i style={{ width: `${share}%` }} />
        </span>
      ) : null}
    </div>
  );
}
