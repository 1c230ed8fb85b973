// The fixings of a step: logged with large presses as they come off, counted back in, last out first.
import { Input, Segmented } from "antd";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useEdits } from "../../api/edits";
import type { StageProps } from "../../parts/stage";
import { fitted } from "./StepPicture";
import { Taken } from "./Photos";
import { path } from "../../theme/hatches";
import css from "./fit.module.css";

type Step = Schemas["StepView"];
type Fixing = Schemas["StepFixing"] | Schemas["Fixing"];
type Row = Schemas["Fixing"];
type Kind = Row["kind"];

// every kind the core knows, with the sizes that are usual
const SIZES: Record<Kind, readonly string[]> = {
  "six-lobe screw": ["T15", "T20", "T25", "T30"],
  "hexagon nut": ["8 mm", "10 mm", "13 mm"],
  "push rivet": ["6 mm", "8 mm"],
  clip: [],
  staple: [],
  connector: [],
  "cable pull": [],
  "bonded bead": [],
  other: [],
};
const KINDS = Object.keys(SIZES) as Kind[];
const STATES = ["good", "worn", "broken"] as const;

type Props = { step: Step; page: StageProps["page"]; edit: StageProps["edit"]; place: Schemas["Place"] | undefined };

export function Fixings({ step, page, edit, place }: Props) {
  const back = step.phase === "refit";
  const rows = page.document.fixings ?? [];
  // those just logged are not in the order yet
  const known = step.fixings ?? [];
  const queue = useEdits();
  const waiting = rows.filter(
    (r) => r.surface_id === step.ref.surface_id && !known.some((k) => k.id === queue.number(r.id)),
  );
  const fixings: readonly Fixing[] = back ? [...waiting.toReversed(), ...known] : [...known, ...waiting];
  // no two bags of a job are called alike
  const bags = new Set(rows.map((r) => r.bag));
  let bag = rows.length + 1;
  while (bags.has(`B${bag}`)) bag += 1;
  return (
    <section className={css.fixings} aria-label={back ? "Fixings, last out first in" : "Fixings"}>
      {back || !place ? null : <Touched fixings={fixings} place={place} />}
      {fixings.map((f, i) => (
        <One
          key={queue.number(f.id)}
          fixing={f}
          number={back ? fixings.length - i : i + 1}
          back={back}
          page={page}
          edit={edit}
        />
      ))}
      {back || step.ref.surface_id == null ? null : (
        <Another key={fixings.length} surface={step.ref.surface_id} edit={edit} place={place} bag={bag} />
      )}
    </section>
  );
}

function Count({ label, value, most, set }: { label: string; value: number; most: number; set: (n: number) => void }) {
  return (
    <span className={css.count} role="group" aria-label={label}>
      <button aria-label="One less" disabled={value <= 0} onClick={() => set(value - 1)}>
        −
      </button>
      <b>{value}</b>
      <button aria-label="One more" disabled={value >= most} onClick={() => set(value + 1)}>
        +
      </button>
    </span>
  );
}

type OneProps = { fixing: Fixing; number: number; back: boolean; page: StageProps["page"]; edit: StageProps["edit"] };

function One({ fixing: told, number, back, page, edit }: OneProps) {
  const queue = useEdits();
  // the row as it is now, with what is on its way and the version that guards it: a quick hand's presses all count
  const row = page.document.fixings?.find((r) => queue.number(r.id) === queue.number(told.id));
  const photos = page.document.photos ?? [];
  const fixing = { ...told, ...row };
  const mine = photos.filter((p) => p.fixing_id != null && queue.number(p.fixing_id) === queue.number(told.id));
  const put = async (values: Partial<Row>) => row && edit.tryChange("fixings", row, values);
  const what = [fixing.kind, fixing.size].filter(Boolean).join(" ");
  const where = [fixing.place, fixing.bag ? `bag ${fixing.bag}` : ""].filter(Boolean).join(", ");
  return (
    <div
      role="group"
      aria-label={`${number}: ${what}`}
      className={css.fixingRow}
      data-lacks={back && fixing.back < fixing.count}
    >
      <span>
        <b>
          {number}. {what}
        </b>
        <span className="small">
          {where}
          {fixing.state === "good" ? "" : ` · ${fixing.state}: a new one`}
        </span>
      </span>
      {back ? (
        <>
          <Count label="Back in" value={fixing.back} most={fixing.count} set={(n) => void put({ back: n })} />
          <span className="small">of {fixing.count} back</span>
          {fixing.back < fixing.count ? (
            <button className={css.chip} onClick={() => void put({ back: fixing.count })}>
              all {fixing.count} back
            </button>
          ) : (
            <b aria-label="all back">✓</b>
          )}
        </>
      ) : (
        <>
          <Count
            label="How many"
            value={fixing.count}
            most={2000}
            set={(n) => (n ? void put({ count: n }) : row && void edit.remove("fixings", row))}
          />
          <Segmented
            size="large"
            options={[...STATES]}
            value={fixing.state}
            aria-label="State"
            onChange={(state) => void put({ state })}
          />
        </>
      )}
      {back && !mine.length ? null : (
        <Taken
          photos={photos}
          edit={edit}
          shown={mine}
          about={{ fixing_id: told.id, surface_id: told.surface_id }}
          label={`Photograph of ${number}: ${what}`}
          what={what}
        />
      )}
    </div>
  );
}

function Another(props: {
  surface: number;
  edit: StageProps["edit"];
  place: Schemas["Place"] | undefined;
  bag: number;
}) {
  const { surface, edit, place, bag } = props;
  const [kind, setKind] = useState<Kind | null>(null);
  const [size, setSize] = useState("");
  const [count, setCount] = useState(1);
  const [where, setWhere] = useState("");
  const [at, setAt] = useState<{ x_mm: number; y_mm: number } | null>(null);
  const sizes = kind ? SIZES[kind] : [];
  const keep = () =>
    void edit
      .create("fixings", [{ surface_id: surface, kind, size, count, place: where, bag: `B${bag}`, ...(at ?? {}) }])
      .catch(edit.say);
  return (
    <div className={css.another} role="group" aria-label="Log fixings">
      <div className={css.row}>
        {KINDS.map((k) => (
          <button key={k} className={css.chip} aria-pressed={k === kind} onClick={() => (setKind(k), setSize(""))}>
            {k}
          </button>
        ))}
      </div>
      {kind ? (
        <>
          {sizes.length ? (
            <div className={css.row}>
              {sizes.map((s) => (
                <button
                  key={s}
                  className={css.chip}
                  aria-pressed={s === size}
                  onClick={() => setSize(s === size ? "" : s)}
                >
                  {s}
                </button>
              ))}
            </div>
          ) : null}
          <div className={css.row}>
            <Count label="How many" value={count} most={2000} set={(n) => setCount(Math.max(1, n))} />
            {[4, 8, 12].map((n) => (
              <button key={n} className={css.chip} aria-pressed={n === count} onClick={() => setCount(n)}>
                {n}
              </button>
            ))}
          </div>
          {place ? <Touch place={place} at={at} set={setAt} /> : null}
          <Input
            size="large"
            value={where}
            placeholder="where, if the picture does not say it"
            aria-label="Where"
            onChange={(e) => setWhere(e.target.value)}
          />
          <button className={css.big} onClick={keep}>
            Into bag B{bag}: {count} {kind}
            {size ? ` ${size}` : ""}
          </button>
        </>
      ) : null}
    </div>
  );
}

const [WIDE, HIGH] = [340, 190];

// A touch on the drawing says where they sat.
function Touch({
  place,
  at,
  set,
}: {
  place: Schemas["Place"];
  at: { x_mm: number; y_mm: number } | null;
  set: (a: { x_mm: number; y_mm: number }) => void;
}) {
  const lies = fitted(place.outline_mm, WIDE, HIGH);
  const [x, y] = at ? lies.at([at.x_mm, at.y_mm]) : [0, 0];
  return (
    <button
      className={css.touch}
      aria-label={`Touch where they sat on the ${place.name}`}
      onClick={(e) => {
        const box = e.currentTarget.getBoundingClientRect();
        if (e.detail)
          set(lies.back(((e.clientX - box.left) / box.width) * WIDE, ((e.clientY - box.top) / box.height) * HIGH));
      }}
    >
      <svg viewBox={`0 0 ${WIDE} ${HIGH}`} aria-hidden>
        <path d={path(place.outline_mm.map(lies.at))} className={css.panel} />
        {at ? <circle cx={x} cy={y} r={10} className={css.fixing} /> : null}
      </svg>
      <span className="small">{at ? "Touched; touch again to move it." : "Touch where they sat."}</span>
    </button>
  );
}

function Touched({ fixings, place }: { fixings: readonly Fixing[]; place: Schemas["Place"] }) {
  const known = fixings.flatMap((f, i) =>
    f.x_mm != null && f.y_mm != null ? [{ n: i + 1, p: [f.x_mm, f.y_mm] }] : [],
  );
  if (!known.length) return null;
  const lies = fitted(place.outline_mm, WIDE, HIGH);
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${HIGH}`}
      role="img"
      aria-label={`Where the fixings sat on the ${place.name}`}
      className={css.touched}
    >
      <path d={path(place.outline_mm.map(lies.at))} className={css.panel} />
      {known.map(({ n, p }) => {
        const [x, y] = lies.at(p);
        return (
          <g key={n}>
            <circle cx={x} cy={y} r={11} className={css.fixing} />
            <text x={x} y={y + 4.5} textAnchor="middle" className={css.fixingNumber}>
              {n}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
