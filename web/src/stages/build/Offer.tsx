// What the whole job would be offered for, line by line.
import { Button } from "antd";
import type { Schemas } from "../../api/client";
import { money } from "../../parts/words";

export function Offer({ offer, open }: { offer: Schemas["OfferView"]; open: () => void }) {
  return (
    <details>
      <summary>
        To offer: <b className="num">{money(offer.total, offer.currency)}</b>
        {offer.lacks.length ? " and what has no known price" : ""}
        {offer.estimated.length ? ", partly estimated" : ""}
      </summary>
      <div className="rows">
        {offer.lines.map((l) => (
          <div key={l.label}>
            <span>{l.label}</span>
            <span className="num">{money(l.money, offer.currency)}</span>
          </div>
        ))}
      </div>
      {offer.estimated.length ? (
        <p className="small">Estimated until it is laid out: {offer.estimated.join(", ")}.</p>
      ) : null}
      {offer.lacks.length ? <p className="small">Without a price: {offer.lacks.join(", ")}.</p> : null}
      <Button onClick={open}>Offer it …</Button>
    </details>
  );
}
