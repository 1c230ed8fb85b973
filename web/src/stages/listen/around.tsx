// What belongs to a reading: photographs, calibration, the way it is read, test signals.
import { FileInput } from "../../parts/FileInput";
import { Button, Input, Select } from "antd";
import { useRef, useState } from "react";
import { pictureUrl, query, upload, type Schemas } from "../../api/client";
import { useShelf } from "../../api/hooks";
import { Field } from "../../parts/fields";
import { keepPhoto } from "../../parts/photo";
import type { StageProps } from "../../parts/stage";
import { num } from "../../parts/words";
import css from "./listen.module.css";

export function Photos({
  position,
  round,
  photos,
  edit,
}: {
  position: number;
  round: number;
  photos: readonly Schemas["Photo"][];
  edit: StageProps["edit"];
}) {
  const picker = useRef<HTMLInputElement>(null);
  const add = (file: File | undefined) => keepPhoto(edit, file, { position_id: position, round_id: round });
  return (
    <div className={css.photos} role="group" aria-label="Photographs of this place">
      {photos.map((p) => (
        <figure key={p.id}>
          <img src={pictureUrl(p.file)} alt={p.caption || "where the microphone stood"} loading="lazy" />
          <button className="key" aria-label="Remove photograph" onClick={() => void edit.remove("photos", p)}>
            ×
          </button>
        </figure>
      ))}
      <button className="chip" onClick={() => picker.current?.click()}>
        photograph the place
      </button>
      <FileInput
        picker={picker}
        label="Photograph"
        accept="image/jpeg,image/png,image/webp"
        take={add}
        capture="environment"
      />
    </div>
  );
}

export function Calibration({ id, doc, edit }: { id: number; doc: Schemas["JobDocument"]; edit: StageProps["edit"] }) {
  const picker = useRef<HTMLInputElement>(null);
  const [level, setLevel] = useState(94);
  const full = doc.job.full_scale_db;
  const add = async (file: File | undefined) => {
    if (!file) return;
    try {
      await upload(`/api/jobs/${id}/calibration`, { file, level_db: String(level) });
    } catch (error) {
      edit.say(error);
    }
    await edit.refresh();
  };
  return (
    <div>
      <span className="small">
        {full == null
          ? "Recordings are not calibrated: only differences count."
          : `Recordings are calibrated: full scale is ${num(full)} dB.`}
      </span>
      <div className="acts">
        <Select
          aria-label="Level of the calibrator"
          value={level}
          options={[94, 114].map((value) => ({ value, label: `calibrator ${value} dB` }))}
          onChange={setLevel}
        />
        <button className="chip" onClick={() => picker.current?.click()}>
          its recording …
        </button>
        {full == null ? null : (
          <button className="chip" onClick={() => void edit.tryChange("jobs", doc.job, { full_scale_db: null })}>
            forget
          </button>
        )}
      </div>
      <FileInput picker={picker} label="Recording of the calibrator" accept=".wav,.flac" take={add} />
    </div>
  );
}

export function Method({ doc, edit }: { doc: Schemas["JobDocument"]; edit: StageProps["edit"] }) {
  const shelf = useShelfMethods();
  const learned = query.useQuery("get", "/api/repeatability");
  const own = learned.data?.methods.find((m) => m.method === doc.job.method);
  const set = doc.job.repeatability_db;
  return (
    <div className="form">
      <label className="field">
        <span>How it is read (its repeatability stands in for a single reading)</span>
        <Select
          value={doc.job.method}
          options={shelf}
          onChange={(method) => void edit.tryChange("jobs", doc.job, { method })}
        />
      </label>
      <Field
        label="Our own repeatability, if we know it"
        unit="dB"
        value={set == null ? "" : String(set)}
        placeholder={own ? `table: ${own.table_db}` : ""}
        save={(repeatability_db) => edit.change("jobs", doc.job, { repeatability_db })}
      />
      {own?.own_db != null && own.own_db !== set ? (
        <button className="chip" onClick={() => void edit.tryChange("jobs", doc.job, { repeatability_db: own.own_db })}>
          our repeats so far say {num(own.own_db, 2)} dB: use it
        </button>
      ) : null}
    </div>
  );
}

const SIGNALS = [
  ["pink", "pink noise"],
  ["bands", "noise, band by band"],
  ["tone", "a tone"],
  ["sweep", "slow sweep 30 to 300 Hz"],
] as const;

// Test signals made by the program; the same every time, each with a level check before it.
export function Signals() {
  const [kind, setKind] = useState<(typeof SIGNALS)[number][0]>("pink");
  const [hz, setHz] = useState("100");
  const at = kind === "tone" ? `&frequency_hz=${encodeURIComponent(hz.replace(",", "."))}` : "";
  const url = `/api/signals/${kind}.wav?seconds=${kind === "bands" ? 63 : 20}${at}`;
  return (
    <details className={css.places}>
      <summary>Test signals</summary>
      <div className="form">
        <Select
          aria-label="Signal"
          value={kind}
          options={SIGNALS.map(([value, label]) => ({ value, label }))}
          onChange={setKind}
        />
        {kind === "tone" ? (
          <Input aria-label="Frequency" value={hz} suffix="Hz" onChange={(e) => setHz(e.target.value)} />
        ) : null}
        <audio key={url} controls preload="none" src={url} />
        <p className="small">
          Three seconds of pink noise come first: set them to the same level in every round, and write the volume into
          the context.
        </p>
        <p className="note warn">
          Begin quietly. Protect your hearing above 80 dB(A); low tones can hurt a loudspeaker long before they sound
          loud.
        </p>
        <Button href={url} download={`${kind}.wav`}>
          Save it as a WAV file
        </Button>
      </div>
    </details>
  );
}

function useShelfMethods() {
  const shelf = useShelf();
  return (shelf.data?.methods ?? []).map((m) => ({ value: m.id, label: `${m.name} (± ${m.repeatability_db} dB)` }));
}
