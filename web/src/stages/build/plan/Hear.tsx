// Before and after to hear: switched without a gap at one gain, as a made sound or on a recording of the job, with what to mind.
import { useState } from "react";
import { query, type Schemas } from "../../../api/client";
import { Player } from "../../../parts/Player";
import { Note } from "../../../parts/said";
import { num } from "../../../parts/words";

type Character = Schemas["Listening"]["character"];
const SOUNDS: readonly [Character, string][] = [
  ["noise", "even noise"],
  ["hum", "hum"],
  ["impulses", "knocks"],
  ["road", "road"],
];

type Props = {
  id: number;
  revision: number;
  // a plan of a search, an alternative, or the plan as it stands
  of: { work: string; plan: number } | { alternative_id: number } | Record<string, never>;
  readings: Schemas["JobDocument"]["readings"];
};

export function Hear({ id, revision, of, readings }: Props) {
  const asked = query.useQuery(
    "get",
    "/api/jobs/{job_id}/hear",
    { params: { path: { job_id: id }, query: of }, revision },
    { retry: false },
  );
  const data = asked.data as Schemas["Listening"] | undefined;
  const [picked, setPicked] = useState<Character | number | null>(null);
  const recorded = readings.find((r) => r.sound && !r.background);
  if (asked.error instanceof Error) return <p className="small">{asked.error.message}</p>;
  if (!data) return null;
  const sound = picked ?? data.character;
  const url = (which: string) => {
    const about = typeof sound === "number" ? { reading_id: sound } : { character: sound, tone_hz: data.tone_hz };
    const all = Object.entries({ ...of, ...about, revision }).map(([k, v]) => [k, String(v)]);
    return `/api/jobs/${id}/hear/${which}.wav?${new URLSearchParams(all).toString()}`;
  };
  return (
    <>
      <p>
        <b>{data.sentence}</b>{" "}
        {data.before_dba != null && data.after_dba != null ? (
          <span className="small">
            from {num(data.before_dba)} to {num(data.after_dba)} dB(A)
          </span>
        ) : null}
      </p>
      <div className="chips" role="group" aria-label="As which sound">
        {SOUNDS.map(([character, name]) => (
          <button
            key={character}
            className="chip"
            aria-pressed={character === sound}
            onClick={() => setPicked(character)}
          >
            {name}
          </button>
        ))}
        {recorded ? (
          <button className="chip" aria-pressed={sound === recorded.id} onClick={() => setPicked(recorded.id)}>
            the recording
          </button>
        ) : null}
      </div>
      <Player
        key={url("")}
        sources={[
          { name: "Before", url: url("before") },
          { name: "After", url: url("after") },
        ]}
      />
      {data.cautions.map((c) => (
        <p key={c} className="small">
          {c}
        </p>
      ))}
      {data.room ? (
        <details>
          <summary>At the level of the room</summary>
          <Note kind="info">{data.room}</Note>
        </details>
      ) : null}
      <p className="small">
        Keep it:{" "}
        <a href={url("before")} download="before.wav">
          before.wav
        </a>
        ,{" "}
        <a href={url("after")} download="after.wav">
          after.wav
        </a>
      </p>
    </>
  );
}
