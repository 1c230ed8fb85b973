// How the two leaves of a surface are tied: as it stands, and as an alternative would have it.
import { Button, Select } from "antd";
import type { Schemas } from "../../api/client";
import type { Editing } from "../../api/edits";
import { Ask, Field } from "../../parts/fields";

type Frame = Schemas["Frame"];
const KINDS = [
  { value: "none", label: "nothing ties them" },
  { value: "wood-studs", label: "wood studs" },
  { value: "light-steel-studs", label: "light steel studs" },
  { value: "staggered-wood-studs", label: "staggered studs" },
  { value: "double-wood-studs", label: "two rows of studs" },
  { value: "point-fixings", label: "single fixings" },
] as const;
const text = (v: number | null | undefined) => (v == null ? "" : String(v));
// A number, or what was typed: the server says what is wrong with it.
const read = (typed: string): unknown => {
  const n = Number(typed.trim().replace(",", "."));
  return typed.trim() === "" ? null : Number.isFinite(n) ? n : typed;
};

function FrameFields({ frame, save }: { frame: Frame; save: (values: Record<string, unknown>) => Promise<unknown> }) {
  const kind = frame.kind ?? "none";
  const set = (key: string) => (typed: string) => save({ [key]: read(typed) });
  const pick = (next: Frame["kind"]) =>
    void save(
      next === "none" || next === "double-wood-studs"
        ? { kind: next, spacing_mm: null, resilient_channel_spacing_mm: null, isolated: null }
        : {
            kind: next,
            spacing_mm: frame.spacing_mm ?? 400,
            ...(next === "point-fixings" ? { resilient_channel_spacing_mm: null } : { isolated: null }),
          },
    );
  return (
    <div className="two">
      <Ask label="Between its two leaves">
        <Select value={kind} options={[...KINDS]} onChange={pick} />
      </Ask>
      {kind !== "none" && kind !== "double-wood-studs" ? (
        <Field label="Apart" unit="mm" value={text(frame.spacing_mm)} save={set("spacing_mm")} />
      ) : null}
      {kind === "wood-studs" || kind === "light-steel-studs" ? (
        <Field
          label="Resilient channels apart"
          unit="mm"
          placeholder="none"
          value={text(frame.resilient_channel_spacing_mm)}
          save={set("resilient_channel_spacing_mm")}
        />
      ) : null}
      {kind === "point-fixings" ? (
        <button
          className="chip"
          aria-pressed={Boolean(frame.isolated)}
          onClick={() => void save({ isolated: !frame.isolated })}
        >
          rubber under each
        </button>
      ) : null}
    </div>
  );
}

type Props = {
  surface: Schemas["Surface"];
  alternative: Schemas["Alternative"] | undefined;
  edit: Pick<Editing, "tryChange" | "operate">;
};

export function Frames({ surface, alternative, edit }: Props) {
  const change = edit.tryChange;
  const within =
    (collection: "surfaces" | "alternatives", row: { id: number; version: number }) =>
    (values: Record<string, unknown>) =>
      edit.operate(
        collection,
        row,
        Object.entries(values).map(([key, value]) => ({ op: "set", at: ["frame", key], value })),
      );
  return (
    <div className="form">
      <b className="small">As it stands</b>
      <FrameFields frame={surface.frame ?? { kind: "none" }} save={within("surfaces", surface)} />
      {alternative?.frame ? (
        <>
          <b className="small">In “{alternative.name}”</b>
          <FrameFields frame={alternative.frame} save={within("alternatives", alternative)} />
          <button className="plain small" onClick={() => void change("alternatives", alternative, { frame: null })}>
            the same frame as it stands
          </button>
        </>
      ) : alternative ? (
        <Button onClick={() => void change("alternatives", alternative, { frame: surface.frame ?? { kind: "none" } })}>
          Another frame in “{alternative.name}”
        </Button>
      ) : null}
    </div>
  );
}
