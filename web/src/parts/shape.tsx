// The shape of a new surface: which form it has, its sizes as a tape gives them, and the outline that comes of it, drawn.
import { Button, Input, Select } from "antd";
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { useWorkshop } from "../api/workshop";
import { Ask } from "./fields";
import { FileInput } from "./FileInput";
import type { Give } from "./given";
import { Unfold } from "./Unfold";
import { TracePhoto } from "./TracePhoto";
import { amount, length, lengthUnit, sentIn, useUnits, type Units } from "./units";

export type Form = Partial<Omit<Schemas["ShapeForm"], "kind">> & { kind: Kind };
type Given = "drawing" | "photo" | "template";
type Kind = Schemas["ShapeForm"]["kind"] | Given;
const GIVEN: readonly string[] = ["drawing", "photo", "template"];
export const isGiven = (kind: Kind): kind is Given => GIVEN.includes(kind);
type Key = Exclude<keyof Schemas["ShapeForm"], "kind" | "smooth" | "mirror">;
type Ring = readonly (readonly number[])[];
export type Outline = { outline: Ring; area_m2: number; wrong: string };

const SIZES: Record<Exclude<Kind, Given>, readonly [Key, string][]> = {
  rectangle: [
    ["width_mm", "Width"],
    ["height_mm", "Height"],
  ],
  trapezium: [
    ["bottom_mm", "Bottom"],
    ["top_mm", "Top"],
    ["height_mm", "Height"],
    ["shift_mm", "Top begins in from the left"],
  ],
  L: [
    ["width_mm", "Width"],
    ["height_mm", "Height"],
    ["cut_width_mm", "Cut out, width"],
    ["cut_height_mm", "Cut out, height"],
  ],
  arch: [
    ["width_mm", "Width"],
    ["height_mm", "Height"],
    ["straight_mm", "Straight sides up to"],
  ],
  circle: [["diameter_mm", "Diameter"]],
  wedge: [
    ["radius_mm", "Radius"],
    ["angle_deg", "Angle"],
  ],
  offsets: [["length_mm", "Length of the chalk line"]],
  triangles: [],
  "wheel-arch": [
    ["width_mm", "From foot to foot"],
    ["rise_mm", "Rises in its middle by"],
    ["over_mm", "or: tape laid over it"],
    ["depth_mm", "How deep it reaches in"],
  ],
  tub: [
    ["width_mm", "Floor, width"],
    ["length_mm", "Floor, length"],
    ["depth_mm", "Depth of its sides"],
  ],
};
const NAMES: readonly [Kind, string][] = [
  ["rectangle", "a rectangle"],
  ["trapezium", "a trapezium"],
  ["L", "an L"],
  ["wheel-arch", "a wheel arch, unrolled"],
  ["arch", "a panel with a round top"],
  ["circle", "a circle"],
  ["wedge", "a wedge"],
  ["tub", "a tub, unfolded by its faces"],
  ["offsets", "a curved edge, taped off a chalk line"],
  ["triangles", "corners taped to one another"],
  ["drawing", "from a drawing (SVG, DXF)"],
  ["photo", "traced over a photograph"],
  ["template", "one of the workshop's templates"],
];
const LINES: Record<string, readonly [Key, string, string][]> = {
  offsets: [
    ["left", "Left of the line: where, how far", "0 310; 300 355; 1200 290"],
    ["right", "Right of it", "0 0; 1200 0"],
  ],
  triangles: [
    ["lengths", "Lengths between corners", "AB 800, AC 640, BC 590, BD 480, CD 480"],
    ["outline", "Corners in order round the edge", "ABDC"],
    ["inside", "Points that lie inside", ""],
  ],
};

const BULGE: readonly [Key, string, string][] = [
  ["bulge_across_mm", "In its middle, across", ""],
  ["bulge_up_mm", "In its middle, upwards", ""],
  ["relief", "Wedges cut at the rim of a dome", "in all"],
];

const OPTIONAL: readonly string[] = ["shift_mm", "straight_mm", "rise_mm", "over_mm"];

// Whether all is typed that a form needs.
const complete = (form: Form): boolean => {
  if (isGiven(form.kind)) return false;
  const has = (key: Key) => (form[key] ?? "").trim() !== "";
  const sizes = SIZES[form.kind as Exclude<Kind, Given>].every(([key]) => OPTIONAL.includes(key) || has(key));
  if (form.kind === "offsets") return sizes && (has("left") || has("right"));
  if (form.kind === "wheel-arch") return sizes && has("rise_mm") !== has("over_mm");
  return form.kind === "triangles" ? has("lengths") && has("outline") : sizes;
};

// A form with its lengths in the unit they were typed in.
const sent = (form: Form, units: Units): Schemas["ShapeForm"] =>
  Object.fromEntries(
    Object.entries(form).map(([k, v]) => [k, k.endsWith("_mm") ? sentIn(String(v), "length", units) : v]),
  ) as Schemas["ShapeForm"];

// The outline that comes of a form, worked out by the program; what it refuses is said.
export async function outlineOf(form: Form, units: Units): Promise<Schemas["TapedShape"]> {
  const { data } = await api.POST("/api/shape", { body: sent(form, units) });
  return data as Schemas["TapedShape"];
}

// The same while it is typed.
export function useOutline(form: Form, drawn: Ring | null): Outline {
  const units = useUnits();
  const asked = useQuery({
    queryKey: ["shape", form, units],
    enabled: complete(form),
    retry: false,
    queryFn: () => outlineOf(form, units),
  });
  if (isGiven(form.kind)) return { outline: drawn ?? [], area_m2: 0, wrong: "" };
  const wrong = complete(form) && asked.error instanceof Error ? asked.error.message : "";
  return { outline: asked.data?.outline_mm ?? [], area_m2: asked.data?.area_m2 ?? 0, wrong };
}

type Props = {
  form: Form;
  set: (form: Form) => void;
  give: Give;
};

export function ShapeFields({ form, set, give }: Props) {
  const units = useUnits();
  const change = (key: Key, value: string) => set({ ...form, [key]: value });
  const angle = (key: Key) => (key === "angle_deg" ? "°" : lengthUnit(units));
  return (
    <>
      <Ask label="Its shape">
        <Select<Kind>
          value={form.kind}
          listHeight={440}
          options={NAMES.map(([value, label]) => ({ value, label }))}
          onChange={(kind) => {
            set({ kind });
            give(Promise.resolve(null));
          }}
        />
      </Ask>
      {form.kind === "drawing" ? (
        <FromDrawing give={give} />
      ) : form.kind === "photo" ? (
        <TracePhoto give={give} />
      ) : form.kind === "template" ? (
        <FromTemplate give={give} />
      ) : (
        <>
          {form.kind === "wheel-arch" ? <ArchPicture /> : null}
          <div className="two">
            {SIZES[form.kind as Exclude<Kind, Given>].map(([key, label]) => (
              <Ask key={key} label={label}>
                <Input value={form[key] ?? ""} suffix={angle(key)} onChange={(e) => change(key, e.target.value)} />
              </Ask>
            ))}
          </div>
          {(LINES[form.kind] ?? []).map(([key, label, example]) => (
            <Ask key={key} label={label}>
              <Input value={form[key] ?? ""} placeholder={example} onChange={(e) => change(key, e.target.value)} />
            </Ask>
          ))}
          {form.kind === "offsets" ? (
            <Tick
              label="smooth between the points taped"
              on={form.smooth ?? false}
              turn={(on) => set({ ...form, smooth: on })}
            />
          ) : null}
          <Unfold summary="It bulges, and its sizes were taken straight over it">
            <div className="two">
              {BULGE.map(([key, label, unit]) => (
                <Ask key={key} label={label}>
                  <Input
                    value={form[key] ?? ""}
                    suffix={unit || lengthUnit(units)}
                    onChange={(e) => change(key, e.target.value)}
                  />
                </Ask>
              ))}
            </div>
          </Unfold>
          {form.kind === "rectangle" || form.kind === "circle" ? null : (
            <Tick
              label="the other side: mirrored"
              on={form.mirror ?? false}
              turn={(on) => set({ ...form, mirror: on })}
            />
          )}
        </>
      )}
    </>
  );
}

// A wheel arch from the side: what is measured where.
const ArchPicture = () => (
  <svg className="arch-picture" viewBox="0 0 320 128" role="img" aria-label="What to measure on a wheel arch">
    <path d="M40 100a80 72 0 0 1 160 0" className="skin" />
    <path d="M32 100a88 80 0 0 1 176 0" className="over" />
    <path d="M40 108H200M40 103v10M200 103v10M120 100V30M115 30h10" className="tape" />
    <text x={120} y={124} textAnchor="middle">
      foot to foot
    </text>
    <text x={128} y={72}>
      rise
    </text>
    <text x={204} y={42}>
      tape laid over it
    </text>
    <path d="M250 100l44 -26M250 95v10M294 69v10" className="tape" />
    <text x={276} y={104}>
      deep
    </text>
  </svg>
);

const Tick = ({ label, on, turn }: { label: string; on: boolean; turn: (on: boolean) => void }) => (
  <label className="tickline">
    <input type="checkbox" checked={on} onChange={(e) => turn(e.target.checked)} />
    <span>{label}</span>
  </label>
);

// A surface the workshop has measured before, as it was or mirrored.
function FromTemplate({ give }: Pick<Props, "give">) {
  const workshop = useWorkshop();
  const [id, setId] = useState<number | null>(null);
  const [mirror, setMirror] = useState(false);
  const kept = workshop.doc?.outlines ?? [];
  const fetched = async (outline_id: number, over: boolean) => {
    const asked = { params: { path: { outline_id }, query: { mirror: over } } };
    const kept = (await ask(api.GET("/api/outlines/{outline_id}", asked))) as Schemas["SurfaceDrawn"];
    return { outline_mm: kept.surface.outline_mm, kept };
  };
  const take = (n: number, over: boolean) => {
    setId(n);
    setMirror(over);
    give(fetched(n, over));
  };
  const one = kept.find((o) => o.id === id);
  if (!kept.length) return <p className="small">None is kept yet: a surface in Cut is kept by “Keep as a template”.</p>;
  return (
    <>
      <div className="chips" role="group" aria-label="Templates">
        {kept.map((o) => (
          <button key={o.id} className="chip" aria-pressed={o.id === id} onClick={() => take(o.id, mirror)}>
            <b>{o.label}</b> {o.what}
          </button>
        ))}
      </div>
      {one ? (
        <>
          <Tick label="the other side: mirrored" on={mirror} turn={(on) => take(one.id, on)} />
          <p className="small">
            {one.measured_on ? `Last measured on ${one.measured_on}.` : "Nobody noted when it was measured."}
          </p>
        </>
      ) : null}
    </>
  );
}

function FromDrawing({ give }: Pick<Props, "give">) {
  const [found, setFound] = useState<Schemas["ReadDrawing"] | null>(null);
  const [unit, setUnit] = useState("");
  const [picked, setPicked] = useState("");
  const [wrong, setWrong] = useState("");
  const picker = useRef<HTMLInputElement>(null);
  const pick = (shape: Schemas["DrawnShape"]) => {
    setPicked(shape.id);
    return { outline_mm: shape.outline_mm };
  };
  const take = async (file: File) => {
    const body = new FormData();
    body.append("file", file);
    body.append("unit", unit);
    try {
      const { data } = await api.POST("/api/drawings", { body: body as never });
      const drawing = data as Schemas["ReadDrawing"];
      setFound(drawing);
      setWrong(drawing.shapes.length ? "" : "No closed outline is in it.");
      return drawing.shapes[0] ? pick(drawing.shapes[0]) : null;
    } catch (error) {
      setFound(null);
      setWrong(error instanceof Error ? error.message : "It cannot be read.");
      return null;
    }
  };
  return (
    <>
      <Ask label="Drawn in, where the file does not say">
        <Select
          value={unit}
          options={["", "mm", "cm", "m", "in"].map((u) => ({ value: u, label: u || "as the file says" }))}
          onChange={setUnit}
        />
      </Ask>
      <div>
        <Button onClick={() => picker.current?.click()}>Choose a drawing …</Button>
        <FileInput picker={picker} label="Drawing" accept=".svg,.dxf" take={(file) => file && give(take(file))} />
      </div>
      {found ? (
        <div className="chips" role="group" aria-label="Outlines in the drawing">
          {found.shapes.slice(0, 40).map((s) => (
            <button
              key={s.id}
              className="chip"
              aria-pressed={s.id === picked}
              onClick={() => give(Promise.resolve(pick(s)))}
            >
              {s.label || s.id}
            </button>
          ))}
        </div>
      ) : null}
      {found?.ignored.length ? (
        <p className="small">
          {found.ignored.length} left out: {found.ignored[0]?.entity}, {found.ignored[0]?.reason}.
        </p>
      ) : null}
      {wrong ? (
        <span className="wrong" role="alert">
          {wrong}
        </span>
      ) : null}
    </>
  );
}

// The outline drawn, with its size and area.
export function Drawn({ outline, area_m2 }: { outline: Ring; area_m2: number }) {
  const units = useUnits();
  if (outline.length < 3) return null;
  const [xs, ys] = [outline.map((p) => p[0] ?? 0), outline.map((p) => p[1] ?? 0)];
  const [left, right, low, high] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const [wide, tall] = [right - left, high - low];
  const pad = Math.max(wide, tall) * 0.03;
  const d = outline.map((p, i) => `${i ? "L" : "M"}${(p[0] ?? 0) - left} ${high - (p[1] ?? 0)}`).join("");
  return (
    <figure className="drawn-shape">
      <svg
        viewBox={`${-pad} ${-pad} ${wide + 2 * pad} ${tall + 2 * pad}`}
        role="img"
        aria-label={`Outline, ${length(Math.round(wide), units)} wide, ${length(Math.round(tall), units)} high`}
      >
        <path d={`${d}Z`} vectorEffect="non-scaling-stroke" />
      </svg>
      <figcaption className="small">
        {length(Math.round(wide), units)} × {length(Math.round(tall), units)}
        {area_m2 ? `, ${amount(area_m2, "m²", units, 3)}` : ""}
      </figcaption>
    </figure>
  );
}
