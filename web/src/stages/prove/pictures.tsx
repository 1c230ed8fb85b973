// Pictures of Prove: rounds as stairs, spectra with their difference, runs laid over each other.
import type { Schemas } from "../../api/client";
import { useWidth } from "../../parts/GoalRule";
import { hertz, num, short, signed } from "../../parts/words";

type View = Schemas["ProveView"];

export function Stairs({ view, target }: { view: View; target: number | null }) {
  const [ref, width] = useWidth<HTMLDivElement>(850);
  const height = 300;
  const stairs = view.stairs;
  const all = [
    ...stairs.flatMap((s) => [s.level_db + s.half_width_db, s.level_db - s.half_width_db]),
    ...(target === null ? [] : [target]),
  ];
  const top = Math.max(...all) + 2;
  const low = Math.min(...all) - 4;
  const y = (v: number) => 34 + ((top - v) / (top - low)) * (height - 34 - 52);
  const w = Math.min(230, (width - (target === null ? 8 : 96)) / stairs.length);
  const first = stairs[0]?.level_db ?? 0;
  return (
    <div ref={ref}>
      <svg
        width={width}
        height={height}
        role="img"
        aria-label={`Rounds: ${stairs.map((s) => `${s.name} ${num(s.level_db)} ${view.unit}`).join(", ")}`}
      >
        {target === null ? null : (
          <g>
            <line
              x1={0}
              x2={width}
              y1={y(target)}
              y2={y(target)}
              stroke="var(--moss)"
              strokeWidth={2}
              strokeDasharray="8 5"
            />
            <text
              x={width - 2}
              y={y(target) - 24}
              textAnchor="end"
              fontSize={13}
              fontWeight={700}
              style={{ fill: "var(--moss)" }}
            >
              target
            </text>
            <text
              x={width - 2}
              y={y(target) - 7}
              textAnchor="end"
              fontSize={13}
              fontWeight={700}
              style={{ fill: "var(--moss)" }}
            >
              {num(target)} {view.unit}
            </text>
          </g>
        )}
        {stairs.map((s, i) => {
          const x = i * w + 8;
          const colour = i === 0 ? "var(--ink)" : "var(--water)";
          const middle = x + (w - 22) / 2;
          return (
            <g key={s.round_id}>
              <rect
                x={x}
                y={y(s.level_db)}
                width={w - 22}
                height={height - 52 - y(s.level_db)}
                fill="var(--water-wash)"
              />
              <line x1={x} x2={x + w - 22} y1={y(s.level_db)} y2={y(s.level_db)} stroke={colour} strokeWidth={4.5} />
              <path
                d={`M${x + 16} ${y(s.level_db + s.half_width_db)}V${y(s.level_db - s.half_width_db)}M${x + 10} ${y(s.level_db + s.half_width_db)}h12M${x + 10} ${y(s.level_db - s.half_width_db)}h12`}
                stroke={colour}
                strokeWidth={2}
              />
              <text
                x={middle}
                y={y(s.level_db) - 11}
                textAnchor="middle"
                fontSize={23}
                fontWeight={700}
                stroke="var(--paper)"
                strokeWidth={5}
                paintOrder="stroke"
              >
                {num(s.level_db)}
              </text>
              {s.change_db != null ? (
                <text
                  x={middle}
                  y={y(s.level_db) + 24}
                  textAnchor="middle"
                  fontSize={15}
                  fontWeight={700}
                  style={{
                    fill:
                      !s.shown || !s.comparable
                        ? "var(--bark)"
                        : s.change_db > 0 !== view.up_is_good
                          ? "var(--cranberry)"
                          : "var(--moss)",
                  }}
                >
                  {signed(s.change_db)} dB{s.shown ? "" : " ?"}
                  <title>
                    {s.interval95_db ? `95 %: ${signed(s.interval95_db[0])} to ${signed(s.interval95_db[1])} dB` : ""}
                  </title>
                </text>
              ) : (
                <text x={middle} y={y(first) + 24} textAnchor="middle" fontSize={13} className="soft">
                  {view.unit}
                </text>
              )}
              {s.change_db != null && (!s.assigned || !s.comparable) ? (
                <text x={middle} y={y(s.level_db) + 42} textAnchor="middle" fontSize={12.5} className="soft">
                  {s.comparable ? "several things at once" : "not comparable"}
                </text>
              ) : null}
              {s.follows_id != null && s.follows_id !== stairs[i - 1]?.round_id ? (
                <text
                  x={middle}
                  y={y(s.level_db) + (s.assigned ? 42 : 59)}
                  textAnchor="middle"
                  fontSize={12.5}
                  className="soft"
                >
                  from {stairs.find((o) => o.round_id === s.follows_id)?.name ?? "elsewhere"}
                </text>
              ) : null}
              <text x={middle} y={height - 32} textAnchor="middle" fontSize={14} fontWeight={700}>
                {short(s.name, Math.floor((w - 6) / 7.6))}
                <title>{s.name}</title>
              </text>
              <text x={middle} y={height - 14} textAnchor="middle" fontSize={12.5} className="soft">
                {short(s.changed, Math.floor((w - 8) / 6.1))}
                <title>{s.changed}</title>
              </text>
            </g>
          );
        })}
      </svg>
    </div>
  );
}

export function Spectra({
  change,
  response,
  before,
  after,
  good,
}: {
  change: Schemas["SpectrumChange"];
  response: Schemas["Response"] | null;
  before: string;
  after: string;
  good: boolean;
}) {
  const [ref, width] = useWidth<HTMLDivElement>(850);
  const keep = change.frequency_hz
    .map((f, i) => ({
      f,
      b: change.before_db[i] ?? null,
      a: change.after_db[i] ?? null,
      c: change.change_db[i] ?? null,
    }))
    .filter((r) => r.f >= 25 && r.f <= 10000 && (r.b !== null || r.a !== null));
  if (keep.length < 2) return null;
  const [x0, x1, top, middle, bottom] = [44, width - 12, 18, 176, 262];
  const levels = keep.flatMap((r) => [r.b, r.a]).filter((v): v is number => v !== null);
  const high = Math.ceil((Math.max(...levels) + 2) / 10) * 10;
  const low = Math.max(Math.floor((Math.min(...levels) - 2) / 10) * 10, high - 60);
  const reach = Math.min(12, Math.max(6, ...keep.map((r) => Math.abs(r.c ?? 0)))); // a tone that went is written out, lest it flatten the rest
  const held = (v: number) => Math.min(reach, Math.max(-reach, v));
  const x = (i: number) => x0 + ((i + 0.5) / keep.length) * (x1 - x0);
  const y = (v: number) => middle - ((Math.max(v, low) - low) / (high - low)) * (middle - top);
  const zero = (middle + 14 + bottom) / 2;
  const d = (v: number) => zero - (v / reach) * ((bottom - middle - 14) / 2);
  const line = (get: (r: (typeof keep)[number]) => number | null) =>
    keep
      .map((r, i) => {
        const v = get(r);
        return v === null
          ? ""
          : `${i && get(keep[i - 1] ?? r) !== null ? "L" : "M"}${x(i).toFixed(1)} ${y(v).toFixed(1)}`;
      })
      .join("");
  const step = ((x1 - x0) / keep.length) * 0.7;
  return (
    <div ref={ref} className="spectra">
      <h2>Band by band, at the goal’s place</h2>
      <svg
        width={width}
        height={bottom + 22}
        role="img"
        aria-label={`Levels per band, ${before} and ${after}, and their difference`}
      >
        {[...Array(Math.round((high - low) / 10) + 1).keys()].map((k) => (
          <g key={k}>
            <line x1={x0} x2={x1} y1={y(low + k * 10)} y2={y(low + k * 10)} stroke="var(--line)" />
            <text x={x0 - 8} y={y(low + k * 10) + 4} textAnchor="end" fontSize={12} className="soft">
              {low + k * 10}
            </text>
          </g>
        ))}
        <text x={4} y={11} fontSize={12} className="soft">
          dB
        </text>
        <path d={line((r) => r.b)} fill="none" stroke="var(--ink)" strokeWidth={2.4} />
        <path d={line((r) => r.a)} fill="none" stroke="var(--water)" strokeWidth={2.8} strokeDasharray="1 0" />
        <text x={x1} y={14} textAnchor="end" fontSize={13} fontWeight={700}>
          {before}
        </text>
        <text x={x1} y={30} textAnchor="end" fontSize={13} fontWeight={700} style={{ fill: "var(--water)" }}>
          {after}
        </text>
        <line x1={x0} x2={x1} y1={zero} y2={zero} stroke="var(--bark)" />
        {keep.map((r, i) =>
          r.c === null ? null : (
            <g key={r.f}>
              <rect
                x={x(i) - step / 2}
                y={Math.min(zero, d(held(r.c)))}
                width={step}
                height={Math.max(1, Math.abs(d(held(r.c)) - zero))}
                fill={r.c > 0 !== good ? "var(--cranberry)" : "var(--moss)"}
              >
                <title>{`${hertz(r.f)} Hz: ${signed(r.c)} dB`}</title>
              </rect>
              {Math.abs(r.c) > reach ? (
                <text x={x(i) + step / 2 + 4} y={d(held(r.c)) + (r.c > 0 ? 10 : 0)} fontSize={12} fontWeight={700}>
                  {signed(r.c)} dB
                </text>
              ) : null}
            </g>
          ),
        )}
        <text x={x0 - 8} y={d(reach) + 8} textAnchor="end" fontSize={12} className="soft">
          +{num(reach, 0)}
        </text>
        <text x={x0 - 8} y={zero + 4} textAnchor="end" fontSize={12} className="soft">
          0
        </text>
        <text x={x0 - 8} y={d(-reach)} textAnchor="end" fontSize={12} className="soft">
          −{num(reach, 0)}
        </text>
        {keep.map((r, i) =>
          [31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000].includes(r.f) ? (
            <text key={r.f} x={x(i)} y={bottom + 18} textAnchor="middle" fontSize={12} className="soft">
              {hertz(r.f)}
            </text>
          ) : null,
        )}
        <text x={x1} y={bottom + 18} textAnchor="end" fontSize={12} className="soft">
          Hz
        </text>
      </svg>
      {response ? (
        <p>
          <b>{response.words}</b> Peaks and dips of more than 3 dB: {response.peaks_before}, then {response.peaks_after}
          .
        </p>
      ) : null}
      {change.sayings.map((s) => (
        <p key={s} className="saying">
          {s}
        </p>
      ))}
    </div>
  );
}

export function Runs({ runs, unit }: { runs: View["runs"]; unit: string }) {
  const [ref, width] = useWidth<HTMLDivElement>(850);
  const height = 150;
  const all = runs.flatMap((r) => r.level_db);
  const low = Math.min(...all) - 1;
  const high = Math.max(...all) + 1;
  const long = Math.max(...runs.map((r) => r.length_s), 1);
  const x = (s: number) => 44 + (s / long) * (width - 56);
  const y = (v: number) => 8 + ((high - v) / (high - low)) * (height - 34);
  return (
    <div ref={ref} className="spectra">
      <h2>The runs, laid over each other</h2>
      <svg
        width={width}
        height={height}
        role="img"
        aria-label={`Level over time of ${runs.map((r) => r.name).join(" and ")}`}
      >
        {runs.map((r, k) => (
          <g key={r.name}>
            {r.window_s ? (
              <rect
                x={x(r.window_s[0])}
                width={x(r.window_s[1]) - x(r.window_s[0])}
                y={k ? height - 24 : height - 18}
                height={5}
                fill={k ? "var(--water)" : "var(--ink)"}
                opacity={0.7}
              >
                <title>{`window of ${r.name}`}</title>
              </rect>
            ) : null}
            <path
              d={r.level_db
                .map(
                  (v, i) =>
                    `${i ? "L" : "M"}${x(((i + 0.5) / r.level_db.length) * r.length_s).toFixed(1)} ${y(v).toFixed(1)}`,
                )
                .join("")}
              fill="none"
              stroke={k ? "var(--water)" : "var(--ink)"}
              strokeWidth={1.6}
            />
          </g>
        ))}
        <text x={38} y={y(high - 1) + 4} textAnchor="end" fontSize={12} className="soft">
          {num(high - 1, 0)}
        </text>
        <text x={38} y={y(low + 1) + 4} textAnchor="end" fontSize={12} className="soft">
          {num(low + 1, 0)}
        </text>
        <text x={44} y={height - 1} fontSize={12} className="soft">
          0 s
        </text>
        <text x={width - 12} y={height - 1} textAnchor="end" fontSize={12} className="soft">
          {num(long, 0)} s, {unit}
        </text>
      </svg>
    </div>
  );
}
