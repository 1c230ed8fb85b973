// Sheets and rolls as they are cut: all of them small, each opened large to work from.
import type { Schemas } from "../../api/client";
import { percent } from "../../parts/words";
import { length, useUnits } from "../../parts/units";
import { Hatches, Letter, path } from "../../theme/hatches";
import css from "./cut.module.css";
import { middle, PieceShape } from "../../parts/drawing/PieceShape";

export type Sheet = Schemas["SheetView"];
type Props = { sheets: readonly Sheet[]; lit: string; light: (label: string) => void; open: (at: number) => void };

const [TALL, WIDE] = [230, 760];
export const outlineOf = (s: Sheet): readonly (readonly number[])[] =>
  s.outline_mm.length
    ? s.outline_mm
    : [
        [0, 0],
        [s.width_mm, 0],
        [s.width_mm, s.length_mm],
        [0, s.length_mm],
      ];
export const nameOf = (s: Sheet): string =>
  s.offcut ? s.offcut.charAt(0).toUpperCase() + s.offcut.slice(1) : `${s.roll ? "Roll" : "Sheet"} ${s.number}`;

export function Sheets({ sheets, lit, light, open }: Props) {
  const units = useUnits();
  const seen = new Map<string, [Sheet, number][]>();
  sheets.forEach((s, at) => {
    const own = s.roll || s.offcut ? `${s.stock}${s.number}` : s.pieces.map((p) => JSON.stringify(p.outline_mm)).join();
    const key = `${s.material}@${s.thickness_mm}|${own}`;
    seen.set(key, [...(seen.get(key) ?? []), [s, at]]);
  });
  return (
    <div className={css.sheets}>
      {[...seen.values()].map((alike) => {
        const [s, at] = alike[0] ?? [];
        if (!s || at === undefined) return null;
        const turned = s.length_mm > s.width_mm * 1.2;
        const [w, h] = turned ? [s.length_mm, s.width_mm] : [s.width_mm, s.length_mm];
        const scale = Math.min(TALL / h, WIDE / w);
        const place = (p: readonly number[]) =>
          turned
            ? [(p[1] ?? 0) * scale, (p[0] ?? 0) * scale]
            : [(p[0] ?? 0) * scale, (s.length_mm - (p[1] ?? 0)) * scale];
        return (
          <figure key={`${s.material}@${s.thickness_mm}#${s.stock}${s.number}`}>
            <figcaption>
              <button className={css.open} onClick={() => open(at)}>
                {alike.length > 1 ? `${alike.length} sheets alike` : nameOf(s)}
              </button>{" "}
              · {length(s.width_mm, units)} × {length(s.length_mm, units)}, {percent(s.used)} used
              <br />
              <span className="small">{s.name}</span>
            </figcaption>
            <svg
              width={w * scale + 2}
              height={h * scale + 2}
              viewBox={`-1 -1 ${w * scale + 2} ${h * scale + 2}`}
              preserveAspectRatio="xMinYMin"
              role="img"
              aria-label={`${s.name}: ${s.pieces.length} pieces`}
            >
              <Hatches />
              <path d={path(outlineOf(s).map(place))} fill="var(--card)" stroke="var(--bark)" />
              {s.pieces.map((p) => (
                <PieceShape key={p.label} piece={p} letter={s.letter} place={place} lit={lit} light={light} />
              ))}
              {s.pieces.map((p) => {
                const [x, y] = middle(p.outline_mm.map(place));
                return <Letter key={p.label} x={x} y={y} letter={p.label} r={9} />;
              })}
            </svg>
          </figure>
        );
      })}
    </div>
  );
}
