// Photographs of a step: one press takes one, made small here; seen full screen, before and after beside each other, drawn on.
import { Button, Modal, Segmented } from "antd";
import { useRef, useState } from "react";
import { pictureUrl, type Schemas } from "../../api/client";
import { useEdits } from "../../api/edits";
import { FileInput } from "../../parts/FileInput";
import { keepPhoto } from "../../parts/photo";
import type { StageProps } from "../../parts/stage";
import css from "./fit.module.css";
import ownCss from "./photos.module.css";

type Photo = Schemas["Photo"];
type Step = Schemas["StepView"];
const TOOLS = ["look", "arrow", "ring"] as const;
type Mark = NonNullable<Photo["marks"]>[number];

type About = { photos: readonly Photo[]; edit: StageProps["edit"] };

export function Photos({ step, photos, edit }: About & { step: Step }) {
  const mine = photos.filter((p) => p.step === step.key);
  const before = photos.filter(
    (p) => p.when === "before" && p.surface_id === step.ref.surface_id && p.step !== step.key,
  );
  const when = step.phase === "strip" ? "before" : step.phase === "refit" ? "after" : "";
  const of: Record<string, string> = step.ref.surface_id == null ? {} : { surface_id: String(step.ref.surface_id) };
  return (
    <section className={css.photos} aria-label="Photographs">
      <Taken
        photos={photos}
        edit={edit}
        shown={[...before, ...mine]}
        about={{ step: step.key, when, ...of }}
        label="Photograph of this step"
        what={step.what}
        wanted={step.photograph}
      />
    </section>
  );
}

// Photographs of anything: the press that takes one, and those there are.
export function Taken(
  props: About & {
    shown: readonly Photo[];
    about: Record<string, unknown>;
    label: string;
    what: string;
    wanted?: string;
  },
) {
  const { photos, edit, shown, about, label, what, wanted } = props;
  const picker = useRef<HTMLInputElement>(null);
  const [open, setOpen] = useState<number | null>(null);
  const queue = useEdits();
  // one that was opened on its way has another number once it is kept
  const large = photos.find((p) => open !== null && queue.number(p.id) === queue.number(open));
  return (
    <>
      <button className={css.chip} onClick={() => picker.current?.click()}>
        Photograph
      </button>
      <FileInput
        picker={picker}
        label={label}
        accept="image/*"
        take={(file) => keepPhoto(edit, file, about)}
        capture="environment"
      />
      {wanted ? <span className="small">Wanted: {wanted}</span> : null}
      {shown.length ? (
        <div className={css.row}>
          {shown.map((p) => (
            <button
              key={queue.number(p.id)}
              className={ownCss.thumb}
              onClick={() => setOpen(p.id)}
              aria-label={`Open photograph, ${p.when || what}`}
            >
              <img src={pictureUrl(p.file)} alt="" loading="lazy" />
              {p.when ? <span className="small">{p.when}</span> : null}
            </button>
          ))}
        </div>
      ) : null}
      {large ? (
        <Large photo={large} beside={photos.find((p) => pair(large, p))} edit={edit} close={() => setOpen(null)} />
      ) : null}
    </>
  );
}

const pair = (a: Photo, b: Photo): boolean =>
  a.surface_id === b.surface_id &&
  ((a.when === "before" && b.when === "after") || (a.when === "after" && b.when === "before"));

function Large({
  photo,
  beside,
  edit,
  close,
}: {
  photo: Photo;
  beside: Photo | undefined;
  edit: StageProps["edit"];
  close: () => void;
}) {
  const [tool, setTool] = useState<(typeof TOOLS)[number]>("look");
  const [from, setFrom] = useState<[number, number] | null>(null);
  const marks = photo.marks ?? [];
  const put = (next: readonly Mark[]) => void edit.tryChange("photos", photo, { marks: next });
  const place = (e: React.PointerEvent): [number, number] => {
    const box = e.currentTarget.getBoundingClientRect();
    return [(e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height];
  };
  return (
    <Modal
      open
      onCancel={close}
      footer={null}
      width="min(96vw, 1200px)"
      title={photo.caption || photo.when || "Photograph"}
    >
      <div className={ownCss.beside}>
        {[photo, beside].map((p) =>
          p ? (
            <figure key={p === photo ? "this" : "beside"} className={ownCss.large}>
              <img src={pictureUrl(p.file)} alt={p.caption || `photograph ${p.when}`} />
              <svg
                viewBox="0 0 100 100"
                preserveAspectRatio="none"
                role="img"
                aria-label={`${(p.marks ?? []).length} marks drawn`}
                data-tool={p === photo ? tool : "look"}
                onPointerDown={(e) => p === photo && tool !== "look" && setFrom(place(e))}
                onPointerUp={(e) => {
                  if (p !== photo || tool === "look" || !from) return;
                  const [x, y] = place(e);
                  put([...marks, { kind: tool, x: from[0], y: from[1], to_x: x, to_y: y }]);
                  setFrom(null);
                }}
              >
                {(p.marks ?? []).map((m, i) => (
                  <Drawn key={i} mark={m} />
                ))}
              </svg>
              {p.when ? <figcaption>{p.when}</figcaption> : null}
            </figure>
          ) : null,
        )}
      </div>
      <div className={css.row}>
        <Segmented size="large" options={[...TOOLS]} value={tool} onChange={(t) => setTool(t)} aria-label="Draw" />
        <Button size="large" disabled={!marks.length} onClick={() => put(marks.slice(0, -1))}>
          Take the last mark off
        </Button>
        <Button size="large" danger onClick={() => void edit.remove("photos", photo).then(close)}>
          Remove
        </Button>
      </div>
    </Modal>
  );
}

function Drawn({ mark }: { mark: Mark }) {
  const [x, y, u, v] = [mark.x * 100, mark.y * 100, mark.to_x * 100, mark.to_y * 100];
  if (mark.kind === "ring")
    return (
      <ellipse
        cx={(x + u) / 2}
        cy={(y + v) / 2}
        rx={Math.max(3, Math.abs(u - x) / 2)}
        ry={Math.max(3, Math.abs(v - y) / 2)}
        className={ownCss.mark}
      />
    );
  const long = Math.hypot(u - x, v - y) || 1;
  const [dx, dy] = [((u - x) / long) * 4, ((v - y) / long) * 4];
  return (
    <path
      d={`M${x} ${y}L${u} ${v}M${u - dx - dy * 0.6} ${v - dy + dx * 0.6}L${u} ${v}L${u - dx + dy * 0.6} ${v - dy - dx * 0.6}`}
      className={ownCss.mark}
    />
  );
}
