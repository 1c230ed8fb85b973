// Before the work of a day: who works here, what can hurt, how warm it is.
import { Button, Input } from "antd";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { serverNow } from "../../api/client";
import type { StageProps } from "../../parts/stage";
import { Note } from "../../parts/said";
import { happenedTo } from "./happened";
import css from "./fit.module.css";

type View = Schemas["FitView"];
const today = (): string => new Date(serverNow()).toISOString().slice(0, 10);

export function Who({ who, keep }: { who: string; keep: (name: string) => void }) {
  const [name, setName] = useState(who);
  return (
    <form
      className={css.before}
      onSubmit={(e) => {
        e.preventDefault();
        if (name.trim()) keep(name.trim());
      }}
    >
      <h2>Who works with this device?</h2>
      <p>The name stands beside what is ticked here. It opens nothing and locks nothing.</p>
      <Input
        size="large"
        autoFocus
        value={name}
        maxLength={60}
        aria-label="Name"
        onChange={(e) => setName(e.target.value)}
      />
      <Button htmlType="submit" type="primary" size="large" disabled={!name.trim()}>
        That is me
      </Button>
    </form>
  );
}

export function Hazards({ view, who, edit }: { view: View; who: string; edit: StageProps["edit"] }) {
  return (
    <section className={css.before} aria-label="Before anything else">
      <h2>Before anything else</h2>
      {view.hazards.map((h) => (
        <Note key={h} kind="danger">
          <b>{h}</b>
        </Note>
      ))}
      <p className="small">The maker's instructions, local codes and licensed practice come first.</p>
      <button
        className={css.big}
        onClick={() => void happenedTo(edit, who, null)("acknowledged", { phase: "hazards" })}
      >
        Read and understood
      </button>
    </section>
  );
}

export const isRead = (view: View, who: string): boolean =>
  !view.hazards.length || view.acknowledged.some(([name, day]) => name === who && day === today());

export function Warm({ view, who, edit }: { view: View; who: string; edit: StageProps["edit"] }) {
  const known = view.temperature?.at.slice(0, 10) === today() ? view.temperature : null;
  const [panel, setPanel] = useState("");
  const [product, setProduct] = useState("");
  if (!view.wants) return null;
  if (known)
    return known.sentence ? (
      <Note kind="warn">
        <b>Too cold.</b> {known.sentence}
      </Note>
    ) : null;
  const keep = () =>
    void happenedTo(edit, who, null)("temperature", { panel_c: panel || null, product_c: product || null });
  return (
    <div className={css.warm} role="group" aria-label="How warm it is today">
      <span>
        <b>How warm is it today?</b> {view.wants}
      </span>
      <Input
        size="large"
        suffix="°C"
        value={panel}
        aria-label="Panel"
        placeholder="panel"
        inputMode="decimal"
        onChange={(e) => setPanel(e.target.value)}
      />
      <Input
        size="large"
        suffix="°C"
        value={product}
        aria-label="Product"
        placeholder="product"
        inputMode="decimal"
        onChange={(e) => setProduct(e.target.value)}
      />
      <Button size="large" disabled={!panel.trim() && !product.trim()} onClick={keep}>
        Keep
      </Button>
    </div>
  );
}
