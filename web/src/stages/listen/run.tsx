// Runs: a level log looked at and corrected before it is kept; a kept run whose window is dragged; its sound played.
import { Input, Select } from "antd";
import { useEffect, useState } from "react";
import { api, ask, query, Refused, upload, type Schemas } from "../../api/client";
import { useBegun } from "../../parts/begun";
import { Dialog } from "../../parts/Dialog";
import { Ask } from "../../parts/fields";
import { Player } from "../../parts/Player";
import { State } from "../../parts/said";
import type { StageProps } from "../../parts/stage";
import { num } from "../../parts/words";
import css from "./listen.module.css";
import { RunPicture, type Window } from "./RunPicture";

type Look = Schemas["RunView"];
type At = Record<string, string>;

export function LogDialog({
  id,
  file,
  at,
  edit,
  close,
}: {
  id: number;
  file: File;
  at: At;
  edit: StageProps["edit"];
  close: () => void;
}) {
  const [column, setColumn] = useState("");
  const [time, setTime] = useState("");
  const [interval, setEvery] = useState("");
  const [seen, setSeen] = useState<Schemas["Understood"] | null>(null);
  const [chosen, setChosen] = useState<Window | null>(null);
  const [wrong, setWrong] = useState("");
  const fields = { column, time_column: time, interval_s: interval };
  const wanted = JSON.stringify(fields);

  useEffect(() => {
    let gone = false;
    upload<Schemas["Understood"]>(`/api/jobs/${id}/logs/look`, { file, ...(JSON.parse(wanted) as At) })
      .then((found) => {
        if (!gone) {
          setSeen(found);
          setWrong("");
          setChosen(found.look.steady_s[0] ?? found.look.window_s);
        }
      })
      .catch((e: unknown) => {
        if (!gone) setWrong(e instanceof Refused ? e.message : String(e));
      });
    return () => {
      gone = true;
    };
  }, [id, file, wanted]);

  const keep = async () => {
    const window: At = chosen ? { from_s: String(chosen[0]), to_s: String(chosen[1]) } : {};
    await upload(`/api/jobs/${id}/logs`, { file, ...at, ...fields, ...window });
    await edit.refresh();
  };
  const names = (seen?.columns ?? []).map((c) => ({
    value: String(c.number),
    label: `${c.number} ${c.name || "without a name"} (${c.cells.slice(0, 2).join(", ")} …)`,
  }));
  const taken = (role: string) => seen?.columns.find((c) => c.taken_for === role)?.number;
  return (
    <Dialog
      title={`What is in ${file.name}`}
      ok="Keep this window"
      save={keep}
      close={close}
      ready={seen !== null && !wrong}
      wide
    >
      {wrong ? (
        <p className="note danger" role="alert">
          {wrong}
        </p>
      ) : null}
      {seen ? (
        <>
          <p>
            <b>
              {seen.samples} samples of {seen.quantity ?? seen.column}
            </b>
            , every {num(seen.interval_s, seen.interval_s % 1 ? 3 : 0)} s, {num(seen.look.length_s, 0)} s long. Energy
            mean {num(seen.figures.Leq)} dB over all of it.
          </p>
          {chosen ? <RunPicture look={seen.look} window={chosen} choose={setChosen} /> : null}
        </>
      ) : null}
      <div className="two">
        <Ask label="Column of the level">
          <Select
            aria-label="Column of the level"
            value={column || String(taken("level") ?? "")}
            options={names}
            onChange={setColumn}
          />
        </Ask>
        <Ask label="Column of the time">
          <Select
            aria-label="Column of the time"
            value={time || String(taken("time") ?? "none")}
            options={[...names, { value: "none", label: "none: count samples" }]}
            onChange={setTime}
          />
        </Ask>
      </div>
      <Ask label="Seconds between samples (if the file does not tell)">
        <Input value={interval} suffix="s" onChange={(e) => setEvery(e.target.value)} />
      </Ask>
    </Dialog>
  );
}

// A kept run: drag its window anew; hear it, low-passed for what comes through the structure.
export function RunDialog({
  id,
  reading,
  edit,
  close,
}: {
  id: number;
  reading: Schemas["Reading"];
  edit: StageProps["edit"];
  close: () => void;
}) {
  const run = query.useQuery("get", "/api/jobs/{job_id}/readings/{reading_id}/run", {
    params: { path: { job_id: id, reading_id: reading.id } },
    version: reading.version,
  });
  const look = run.data?.look as Look | undefined;
  const [dragged, setDragged] = useState<Window | null>(null);
  const { version } = useBegun(reading);
  const shown = dragged ?? look?.window_s;
  const keep = async () => {
    if (!shown) return;
    await ask(
      api.POST("/api/jobs/{job_id}/readings/{reading_id}/window", {
        params: { path: { job_id: id, reading_id: reading.id } },
        body: { version, start_s: shown[0], end_s: shown[1] },
      }),
    );
    await edit.refresh();
  };
  const levels = Object.entries(reading.levels ?? {});
  return (
    <Dialog
      title={reading.file_name || reading.source}
      ok="Use this window"
      save={keep}
      close={close}
      ready={dragged !== null}
      wide
    >
      <State query={run}>{look && shown ? <RunPicture look={look} window={shown} choose={setDragged} /> : null}</State>
      <div className={css.figures}>
        {levels.map(([name, value]) => (
          <span key={name}>
            {name} <b className="num">{num(value)} dB</b>
          </span>
        ))}
      </div>
      {reading.sound ? (
        <a href={`/api/jobs/${id}/readings/${reading.id}/loop.wav?seconds=60`} download="loop.wav">
          This window, looped to a minute, as a test signal (WAV)
        </a>
      ) : null}
      {reading.sound ? (
        <Player
          sources={[{ name: reading.file_name || "recording", url: `/api/jobs/${id}/readings/${reading.id}/sound` }]}
        />
      ) : null}
    </Dialog>
  );
}
