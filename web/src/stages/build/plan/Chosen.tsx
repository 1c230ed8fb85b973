// A plan in full: what it gives and takes beside what is planned now, why, what a little more buys, and each surface of it.
import { Button } from "antd";
import type { ReactNode } from "react";
import type { Schemas } from "../../../api/client";
import { Meter } from "../../../parts/Meter";
import { Note } from "../../../parts/said";
import { mass, useUnits } from "../../../parts/units";
import { num, signed } from "../../../parts/words";
import css from "./plan.module.css";
import type { Found, Plan } from "./search";

type Props = {
  found: Found;
  at: number;
  currency: string;
  pinned: readonly string[];
  pin: (key: string) => void;
  take: () => void;
  offer: () => void;
  hear: ReactNode;
};

export function Chosen({ found, at, currency, pinned, pin, take, offer, hear }: Props) {
  const plan = found.plans[at];
  const { own } = found;
  if (!plan) return null;
  return (
    <>
      <p className={css.big}>
        {signed(-plan.reduction_db)} dB <small>± {num(plan.within_db)} dB</small>
      </p>
      {plan.level_db != null ? (
        <p className="small">
          to {num(plan.level_db)} {found.unit}
          {found.now_db != null ? ` from ${num(found.now_db)}` : ""}
        </p>
      ) : null}
      <p className={css.why}>{plan.why}</p>
      <div className="acts">
        <Button type="primary" size="large" onClick={take}>
          Take into Build
        </Button>
        <Button size="large" onClick={offer}>
          Offer it
        </Button>
      </div>
      <Sums found={found} plan={plan} currency={currency} />
      {own ? <Beside plan={plan} own={own} currency={currency} /> : null}
      <h2>Hear it</h2>
      {hear}
      <h2>What comes next</h2>
      <p className="small">{found.next_steps[at]}</p>
      {at === found.best
        ? found.if_changed.map((t) => (
            <p key={t} className="small">
              {t}
            </p>
          ))
        : null}
      <p className="small">
        With a source 5 dB stronger below 250 Hz it gives {num(plan.other_sources_db[0])} dB, above it{" "}
        {num(plan.other_sources_db[1])} dB.
      </p>
      <h2>Surface by surface</h2>
      <Units found={found} plan={plan} pinned={pinned} pin={pin} />
    </>
  );
}

function Sums({ found, plan, currency }: { found: Found; plan: Plan; currency: string }) {
  const meter = (
    label: string,
    value: number,
    limit: number | undefined,
    unit: string,
    note = "",
  ): Schemas["Meter"] => ({
    label,
    value,
    limit: limit ?? null,
    unit,
    left: null,
    bought: null,
    note,
    older: false,
  });
  return (
    <>
      <Meter {...meter("Added weight", plan.added_kg, found.limits["added_kg"], "kg")} />
      <Meter
        {...meter(
          plan.estimated ? "To buy, about" : "To buy",
          plan.money,
          found.limits["money"],
          currency,
          plan.estimated ? "estimated by area: not laid out yet" : "as laid out",
        )}
      />
      {plan.warmer_k != null ? <Meter {...meter("Warmer in the box", plan.warmer_k, undefined, "K")} /> : null}
      <Meter {...meter("Work", plan.hours, found.limits["hours"], "h")} />
    </>
  );
}

function Beside({ plan, own, currency }: { plan: Plan; own: Plan; currency: string }) {
  const units = useUnits();
  const change = (value: number, text: string) =>
    Math.abs(value) < 0.05 ? "the same" : `${text} ${value > 0 ? "more" : "less"}`;
  const [db, kg, cost, hours] = [
    plan.reduction_db - own.reduction_db,
    plan.added_kg - own.added_kg,
    plan.money - own.money,
    plan.hours - own.hours,
  ];
  const good = db >= 0 && kg <= 0.05 && cost <= 0.5 && hours <= 0.05;
  const saves = kg < -0.05 || cost < -0.5 || hours < -0.05;
  if (good && db < 0.05 && !saves) return <Note kind="info">This is what is planned now, or no better than that.</Note>;
  return (
    <Note kind={good ? "good" : "info"}>
      Beside what is planned now ({signed(-own.reduction_db)} dB):{" "}
      {change(-db, `${num(Math.abs(db))} dB`)
        .replace("less", "quieter")
        .replace("more", "louder")}
      ; weight {change(kg, mass(Math.abs(kg), units))}, money {change(cost, `${num(Math.abs(cost), 0)} ${currency}`)},
      work {change(hours, `${num(Math.abs(hours))} h`)}.
    </Note>
  );
}

function Units({ found, plan, pinned, pin }: { found: Found; plan: Plan } & Pick<Props, "pinned" | "pin">) {
  return (
    <table className={css.units}>
      <thead>
        <tr>
          <th scope="col">What is done</th>
          <th scope="col">leaves</th>
        </tr>
      </thead>
      <tbody>
        {found.units.map((u, i) => {
          const option = u.options[plan.choice[i] ?? 0];
          const keys = [
            ...(option?.ways ?? []).map((w) => (w.zone ? `${w.surface_id}:${w.zone}` : `${w.surface_id}`)),
            ...(option?.builds ?? []).map((b) => `build ${b.build_id}`),
          ];
          return (
            <tr key={u.name}>
              <td>
                <b>{u.name}</b>
                <div className={option?.still ? css.still : undefined}>{option?.name}</div>
                {u.laid ? (
                  <span className="small">laid already, it stays</span>
                ) : keys.length ? (
                  <Keep keys={keys} pinned={pinned} pin={pin} />
                ) : null}
              </td>
              <td className="num">
                {num(plan.path_db[i])} {found.unit}
              </td>
            </tr>
          );
        })}
        {(plan.builds ?? []).map((b) => (
          <tr key={`build ${b.build_id}`}>
            <td>
              <b>{b.name}</b>
              <div className={b.chosen ? undefined : css.still}>
                {b.chosen ? b.words || "as it is given" : "left out"}
              </div>
              <Keep keys={[`build ${b.build_id}`]} pinned={pinned} pin={pin} />
            </td>
            <td>over all</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Keep({ keys, pinned, pin }: { keys: readonly string[] } & Pick<Props, "pinned" | "pin">) {
  const kept = keys.every((k) => pinned.includes(k));
  return (
    <button className="chip" aria-pressed={kept} onClick={() => keys.forEach(pin)}>
      {kept ? "kept as planned now" : "keep as planned now"}
    </button>
  );
}
