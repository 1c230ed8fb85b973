// What could lie in a layer's place, each with what comes through then: seen before it is taken, taken with one click.
import { memo } from "react";
import { query } from "../../api/client";
import { sameBut } from "../../parts/steady";
import { length, mass, useUnits, toldUnit } from "../../parts/units";
import { money, signed } from "../../parts/words";
import { useShelf } from "../../api/hooks";
import css from "./build.module.css";
import type { Change } from "./sectionDrawing";

type Props = { job: number; surface: number; plan: number; own: string; open: boolean; change: Change };

export const Swaps = memo(function Swaps({ job, surface, plan, own, open, change }: Props) {
  const units = useUnits();
  const currency = useShelf().data?.currency ?? "";
  const known = plan > 0 && own;
  const found = query.useQuery(
    "get",
    "/api/jobs/{job_id}/swaps",
    {
      params: {
        path: { job_id: job },
        query: { surface_id: surface, alternative_id: plan, layer: own },
      },
    },
    { enabled: Boolean(known && open), staleTime: 0 },
  );
  const swaps = found.data?.swaps ?? [];
  if (swaps.length < 2) return null;
  const take = (s: (typeof swaps)[number]) =>
    change(
      { op: "set", at: ["layers", own, "material"], value: s.material },
      { op: "set", at: ["layers", own, "thickness_mm"], value: s.thickness_mm },
    ).then(() => found.refetch());
  return (
    <div className={css.swaps} role="group" aria-label="In its place">
      <b className="small">In its place: through it · {toldUnit("kg", units)} · price of the stack</b>
      {swaps.map((s) => (
        <button key={s.material} aria-pressed={s.now} disabled={s.now} onClick={() => void take(s)}>
          <span>
            {s.name} {length(s.thickness_mm, units)}
          </span>
          <span className="num">
            {s.through_db === null ? "no curve" : `${signed(s.through_db)} dB`} · {mass(s.kg, units)} ·{" "}
            {money(s.money, currency)}
            {s.unpriced ? " +?" : ""}
          </span>
        </button>
      ))}
    </div>
  );
}, sameBut("change"));
