// Before it looks: what may be laid, how many kinds of it, how deep each place is, and what stays as it is planned.
import { Segmented, Select } from "antd";
import type { ReactNode } from "react";
import { query, type Schemas } from "../../../api/client";
import { useAddress } from "../../../parts/address";
import { Amount } from "../../../parts/Amount";
import { Note } from "../../../parts/said";
import type { StageProps } from "../../../parts/stage";
import { length, useUnits, amount } from "../../../parts/units";
import { num } from "../../../parts/words";
import css from "./plan.module.css";

export const listIn = (text: string | null) => (text ?? "").split(",").filter(Boolean);
export const toggled = (all: readonly string[], one: string) =>
  all.includes(one) ? all.filter((x) => x !== one) : [...all, one];
const USES = [
  { value: "all", label: "everything" },
  { value: "stock", label: "what is on hand" },
  { value: "these", label: "these" },
];
const KINDS = [
  { value: "", label: "as many as pay" },
  ...["2", "3", "4", "5"].map((n) => ({ value: n, label: `${n}` })),
];

export function Before({ id, page, edit }: StageProps) {
  const address = useAddress();
  const units = useUnits();
  const asked = query.useQuery("get", "/api/jobs/{job_id}/plan-offered", {
    params: { path: { job_id: id } },
    revision: page.revision,
  });
  const data = asked.data as Schemas["PlanOffered"] | undefined;
  const use = address.get("use") ?? "all";
  const pinned = listIn(address.get("pin"));
  if (!data) return null;
  const surfaces = new Map(page.document.surfaces.map((s) => [s.id, s]));
  const materials = data.materials.map((m) => ({
    value: m.material,
    label: m.m2 > 0 ? `${m.name} (${amount(m.m2, "m²", units)} on hand)` : m.name,
  }));
  const choose = (name: "only" | "strike", label: string): ReactNode => (
    <Select
      mode="multiple"
      className={css.wide ?? ""}
      aria-label={label}
      placeholder={label}
      optionFilterProp="label"
      value={listIn(address.get(name))}
      options={materials}
      onChange={(to: string[]) => address.put({ [name]: to.join(",") || null })}
    />
  );
  return (
    <div className={css.before}>
      <div>
        <h2>Lay</h2>
        <Segmented
          options={USES}
          value={use}
          aria-label="What to lay"
          onChange={(to) => address.put({ use: to === "all" ? null : to })}
        />
        {use === "these" ? choose("only", "Materials to use") : null}
        {use === "all" ? choose("strike", "Materials to leave out") : null}
        {use === "stock" ? (
          data.on_hand.length ? (
            <p className="small">
              {data.on_hand.map((m) => `${m.name} ${amount(m.m2, "m²", units)}`).join(", ")}. Tape, glue and screws may
              be bought.
            </p>
          ) : (
            <Note kind="info">Nobody has counted what is in the store: say it on the Shelf, at each size.</Note>
          )
        ) : null}
      </div>
      <div>
        <h2>Kinds of material at most</h2>
        <Segmented
          className={css.kinds ?? ""}
          options={KINDS}
          value={address.get("kinds") ?? ""}
          aria-label="Kinds of material at most"
          onChange={(to) => address.put({ kinds: to || null })}
        />
        <p className="small">
          When plans are compared each kind counts as {num(data.kind_money, 0)} {page.document.job.currency} more.
        </p>
      </div>
      <div className={css.depths}>
        <h2>{surfaces.size ? "How deep it may be" : "What may change"}</h2>
        {data.places.map((place) => {
          const surface = surfaces.get(place.surface_id ?? 0);
          if (!surface && place.surface_id) return null;
          const usual = place.depth_mm === null ? "" : `${length(place.depth_mm, units)} usual, judged`;
          return (
            <div key={place.key} className={css.place}>
              {!surface ? (
                <p>{place.name}: its walls, lining and air ways</p>
              ) : place.zone ? (
                <p>
                  {place.name}: {place.depth_mm === null ? "" : length(place.depth_mm, units)}
                </p>
              ) : (
                <Amount
                  label={place.name}
                  kind="length"
                  value={surface.depth_limit_mm}
                  placeholder={place.said && place.depth_mm !== null ? length(place.depth_mm, units) : usual}
                  save={(v) => edit.change("surfaces", surface, { depth_limit_mm: v })}
                />
              )}
              {place.laid ? (
                <span className="small">laid already, it stays</span>
              ) : place.chosen ? (
                <button
                  className="chip"
                  aria-pressed={pinned.includes(place.key)}
                  onClick={() => address.put({ pin: toggled(pinned, place.key).join(",") || null })}
                >
                  {pinned.includes(place.key) ? `stays: ${place.chosen}` : `keep ${place.chosen}`}
                </button>
              ) : null}
            </div>
          );
        })}
      </div>
    </div>
  );
}
