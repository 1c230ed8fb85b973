// How long the room rings: from a recording of a clap, a balloon or a noise that stops, with its decay; or typed.
import { Button, Input, Select } from "antd";
import { useRef, useState } from "react";
import { Refused, upload, type Schemas } from "../../api/client";
import { Key } from "../../charts/marks";
import { Chart } from "../../charts/Chart";
import { LevelAxis } from "../../charts/axes";
import { linear } from "../../charts/scales";
import type { Editing } from "../../api/edits";
import { FileInput } from "../../parts/FileInput";
import { Note } from "../../parts/said";
import { Unfold } from "../../parts/Unfold";
import { hertz, num } from "../../parts/words";
import css from "./listen.module.css";

type Doc = Schemas["JobDocument"];
type Decay = Doc["decays"][number];
const HZ = [125, 250, 500, 1000, 2000, 4000] as const;
const MADE_BY = ["clap", "balloon", "impulse", "stopped noise"] as const;
const COLOURS = [
  "var(--bark)",
  "var(--heather)",
  "var(--moss)",
  "var(--ink)",
  "var(--cranberry)",
  "var(--bark)",
] as const;
const NONE = ["", "", "", "", "", ""];

type Rings = readonly Schemas["RingWidth"][];
type Props = { rings: Rings; id: number; doc: Doc; edit: Editing; round: number; position: number };

export function Echo({ rings, id, doc, edit, round, position }: Props) {
  const picker = useRef<HTMLInputElement>(null);
  const [by, setBy] = useState<(typeof MADE_BY)[number]>("clap");
  const [busy, setBusy] = useState(false);
  const [wrong, setWrong] = useState("");
  const [typed, setTyped] = useState<readonly string[]>(NONE);
  const rows = doc.decays.filter((d) => d.round_id === round && d.position_id === position);
  const at = { round_id: round, position_id: position };
  const keep = async (work: () => Promise<unknown>) => {
    setBusy(true);
    try {
      await work();
      setWrong("");
    } catch (error) {
      setWrong(error instanceof Refused || error instanceof Error ? error.message : String(error));
    }
    setBusy(false);
    await edit.refresh();
  };
  const take = (file: File | undefined) =>
    file
      ? void keep(() =>
          upload(`/api/jobs/${id}/decays/recording`, {
            file,
            round_id: String(round),
            position_id: String(position),
            excitation: by,
          }),
        )
      : undefined;
  const type = () =>
    void keep(async () => {
      await edit.create("decays", [{ ...at, t_s: typed.map((t) => (t.trim() === "" ? null : t)) }]);
      setTyped(NONE);
    });
  return (
    <Unfold
      summary={<b>How long the room rings</b>}
      open={rows.length > 0 || doc.goals.some((g) => g.quantity === "T")}
    >
      {rows.map((d) => (
        <One
          key={d.id}
          row={d}
          within={rings.find((r) => r.decay_id === d.id)?.within_s ?? []}
          remove={() => void edit.remove("decays", d)}
        />
      ))}
      <div className="acts">
        <Select
          aria-label="What is recorded"
          value={by}
          options={MADE_BY.map((value) => ({ value, label: value }))}
          onChange={setBy}
        />
        <Button disabled={busy} onClick={() => picker.current?.click()}>
          {busy ? "reading it …" : "A recording …"}
        </Button>
        <FileInput picker={picker} label="Recording of a room that rings" accept=".wav,.flac" take={take} />
      </div>
      <p className="small">
        A clap has little below 250 Hz: a balloon, or a noise that stops, tells more there. Wait until it is still
        again.
      </p>
      <div className={css.six}>
        {HZ.map((f, i) => (
          <label key={f} className="field">
            <span>{hertz(f)} Hz</span>
            <Input
              suffix="s"
              inputMode="decimal"
              value={typed[i] ?? ""}
              onChange={(e) => setTyped(typed.map((t, k) => (k === i ? e.target.value : t)))}
            />
          </label>
        ))}
      </div>
      <Button disabled={busy || typed.every((t) => t.trim() === "")} onClick={type}>
        Keep the T typed
      </Button>
      {wrong ? <Note kind="danger">{wrong}</Note> : null}
    </Unfold>
  );
}

function One({ row, within, remove }: { row: Decay; within: readonly (number | null)[]; remove: () => void }) {
  const curves = row.curves_db ?? [];
  return (
    <div>
      <table className={css.rings}>
        <tbody>
          {HZ.map((f, i) => {
            const t = row.t_s[i];
            const u = within[i];
            return (
              <tr key={f}>
                <th scope="row">{hertz(f)} Hz</th>
                <td className="num">{t == null ? "not told" : `${num(t, 2)} s`}</td>
                <td className="small">{t != null && u ? `± ${num(u, 2)} s` : ""}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <div className="acts">
        <span className="small">
          {row.file_name || row.excitation}
          {(row.decays ?? 1) > 1 ? `, ${row.decays} of them` : ""}
        </span>
        <button className="key" aria-label="Remove this ring" onClick={remove}>
          remove
        </button>
      </div>
      {curves.some((c) => c.length > 1) ? <Falls row={row} /> : null}
    </div>
  );
}

const [LEFT, TOP, BOTTOM, HEIGHT] = [40, 16, 150, 178];

// The fall in each octave under its top, and how far it takes for 60 dB.
function Falls({ row }: { row: Decay }) {
  const curves = (row.curves_db ?? []).map((c, i) => ({ c, step: row.step_s?.[i] ?? 0, f: HZ[i] ?? 0 }));
  const shown = curves.map((x, i) => ({ ...x, i })).filter((x) => x.c.length > 1);
  const most = Math.max(...shown.map((x) => x.c.length * x.step), 0.2);
  const y = linear([-60, 0], [BOTTOM, TOP]);
  return (
    <Chart
      label="How the sound dies away, per octave"
      columns={["octave", "T"]}
      height={HEIGHT}
      points={(width) =>
        shown.map((x, k) => ({
          at: LEFT + ((width - LEFT) * (k + 0.5)) / shown.length,
          name: `${hertz(x.f)} Hz`,
          values: [row.t_s[x.i] == null ? null : `${num(row.t_s[x.i], 2)} s`],
        }))
      }
      legend={shown.map((x) => (
        <Key key={x.f} colour={COLOURS[x.i] ?? "var(--ink)"} {...(x.i > 3 ? { dash: "4 3" } : {})}>
          {hertz(x.f)} Hz
        </Key>
      ))}
    >
      {(width) => {
        const sx = (s: number) => LEFT + ((width - LEFT - 8) * s) / most;
        return (
          <>
            <LevelAxis y={y} x0={LEFT} x1={width} step={20} />
            {shown.map((x) => (
              <polyline
                key={x.f}
                fill="none"
                stroke={COLOURS[x.i]}
                strokeWidth={1.8}
                strokeDasharray={x.i > 3 ? "4 3" : undefined}
                points={x.c.map((v, k) => `${sx(k * x.step).toFixed(1)},${y(Math.max(v, -60)).toFixed(1)}`).join(" ")}
              />
            ))}
            <text x={width} y={BOTTOM + 18} textAnchor="end" fontSize={12} fill="var(--bark)">
              {num(most, 1)} s
            </text>
          </>
        );
      }}
    </Chart>
  );
}
