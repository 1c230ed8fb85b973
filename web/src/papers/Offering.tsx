// The offer: up to three plans beside each other, each with its promise, what it will not do, and its price; handed over with a number.
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useState } from "react";
import { api, ask, Refused, type Schemas } from "../api/client";
import { useAsSeen } from "../api/hooks";
import { useAddress } from "../parts/address";
import { useOnce } from "../parts/once";
import { Note, Said } from "../parts/said";
import type { StageProps } from "../parts/stage";
import { ThumbAction } from "../parts/thumb";
import { amount, useUnits } from "../parts/units";
import { money, signed } from "../parts/words";
import { MOST, useOffered, type Plan } from "./offered";
import css from "./papers.module.css";
import { Papers, useHandOver, usePapers } from "./Papers";

type Offered = Schemas["OfferedPlan"];

export function Offering({ id, page }: StageProps) {
  const doc = page.document;
  const address = useAddress();
  const [plans, setPlans] = useOffered(id);
  const [said, setSaid] = useState("");
  const [busy, once] = useOnce();
  const papers = usePapers(id);
  const { hand } = useHandOver(id);
  const seen = useAsSeen(id);
  const asked = useQuery({
    queryKey: ["offer", id, page.revision, plans],
    queryFn: () =>
      ask(api.POST("/api/jobs/{job_id}/offer", { params: { path: { job_id: id } }, body: { plans, on: "" } })),
    placeholderData: keepPreviousData,
    // prices settle as pieces are laid out behind the page
    refetchInterval: (q) => (q.state.data?.late ? 1000 : false),
    retry: false,
  });
  const offer = asked.data?.offer as Schemas["JobOffer"] | undefined;
  const last = papers.data?.papers.find((p) => p.kind === "offer" && p.state !== "void" && p.state !== "drawing");
  const change = (at: number, more: Partial<Plan>) => setPlans(plans.map((p, i) => (i === at ? { ...p, ...more } : p)));
  const handOver = () =>
    once(async () => {
      if (!asked.data || !offer) return;
      setSaid("");
      try {
        await hand({
          kind: "offer",
          plans,
          on: offer.on,
          audience: "customer",
          revision: asked.data.revision,
          seen: offer,
          version_of: last?.id ?? null,
        });
      } catch (error) {
        setSaid(error instanceof Refused || error instanceof Error ? error.message : "Not handed over.");
        await asked.refetch();
      }
    });
  const press = (
    <Button
      type="primary"
      disabled={!seen || !offer || asked.isPlaceholderData || asked.data?.late === true}
      loading={busy}
      onClick={() => void handOver()}
    >
      Hand it over{last ? `, after ${last.number}` : ""}
    </Button>
  );
  const sentence = offer
    ? `${offer.plans.length === 1 ? "One plan" : `${offer.plans.length} plans`} to offer.`
    : "To offer.";
  return (
    <>
      <section>
        <Said sentence={sentence} detail={offer?.heard ?? ""} />
        <div className="chips">
          <button className="chip" onClick={() => address.go({ view: null })}>
            ← back to Build
          </button>
          {plans.length < MOST ? (
            <>
              <button
                className="chip proposed"
                onClick={() => setPlans([...plans, { name: freeName(plans), chosen: {}, changes: [] }])}
              >
                + another plan
              </button>
              <button className="chip proposed" onClick={() => address.go({ view: "plan" })}>
                + one the planner finds …
              </button>
            </>
          ) : null}
        </div>
        {asked.error ? <Note kind="warn">{asked.error.message}</Note> : null}
        <div className={css["plans"]}>
          {plans.map((plan, i) => (
            <article key={i} className={css["plan"]} aria-label={plan.name}>
              <Input
                aria-label="Name of the plan"
                value={plan.name}
                maxLength={80}
                onChange={(e) => change(i, { name: e.target.value || "plan" })}
              />
              {offer?.plans[i] ? <Promised plan={offer.plans[i]} late={asked.data?.late ?? false} /> : null}
              <h2>What lies where</h2>
              {plan.changes?.length ? (
                <ul className="small">
                  {(offer?.plans[i]?.does ?? []).map((x) => (
                    <li key={x}>{x}</li>
                  ))}
                </ul>
              ) : (
                <Lies doc={doc} plan={plan} change={(chosen) => change(i, { chosen })} />
              )}
              {plans.length > 1 ? (
                <Button size="small" onClick={() => setPlans(plans.filter((_, k) => k !== i))}>
                  Leave it out
                </Button>
              ) : null}
            </article>
          ))}
        </div>
      </section>
      <aside>
        <h2>To the customer</h2>
        <ThumbAction>{press}</ThumbAction>
        {offer ? (
          <p className="small">
            Valid until {offer.valid_until}. Terms, address and tax are on the Shelf, under Workshop.
          </p>
        ) : null}
        {asked.data?.late ? (
          <Note kind="info">Pieces are still being laid out: the price settles in a moment.</Note>
        ) : null}
        {said ? <Note kind="warn">{said}</Note> : null}
        <div className="acts">{press}</div>
        <Papers id={id} kind="offer" />
        {doc.job.customer ? null : (
          <Note kind="info">
            Nobody is named as the customer. <a href={`/jobs/${id}/listen?panel=goal`}>Name them in Listen.</a>
          </Note>
        )}
      </aside>
    </>
  );
}

const freeName = (plans: readonly Plan[]) =>
  ["enough", "quietest"].find((name) => plans.every((p) => p.name !== name)) ?? "another";

function Promised({ plan, late }: { plan: Offered; late: boolean }) {
  const units = useUnits();
  const range = plan.change_db;
  return (
    <>
      {range ? (
        <>
          <p className={css["change"]}>
            {signed(range[1])} {plan.unit}
          </p>
          <p className="small">
            in 95 of 100 such jobs {signed(range[0])} to {signed(range[2])}
          </p>
        </>
      ) : (
        <p className="small">No figure is predicted for this goal.</p>
      )}
      <p className={css["price"]}>
        {money(plan.price.gross, plan.price.currency)}
        {late ? " …" : ""}
      </p>
      <p className="small">
        {money(plan.price.net, plan.price.currency)} and {money(plan.price.tax, plan.price.currency)} tax ·{" "}
        {plan.hours.toFixed(1)} h · {plan.days === 1 ? "1 day" : `${plan.days} days`} ·{" "}
        {amount(plan.added_kg, "kg", units)}
      </p>
      <details>
        <summary>From inside</summary>
        <div className="rows">
          {(["material", "labour", "margin"] as const).map((k) => (
            <div key={k}>
              <span>{k === "margin" ? "put on both" : k}</span>
              <span className="num">{money(plan.price[k], plan.price.currency)}</span>
            </div>
          ))}
        </div>
      </details>
      {plan.does_not.length ? (
        <>
          <h2>What it will not do</h2>
          <ul className="small">
            {plan.does_not.map((x) => (
              <li key={x}>{x}</li>
            ))}
          </ul>
        </>
      ) : null}
    </>
  );
}

// Per surface and zone: as chosen in Build, as found, or one of its alternatives.
function Lies({
  doc,
  plan,
  change,
}: {
  doc: Schemas["JobDocument"];
  plan: Plan;
  change: (c: Record<string, number>) => void;
}) {
  const places = [
    ...new Set(doc.alternatives.map((a) => (a.zone ? `${a.surface_id}/${a.zone}` : String(a.surface_id)))),
  ];
  const chosen = plan.chosen ?? {};
  const set = (place: string, value: number) => {
    const others = Object.entries(chosen).filter(([k]) => k !== place);
    const next = Object.fromEntries(value < 0 ? others : [...others, [place, value]]);
    change(next);
  };
  return (
    <>
      {places.map((place) => {
        const [surface, zone = ""] = place.split("/");
        const own = doc.alternatives.filter((a) => String(a.surface_id) === surface && (a.zone ?? "") === zone);
        const name = doc.surfaces.find((s) => String(s.id) === surface)?.name ?? place;
        return (
          <label key={place} className="field">
            <span>
              {name}
              {zone ? `, ${zone}` : ""}
            </span>
            <Select
              value={chosen[place] ?? -1}
              onChange={(v: number) => set(place, v)}
              options={[
                { value: -1, label: `as in Build: ${own.find((a) => a.chosen)?.name ?? "as found"}` },
                { value: 0, label: "as found" },
                ...own.map((a) => ({ value: a.id, label: a.name || `plan ${a.id}` })),
              ]}
            />
          </label>
        );
      })}
    </>
  );
}
