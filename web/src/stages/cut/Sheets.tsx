// Sheets and rolls as they are cut.
import type { Schemas } from "../../api/client";
import { num } from "../../parts/words";
import { FILL, Hatches, Letter, path } from "../../theme/hatches";
import css from "./cut.module.css";

type Sheet = Schemas["SheetView"];

export function Sheets({ sheets }: { sheets: readonly Sheet[] }) {
  const seen = new Map<string, Sheet[]>();
  for (const s of sheets) {
    const own =
      s.roll || s.offcut ? `${s.number}${s.offcut}` : s.pieces.map((p) => JSON.stringify(p.outline_mm)).join();
    const key = `${s.material}@${s.thickness_mm}|${own}`;
    seen.set(key, [...(seen.get(key) ?? []), s]);
  }
  return (
    <div className={css.sheets}>
      {[...seen.values()].map((alike) => {
        const s = alike[0];
        if (!s) return null;
        const turned = s.roll;
        const [w, h] = turned ? [s.length_mm, s.width_mm] : [s.width_mm, s.length_mm];
        const scale = turned ? Math.min(84 / h, 280 / w) : 112 / Math.max(w, h);
        const at = (p: readonly number[]) =>
          turned ? [(p[1] ?? 0) * scale, (p[0] ?? 0) * scale] : [(p[0] ?? 0) * scale, (p[1] ?? 0) * scale];
        return (
          <figure key={`${s.material}@${s.thickness_mm}#${s.number}`}>
            <figcaption>
              <b>
                {alike.length > 1
                  ? `${alike.length} sheets alike`
                  : s.offcut
                    ? "Offcut"
                    : s.roll
                      ? "Roll"
                      : `Sheet ${s.number}`}
              </b>{" "}
              · {num(s.width_mm, 0)} × {num(s.length_mm, 0)} mm
              <br />
              <span className="small">
                {s.name}
                {s.offcut ? `: ${s.offcut}` : ""}
              </span>
            </figcaption>
            <svg
              width={Math.min(w * scale, 420) + 2}
              height={h * scale + 2}
              viewBox={`-1 -1 ${w * scale + 2} ${h * scale + 2}`}
              preserveAspectRatio="xMinYMin"
              role="img"
              aria-label={`${s.name}: ${s.pieces.length} pieces`}
            >
              <Hatches />
              <rect width={w * scale} height={h * scale} fill="var(--card)" stroke="var(--bark)" />
              {s.pieces.map((p) => {
                const [a, b] = [at(p.outline_mm[0] ?? [0, 0]), at(p.outline_mm[2] ?? [0, 0])];
                return (
                  <g key={p.label}>
                    <path d={path(p.outline_mm.map(at))} fill={FILL[s.letter]} stroke="var(--ink)" strokeWidth={0.8} />
                    <Letter
                      x={((a[0] ?? 0) + (b[0] ?? 0)) / 2}
                      y={((a[1] ?? 0) + (b[1] ?? 0)) / 2}
                      letter={p.label}
                      r={9}
                    />
                  </g>
                );
              })}
            </svg>
          </figure>
        );
      })}
    </div>
  );
}
