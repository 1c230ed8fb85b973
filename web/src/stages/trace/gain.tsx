// What closing the panel round a loudspeaker may give, as a span per band, with the goal across it.
import type { Schemas } from "../../api/client";
import { useWidth } from "../../parts/GoalRule";
import { hertz, signed } from "../../parts/words";

export function Gain({ gain }: { gain: Schemas["GainView"] }) {
  const [ref, width] = useWidth<HTMLDivElement>(850);
  const bands = gain.frequency_hz.map((f, i) => ({
    f,
    least: gain.least_db[i] ?? null,
    most: gain.most_db[i] ?? null,
  }));
  const known = bands.flatMap((b) => [b.least, b.most]).filter((v): v is number => v !== null);
  const top = Math.max(6, ...known, gain.goal_db ?? 0) + 1;
  const low = Math.min(-3, ...known) - 1;
  const [left, bottom, height] = [64, 330, 380];
  const y = (v: number) => 20 + ((top - v) / (top - low)) * (bottom - 20);
  const step = (width - left - 8) / bands.length;
  const bar = Math.min(34, step * 0.6);
  return (
    <div ref={ref}>
      <svg
        width={width}
        height={height}
        role="img"
        aria-label={`Gain per band: ${bands.map((b) => `${b.f} Hz ${b.least === null ? "not played" : `${signed(b.least)} to ${signed(b.most)} dB`}`).join(", ")}`}
      >
        {[-6, -3, 0, 3, 6, 9, 12]
          .filter((v) => v > low && v < top)
          .map((v) => (
            <g key={v}>
              <line
                x1={left}
                x2={width}
                y1={y(v)}
                y2={y(v)}
                stroke="var(--line)"
                strokeWidth={v === 0 ? 2 : 1}
                strokeDasharray={v === 0 ? undefined : "2 5"}
              />
              <text x={left - 10} y={y(v) + 5} textAnchor="end" fontSize={14} className="soft">
                {signed(v, 0)} dB
              </text>
            </g>
          ))}
        {bands.map((b, i) => {
          const x = left + (i + 0.5) * step;
          return (
            <g key={b.f}>
              {b.least === null || b.most === null ? (
                <text x={x} y={y(0) - 8} textAnchor="middle" fontSize={13} className="soft">
                  –
                </text>
              ) : (
                <>
                  <rect
                    x={x - bar / 2}
                    y={y(b.most)}
                    width={bar}
                    height={Math.max(y(b.least) - y(b.most), 4)}
                    rx={6}
                    fill="var(--heather-wash)"
                    stroke="var(--heather)"
                    strokeWidth={2}
                    strokeDasharray="5 3"
                  />
                  <text x={x} y={y(b.most) - 7} textAnchor="middle" fontSize={13} fontWeight={700}>
                    {signed(b.most, 0)}
                  </text>
                  <text x={x} y={y(b.least) + 17} textAnchor="middle" fontSize={13} fontWeight={700}>
                    {signed(b.least, 0)}
                  </text>
                </>
              )}
              <text x={x} y={height - 24} textAnchor="middle" fontSize={14}>
                {hertz(b.f)}
              </text>
            </g>
          );
        })}
        {gain.goal_db != null ? (
          <g>
            <line x1={left} x2={width} y1={y(gain.goal_db)} y2={y(gain.goal_db)} stroke="var(--moss)" strokeWidth={3} />
            <text
              x={width - 4}
              y={y(gain.goal_db) - 8}
              textAnchor="end"
              fontSize={15}
              fontWeight={700}
              style={{ fill: "var(--moss)" }}
            >
              goal {signed(gain.goal_db)} dB
            </text>
          </g>
        ) : null}
        <text x={left + (width - left) / 2} y={height - 4} textAnchor="middle" fontSize={13} className="soft">
          band, Hz; dashed: an estimate, from least to most
        </text>
      </svg>
    </div>
  );
}
