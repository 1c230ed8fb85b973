// What ties two leaves over a cavity: studs, channels, fixings, and how far apart. It is kept as one.
import { Select } from "antd";
import type { Schemas } from "../../api/client";
import { Amount } from "../../parts/Amount";
import { Ask } from "../../parts/fields";

type Frame = Schemas["Frame"];
const KINDS = [
  { value: "none", label: "nothing ties them" },
  { value: "wood-studs", label: "wood studs" },
  { value: "light-steel-studs", label: "light steel studs" },
  { value: "staggered-wood-studs", label: "staggered studs" },
  { value: "double-wood-studs", label: "two rows of studs" },
  { value: "channels", label: "resilient channels" },
  { value: "battens", label: "battens" },
  { value: "point-fixings", label: "single fixings" },
] as const;
const USUAL_MM = 400;

type Props = {
  label: string;
  frame: Partial<Frame> & Pick<Frame, "kind">;
  save: (frame: Record<string, unknown>) => Promise<unknown>;
};

export function FrameFields({ label, frame, save }: Props) {
  const kind = frame.kind ?? "none";
  const now = {
    kind,
    spacing_mm: frame.spacing_mm ?? null,
    resilient_channel_spacing_mm: frame.resilient_channel_spacing_mm ?? null,
    isolated: frame.isolated ?? null,
  };
  const pick = (next: Frame["kind"]) =>
    void save(
      next === "none" || next === "double-wood-studs"
        ? { kind: next, spacing_mm: null, resilient_channel_spacing_mm: null, isolated: null }
        : {
            ...now,
            kind: next,
            spacing_mm: now.spacing_mm ?? USUAL_MM,
            ...(next === "point-fixings" || next === "channels" ? { resilient_channel_spacing_mm: null } : {}),
            ...(next === "point-fixings" ? {} : { isolated: null }),
          },
    );
  return (
    <div className="two">
      <Ask label={label}>
        <Select value={kind} options={[...KINDS]} onChange={pick} aria-label={label} />
      </Ask>
      {kind !== "none" && kind !== "double-wood-studs" ? (
        <Amount
          label="Apart"
          kind="length"
          value={now.spacing_mm}
          save={(text) => save({ ...now, spacing_mm: text })}
        />
      ) : null}
      {kind === "wood-studs" || kind === "light-steel-studs" || kind === "battens" ? (
        <Amount
          label="Resilient channels apart"
          kind="length"
          placeholder="none"
          value={now.resilient_channel_spacing_mm}
          save={(text) => save({ ...now, resilient_channel_spacing_mm: text || null })}
        />
      ) : null}
      {kind === "point-fixings" ? (
        <button
          className="chip"
          aria-pressed={Boolean(frame.isolated)}
          onClick={() => void save({ ...now, isolated: !frame.isolated })}
        >
          rubber under each
        </button>
      ) : null}
    </div>
  );
}
