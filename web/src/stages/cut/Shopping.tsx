// What to buy for the whole job, what the shelf has of it, what is left over, and what goes to the counter on paper.
import { Button } from "antd";
import type { Schemas } from "../../api/client";
import { Note } from "../../parts/said";
import type { StageProps } from "../../parts/stage";
import { mass, useUnits } from "../../parts/units";
import { money, num, percent } from "../../parts/words";
import { Unfold } from "../../parts/Unfold";
import { Working } from "../../parts/Working";
import css from "./cut.module.css";
import { Rests } from "./Rests";

export const BUY = "to-buy";
type Props = StageProps & {
  data: Schemas["CutView"] | undefined;
  named: (material: string) => string;
  ask: (dialog: "piece" | "good") => void;
};
type Buy = Schemas["Buy"];

// "sheets", "packs of 8".
const many = (unit: string) => unit.replace(/^\w+/, "$&s");
const amount = (b: Buy): string =>
  b.units === 0 ? "nothing" : b.unit.endsWith("of roll") ? b.unit : `${b.units} ${b.units > 1 ? many(b.unit) : b.unit}`;

export function Shopping({ id, page, edit, data, named, ask }: Props) {
  const doc = page.document;
  const units = useUnits();
  const files = [
    ["buying.pdf", "list, PDF"],
    ["buying.csv", "list, CSV"],
    ["cut-sheets.pdf", "cut sheets"],
    ["labels.pdf", "labels"],
  ] as const;
  return (
    <aside className="sheet">
      <h2 id={BUY}>To buy for the whole job</h2>
      {data?.older ? (
        <Note kind="warn">From before the last change; the new list is being laid out.</Note>
      ) : data?.work.length ? (
        <Note kind="info">Not whole yet: pieces are still being laid out.</Note>
      ) : null}
      {data?.buy.length ? (
        <div className={`rows ${css.buy}`} data-testid="to-buy">
          {data.buy.map((b) => (
            <Line key={`${b.material}@${b.thickness_mm ?? ""}${b.name}`} b={b} currency={data.currency} />
          ))}
          <div className={css.sum}>
            <b>{mass(data.kg, units)} bought</b>
            <b className="num">{money(data.money, data.currency)}</b>
          </div>
        </div>
      ) : (
        <p className="small">Nothing yet: the list follows from the stacks chosen in Build.</p>
      )}
      {data?.utilisation != null ? (
        <Note kind="good">{percent(data.utilisation)} of the opened stock ends up on the job.</Note>
      ) : null}
      {data?.sheets.length ? (
        <p className="small">
          Take along:{" "}
          {files.map(([file, name]) => (
            <a key={file} className={css.out} href={`/api/jobs/${id}/${file}`} download>
              {name}
            </a>
          ))}
        </p>
      ) : null}
      {data?.unplaced.map((u) => (
        <Note key={u} kind="danger">
          Does not fit: {u}.
        </Note>
      ))}
      <Rests
        job={doc.job}
        named={named}
        offered={data?.offcuts ?? []}
        taken={doc.offcuts_taken ?? []}
        left={data?.left ?? []}
        edit={edit}
      />
      {data?.used_up.length ? (
        <Unfold summary="What the work uses up">
          <p className="small">By the area and the cuts, house figures; not in the sum.</p>
          <div className={`rows ${css.buy}`}>
            {data.used_up.map((b) => (
              <Line key={b.material} b={b} currency={data.currency} />
            ))}
          </div>
        </Unfold>
      ) : null}
      <div className="rows">
        {doc.pieces.map((p) => (
          <div key={p.id}>
            <span>
              {p.quantity} × {p.name}{" "}
              <span className="small">
                {num(p.width_mm, 0)} × {num(p.height_mm, 0)} mm
              </span>
            </span>
            <button className="key" aria-label={`Remove piece ${p.name}`} onClick={() => void edit.remove("pieces", p)}>
              remove
            </button>
          </div>
        ))}
        {(doc.goods ?? []).map((g) => (
          <div key={`g${g.id}`}>
            <span>
              {named(g.material)} <span className="small">{num(g.amount)}</span>
            </span>
            <button
              className="key"
              aria-label={`Remove goods ${named(g.material)}`}
              onClick={() => void edit.remove("goods", g)}
            >
              remove
            </button>
          </div>
        ))}
      </div>
      <div className="acts">
        <Button onClick={() => ask("piece")}>Add a piece</Button>
        <Button onClick={() => ask("good")}>Add goods</Button>
        <Working items={data?.working} />
      </div>
    </aside>
  );
}

function Line({ b, currency }: { b: Buy; currency: string }) {
  return (
    <div>
      <span>
        {b.name}
        {b.shelf ? (
          <>
            <br />
            <span className="small">
              {b.needed} needed, <b>{b.shelf}</b>
            </span>
          </>
        ) : null}
        {b.supplier || b.order_number ? (
          <>
            <br />
            <span className="small">{[b.supplier, b.order_number].filter(Boolean).join(", ")}</span>
          </>
        ) : null}
      </span>
      <span>
        <b className="num">{amount(b)}</b>
        {b.spare && b.units ? (
          <span className="small"> {b.unit.startsWith("pack") ? `(${b.needed})` : `${b.spare} spare`}</span>
        ) : null}
        <br />
        <span className="small num">
          {b.money === null ? "no price known" : `${b.estimated ? "about " : ""}${money(b.money, currency)}`}
        </span>
      </span>
    </div>
  );
}
