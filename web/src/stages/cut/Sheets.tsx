// Sheets and rolls as they are cut: all of them small, each opened large to work from.
import type { Schemas } from "../../api/client";
import { longOf, useFirst } from "../../parts/first";
import { percent } from "../../parts/words";
import { Hatches, Letter, path } from "../../theme/hatches";
import css from "./cut.module.css";
import { labelAt, PieceShape, reach } from "../../parts/drawing/PieceShape";

export type Sheet = Schemas["SheetView"];
type Props = { sheets: readonly Sheet[]; lit: string; light: (label: string) => void; open: (at: number) => void };

const [TALL, WIDE] = [230, 760];
export const nameOf = (s: Sheet): string =>
  s.offcut ? s.offcut.charAt(0).toUpperCase() + s.offcut.slice(1) : `${s.roll ? "Roll" : "Sheet"} ${s.number}`;

export function Sheets({ sheets, lit, light, open }: Props) {
  const first = useFirst(sheets, 6);
  return (
    <div className={`${css.sheets} ${longOf(first)}`}>
      {first.map((s, at) => {
        if (s.same_as != null) return null;
        const scale = Math.min(TALL / s.up_mm, WIDE / s.across_mm);
        const [w, h] = [s.across_mm, s.up_mm];
        const place = (p: readonly number[]) => [(p[0] ?? 0) * scale, (h - (p[1] ?? 0)) * scale];
        return (
          <figure
            key={`${s.material}@${s.thickness_mm}#${s.stock}${s.number}`}
            style={{ containIntrinsicSize: `auto ${Math.round(w * scale)}px auto ${Math.round(h * scale) + 60}px` }}
          >
            <figcaption>
              <button className={css.open} onClick={() => open(at)}>
                {s.alike > 1 ? `${s.alike} sheets alike` : nameOf(s)}
              </button>{" "}
              · {s.size}, {percent(s.used)} used
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
              <path d={path(s.outline_mm.map(place))} fill="var(--card)" stroke="var(--bark)" />
              {s.pieces.map((p) => (
                <PieceShape key={p.label} piece={p} letter={s.letter} place={place} lit={lit} light={light} />
              ))}
              {s.pieces.map((p, n) => {
                const [x, y] = labelAt(p.outline_mm.map(place), n, 9, h * scale);
                return (
                  <Letter key={p.label} x={x} y={y} letter={p.label} r={9} room={reach(p.outline_mm.map(place))} />
                );
              })}
            </svg>
            <Edges sheet={s} />
            {s.alike > 1 ? (
              <div className="small">{s.pieces.map((p) => [p.label, ...(p.also ?? [])].join(" ")).join(" · ")}</div>
            ) : null}
          </figure>
        );
      })}
    </div>
  );
}

// Which side lies up, and where its grain runs: under the drawing, along its foot.
export function Edges({ sheet }: { sheet: Sheet }) {
  const said = [
    sheet.face ? sheet.face.charAt(0).toUpperCase() + sheet.face.slice(1) : "",
    sheet.grain === "foot" ? "grain ↔ along the foot" : sheet.grain ? "grain ↕ along the left edge" : "",
  ].filter(Boolean);
  return said.length ? <div className={css.edges}>{said.join(" · ")}</div> : null;
}
