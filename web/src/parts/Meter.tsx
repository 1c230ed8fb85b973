// A figure against its limit.
import type { Schemas } from "../api/client";
import { toldNumber, toldUnit, useUnits } from "./units";

export function Meter({ label, value, limit, unit, older, left, bought, note }: Schemas["Meter"]) {
  const units = useUnits();
  const said = (v: number, decimals = 1) => toldNumber(v, unit, units, decimals);
  const told = toldUnit(unit, units);
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
        <span className="num">{said(value)}</span> {limit ? `of ${said(limit, limit % 1 ? 1 : 0)} ` : ""}
        {told}
      </span>
      {left != null || bought != null ? (
        <span className="small meter-more">
          {[
            left == null ? "" : left < 0 ? `${said(-left)} ${told} too much` : `${said(left)} ${told} left`,
            bought == null ? "" : `${said(bought)} ${told} as bought`,
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
