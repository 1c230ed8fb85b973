// Find a plan: the best over all ways in together, as a picture to pick from; pinned, struck and searched again; taken into Build.
import { Button, Segmented } from "antd";
import { useEffect, useState } from "react";
import { api, ask, type Schemas } from "../../../api/client";
import { useShelf } from "../../../api/hooks";
import { useAddress } from "../../../parts/address";
import { alsoOffered } from "../../../papers/offered";
import { Note, Said } from "../../../parts/said";
import type { StageProps } from "../../../parts/stage";
import { ThumbAction } from "../../../parts/thumb";
import { typing } from "../../../parts/typing";
import { Unfold } from "../../../parts/Unfold";
import { num } from "../../../parts/words";
import { Before, listIn, toggled } from "./Before";
import { Chosen } from "./Chosen";
import { Hear } from "./Hear";
import { Front, RESOURCES, type Resource } from "./Front";
import css from "./plan.module.css";
import { LONG_S, materialsOf, pickedIn, SHORT_S, useAhead, useSearch, type Found } from "./search";
import { amount, toldValue, useUnits, type Units } from "../../../parts/units";

export function Plans({ id, page, edit }: StageProps) {
  const address = useAddress();
  const search = useSearch(id, page.revision);
  const [along, setAlong] = useState<Resource>("money");
  const [taking, setTaking] = useState(false);
  const pinned = listIn(address.get("pin"));
  const struck = listIn(address.get("strike"));
  const { state } = search;
  const found = state?.found ?? null;
  const at = found ? pickedIn(found, address.number("at")) : null;
  const currency = page.document.job.currency;
  const anew = address.get("anew") !== null;
  const begun = page.document.step_events.some((e) => e.what === "done");
  const use = address.get("use");
  const asked = {
    pinned,
    struck: use === null ? struck : [],
    anew,
    stock: use === "stock",
    only: use === "these" ? listIn(address.get("only")) : [],
    kinds: address.number("kinds"),
  };
  const find = (seconds: number) => search.begin.mutate({ ...asked, seconds });
  const back = () => address.go(LEFT_BEHIND);
  useEscape(back);
  const put = (name: "pin" | "strike", values: readonly string[]) => address.put({ [name]: values.join(",") || null });
  const take = () => {
    if (at === null || taking) return;
    setTaking(true);
    edit
      .post("plan-taken", { work: search.work, plan: at })
      .then(() => address.go(LEFT_BEHIND))
      .catch(edit.say)
      .finally(() => setTaking(false));
  };
  const offer = () => {
    if (at === null || taking) return;
    setTaking(true);
    ask(
      api.POST("/api/jobs/{job_id}/plan-to-offer", {
        params: { path: { job_id: id } },
        body: { work: search.work, plan: at },
      }),
    )
      .then((plan) => {
        alsoOffered(id, plan);
        address.go({ ...LEFT_BEHIND, view: "offer" });
      })
      .catch(edit.say)
      .finally(() => setTaking(false));
  };
  const going = state?.open === true || search.begin.isPending;
  useAhead(id, page.revision, asked, going);
  const wrong = search.begin.error ?? search.lost ?? null;
  return (
    <>
      <section>
        <Button className={css.back ?? ""} onClick={back}>
          ← Back to the surfaces
        </Button>
        <Said
          sentence={going ? soFar(found) : (found?.sentence ?? "The best plan over all ways in together.")}
          detail={
            (going ? "" : found?.detail) ||
            "From the goal, the limits and the whole shelf: every surface, leak and measure of the job at once."
          }
        />
        <div className={css.bar}>
          {going ? (
            <>
              <div className={css.going}>
                <div
                  className={css.track}
                  role="progressbar"
                  aria-label="How far the search is"
                  aria-valuemin={0}
                  aria-valuemax={100}
                  aria-valuenow={Math.round(100 * (state?.share ?? 0))}
                >
                  <i style={{ width: `${100 * (state?.share ?? 0)}%` }} />
                </div>
                <p className="small" role="status">
                  {state?.words ?? "beginning"}
                </p>
              </div>
              <Button onClick={() => void search.stop()}>Stop</Button>
            </>
          ) : (
            <Button
              type={found ? "default" : "primary"}
              size={found ? "middle" : "large"}
              onClick={() => find(SHORT_S)}
            >
              {found ? "Find again" : "Find a plan"}
            </Button>
          )}
          {found && !going && !found.proven ? (
            <Button onClick={() => find(LONG_S)}>Look for half a minute</Button>
          ) : null}
          {found ? <Segmented options={CHOICES} value={along} onChange={setAlong} aria-label="Against" /> : null}
        </div>
        {begun ? (
          <button
            className={`chip ${css.anew}`}
            aria-pressed={anew}
            onClick={() => address.put({ anew: anew ? null : 1 })}
          >
            plan as if nothing were laid yet
          </button>
        ) : null}
        {wrong ? <Note kind="danger">{wrong.message}</Note> : null}
        {state?.state === "refused" ? <Note kind="danger">{state.words}</Note> : null}
        {state?.state === "cancelled" ? <Note kind="info">Stopped. This is the best it had by then.</Note> : null}
        {search.older ? (
          <Note kind="warn">The job has changed since this search. Find again for a plan of it as it is.</Note>
        ) : null}
        {found ? (
          <>
            {going ? null : <Reach found={found} />}
            {found.plans.length ? (
              <>
                <Front
                  found={found}
                  along={along}
                  unit={RESOURCE_UNITS(currency)[along]}
                  picked={at}
                  pick={(i) => address.put({ at: i + 1 })}
                />
                <Shortcuts found={found} at={at} pick={(i) => address.put({ at: i + 1 })} />
              </>
            ) : null}
            <Struck
              found={found}
              at={at}
              struck={struck}
              strike={(m) => put("strike", toggled(struck, m))}
              changed={pinned.length + struck.length > 0}
            />
          </>
        ) : null}
        {going ? null : found ? (
          <Unfold summary={<b>What may be laid, how many kinds, how deep</b>}>
            <Before id={id} page={page} edit={edit} />
          </Unfold>
        ) : (
          <Before id={id} page={page} edit={edit} />
        )}
      </section>
      <aside className="sheet">
        {found && at !== null ? (
          <Chosen
            found={found}
            at={at}
            currency={currency}
            pinned={pinned}
            pin={(key) => put("pin", toggled(listIn(new URLSearchParams(window.location.search).get("pin")), key))}
            take={take}
            offer={offer}
            hear={
              <Hear
                id={id}
                revision={page.revision}
                of={{ work: search.work, plan: at }}
                readings={page.document.readings}
              />
            }
          />
        ) : (
          <>
            <h2>What the search may not do</h2>
            <p className="small">
              Nothing Build would then warn of, nothing deeper than there is room for, nothing over a limit of the job.
              What is laid already stays, and left is like right. Stacks are compared while this is open; a search takes
              ten seconds.
            </p>
          </>
        )}
      </aside>
      <ThumbAction>
        {found && at !== null ? (
          <Button type="primary" onClick={take}>
            Take into Build
          </Button>
        ) : (
          <Button type="primary" disabled={going} onClick={() => find(SHORT_S)}>
            Find a plan
          </Button>
        )}
      </ThumbAction>
    </>
  );
}

// Escape leads back, unless a hand is in a field or something is open over the view.
function useEscape(back: () => void) {
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const over = document.querySelector(".ant-modal-wrap:not([style*='none']), .ant-drawer-open, .ant-select-open");
      if (e.key === "Escape" && !typing(e.target) && !over && !e.defaultPrevented) back();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });
}

// What the search keeps in the address.
const LEFT_BEHIND = Object.fromEntries(
  ["view", "search", "of", "at", "plan", "pin", "strike", "anew", "use", "only", "kinds"].map((k) => [k, null]),
);
const soFar = (found: Found | null) => {
  const best = found?.best == null ? null : found.plans[found.best];
  return best ? `So far: up to ${num(best.reduction_db)} dB less. Looking further.` : "Looking for the best plan.";
};
const RESOURCE_UNITS = (currency: string): Record<Resource, string> => ({
  money: currency,
  added_kg: "kg",
  hours: "h",
});
const CHOICES = RESOURCES.map((r) => ({ value: r, label: { money: "money", added_kg: "weight", hours: "hours" }[r] }));

// Out of reach: which limit would have to give, and what holds it back.
function Reach({ found }: { found: Found }) {
  const units = useUnits();
  if (found.reached) return null;
  return (
    <Note kind="warn">
      {found.relax.length
        ? `To reach the goal: ${found.relax.map((r) => giving(r, units)).join(", or ")}.`
        : found.plans.length
          ? "No single limit stands in the way."
          : "Nothing can be done within the limits."}
      {found.deeper ? ` ${found.deeper}` : ""}
      {found.capped_by
        ? ` Without any limit it would be ${num(found.most_reduction_db)} dB less. ${found.capped_by}`
        : ""}
    </Note>
  );
}
const giving = (r: Schemas["RelaxedLimit"], units: Units) =>
  `${NAMES[r.limit]} up to ${amount(r.to, r.unit, units)} instead of ${num(toldValue(r.now, r.unit, units))}`;
const NAMES: Record<string, string> = { added_kg: "weight", money: "money", hours: "work" };

function Shortcuts({ found, at, pick }: { found: Found; at: number | null; pick: (i: number) => void }) {
  const ways: [string, number | null | undefined][] = [
    ["The cheapest that is enough", found.cheapest],
    ["No more of anything than planned now", found.instead],
    [found.proven ? "The quietest within the limits" : "The quietest laid out so far", found.best],
  ];
  return (
    <div className="chips" role="group" aria-label="Plans to begin with">
      {ways.map(([name, i]) =>
        i == null ? null : (
          <button key={name} className="chip" aria-pressed={i === at} onClick={() => pick(i)}>
            {name}
          </button>
        ),
      )}
    </div>
  );
}

function Struck({
  found,
  at,
  struck,
  strike,
  changed,
}: {
  found: Found;
  at: number | null;
  struck: readonly string[];
  strike: (material: string) => void;
  changed: boolean;
}) {
  const materials = useShelf().data?.materials ?? [];
  const plan = at === null ? undefined : found.plans[at];
  const shown = [...new Set([...(plan ? materialsOf(found, plan) : []), ...struck])];
  if (!shown.length) return null;
  return (
    <>
      <h2 className={css.heading}>Materials of this plan</h2>
      <div className="chips" role="group" aria-label="Materials: pressed ones are left out when you find again">
        {shown.map((m) => (
          <button key={m} className="chip" aria-pressed={struck.includes(m)} onClick={() => strike(m)}>
            {struck.includes(m) ? "left out: " : "leave out "}
            {materials.find((x) => x.material.id === m)?.material.name ?? m}
          </button>
        ))}
      </div>
      {changed ? <p className="small">What is kept or left out counts when you find again.</p> : null}
    </>
  );
}
