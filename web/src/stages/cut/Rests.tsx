// Offcuts the workshop keeps that this job could be cut from first, and those it has taken.
import { Button } from "antd";
import type { Schemas } from "../../api/client";
import { useWorkshop } from "../../api/workshop";
import { useOnce } from "../../parts/once";
import { Note } from "../../parts/said";
import { Unfold } from "../../parts/Unfold";
import type { StageProps } from "../../parts/stage";
import { length, useUnits } from "../../parts/units";
import { path } from "../../theme/hatches";
import css from "./cut.module.css";

// so many steps an edit may have
const MOST_STEPS = 100;
type Offcut = Schemas["Offcut"];
type Left = Schemas["LeftOver"];
type Props = {
  job: Schemas["Job"];
  left: readonly Left[];
  named: (id: string) => string;
  offered: readonly Offcut[];
  taken: readonly Offcut[];
  edit: StageProps["edit"];
};

type Rest = Omit<Offcut, "id" | "version">;
const values = ({ material, thickness_mm, width_mm, length_mm, outline_mm, place, code }: Rest) => ({
  material,
  thickness_mm,
  width_mm,
  length_mm,
  outline_mm,
  place,
  code,
});

export function Rests({ job, named, offered, taken, left, edit }: Props) {
  const workshop = useWorkshop();
  const units = useUnits();
  const said = (o: Offcut) =>
    [
      ...(o.code ? [o.code] : []),
      `${named(o.material)} ${length(o.thickness_mm, units)}`,
      `${length(o.width_mm, units)} × ${length(o.length_mm, units)}`,
      ...(o.place ? [o.place] : []),
    ].join(", ");
  // it is written here before it leaves there: what breaks in between leaves it in both, never in neither
  const [busy, once] = useOnce();
  const both = (one: () => Promise<unknown>, other: () => Promise<unknown>) =>
    void once(() => one().then(other).catch(edit.say));
  const take = (o: Offcut) =>
    both(
      () => edit.create("offcuts_taken", [values(o)]),
      () => workshop.remove("offcuts", o),
    );
  const give = (o: Offcut) =>
    both(
      () => workshop.add("offcuts", values(o)),
      () => edit.remove("offcuts_taken", o),
    );
  // one or all: one edit of the workshop, one of the job
  const keep = (some: readonly Left[]) =>
    both(
      () =>
        workshop.addAll(
          "offcuts",
          some.map((l) => values({ ...l, place: "" })),
        ),
      () =>
        edit.operate(
          "jobs",
          job,
          some.map((l) => ({ op: "add", at: ["rests_kept"], item: l.rest, after: null })),
        ),
    );
  if (!offered.length && !taken.length && !left.length) return null;
  return (
    <>
      <h2>Offcuts</h2>
      {offered.map((o) => (
        <Note key={o.id} kind="info">
          Kept: {said(o)}.{" "}
          <Button size="small" disabled={busy} onClick={() => take(o)}>
            Cut from it
          </Button>
        </Note>
      ))}
      {taken.map((o) => (
        <Note key={`t${o.id}`} kind="good">
          Taken: {said(o)}.{" "}
          <Button size="small" disabled={busy} onClick={() => give(o)}>
            Give back
          </Button>
        </Note>
      ))}
      {left.length ? (
        <>
          {left.length > 1 ? (
            <Button size="small" disabled={busy} onClick={() => keep(left.slice(0, MOST_STEPS))}>
              Keep all {left.length} rests
            </Button>
          ) : null}
          <Unfold summary={left.length === 1 ? "One rest will be left over" : `${left.length} rests will be left over`}>
            {left.map((l) => (
              <p key={l.rest} className="small">
                {l.outline_mm?.length ? <Outline of={l} /> : null}
                {l.name}, {length(l.width_mm, units)} × {length(l.length_mm, units)}
                {l.outline_mm?.length ? ", as drawn" : ""}{" "}
                <Button size="small" disabled={busy} onClick={() => keep([l])}>
                  Keep as {l.code}
                </Button>
              </p>
            ))}
          </Unfold>
        </>
      ) : null}
    </>
  );
}

const [WIDE, HIGH] = [72, 44];

// What is no rectangle, small, as it lies on its sheet.
function Outline({ of: l }: { of: Left }) {
  const k = Math.min(WIDE / l.width_mm, HIGH / l.length_mm);
  const at = (p: readonly number[]) => [(p[0] ?? 0) * k + 1, (l.length_mm - (p[1] ?? 0)) * k + 1];
  return (
    <svg width={l.width_mm * k + 2} height={l.length_mm * k + 2} className={css.rest} aria-hidden="true">
      <path d={path((l.outline_mm ?? []).map(at))} fill="var(--tape)" stroke="var(--bark)" />
    </svg>
  );
}
