// What stays clear on a surface: a rectangle, a circle, a row of them, or a band along its edge.
import { Input, Select } from "antd";
import { useState } from "react";
import { api, ask, itemId, type Schemas } from "../../api/client";
import { Dialog, type InDialog } from "../../parts/Dialog";
import { Ask } from "../../parts/fields";
import { length, lengthUnit, sentIn, shownIn, useUnits } from "../../parts/units";

type Surface = Schemas["Surface"];

const ZONES = [
  "drain",
  "vent",
  "fixing",
  "moving part",
  "airbag seam",
  "hot part",
  "module",
  "cable run",
  "sealing face",
  "trim line",
  "loudspeaker",
  "stiffener",
] as const;
const ALONG: readonly string[] = ["sealing face", "trim line"];
const SHAPES = [
  { value: "rectangle" as const, label: "rectangle" },
  { value: "circle" as const, label: "circle" },
  { value: "edge" as const, label: "a band along the edge" },
];
type Form = (typeof SHAPES)[number]["value"];
const SIZES: Record<Form, readonly [string, string][]> = {
  rectangle: [
    ["x_mm", "From the left"],
    ["y_mm", "From below"],
    ["width_mm", "Width"],
    ["height_mm", "Height"],
  ],
  circle: [
    ["x_mm", "Centre from the left"],
    ["y_mm", "Centre from below"],
    ["width_mm", "Diameter"],
  ],
  edge: [["width_mm", "How wide"]],
};

export function NewZone({ row, edit, close }: InDialog & { row: Surface }) {
  const units = useUnits();
  const shown = (mm: number) => shownIn(mm, "length", units);
  const [kind, setKind] = useState<(typeof ZONES)[number]>("drain");
  const [values, setValues] = useState<Record<string, string>>({
    x_mm: "0",
    y_mm: "0",
    width_mm: shown(80),
    height_mm: shown(30),
    step: shown(90),
    count: "1",
    angle: "0",
  });
  const [pierce, setPierce] = useState(false);
  const [shape, setShape] = useState<Form>("rectangle");
  const [edges, setEdges] = useState<readonly number[]>([]);
  const text = (key: string) => values[key] ?? "";
  const mm = (key: string) => sentIn(text(key), "length", units);
  const save = async () => {
    const at = { x_mm: mm("x_mm"), y_mm: mm("y_mm") };
    const place = {
      rectangle: { ...at, width_mm: mm("width_mm"), height_mm: mm("height_mm") },
      circle: { at_mm: [at.x_mm, at.y_mm], diameter_mm: mm("width_mm") },
      edge: { width_mm: mm("width_mm"), edges },
    }[shape];
    const given = (key: string) => (text(key).trim() ? mm(key) : null);
    const zone = {
      kind,
      shape,
      name: text("name"),
      ...place,
      margin_mm: given("margin_mm"),
      pierce: pierce && kind === "fixing",
      away_mm: kind === "hot part" ? given("away_mm") : null,
    };
    const typed = {
      zone,
      count: shape === "edge" ? 1 : text("count") || "1",
      step_mm: mm("step"),
      angle_deg: text("angle"),
    };
    const found = await ask(api.POST("/api/clear-row", { body: typed as never }));
    await edit.operate(
      "surfaces",
      row,
      found.zones.map((item) => ({
        op: "add" as const,
        at: ["keep_clear"],
        item: { ...item, id: itemId() },
        after: null,
      })),
    );
  };
  const field = (key: string, label: string, unit = lengthUnit(units)) => (
    <Ask key={key} label={label}>
      <Input value={text(key)} suffix={unit} onChange={(e) => setValues({ ...values, [key]: e.target.value })} />
    </Ask>
  );
  return (
    <Dialog title={`Keep clear on the ${row.name.toLowerCase()}`} ok="Keep it clear" save={save} close={close}>
      <div className="two">
        <Ask label="What is there">
          <Select
            value={kind}
            listHeight={480}
            options={ZONES.map((value) => ({ value, label: value }))}
            onChange={(value) => {
              setKind(value);
              setShape(ALONG.includes(value) ? "edge" : shape === "edge" ? "rectangle" : shape);
            }}
          />
        </Ask>
        <Ask label="Shape">
          <Select value={shape} options={SHAPES} onChange={setShape} />
        </Ask>
        {SIZES[shape].map(([key, label]) => field(key, label))}
        {field("margin_mm", "Margin (empty: by kind)")}
        {kind === "hot part" ? field("away_mm", "Stands off the panel (empty: not)") : null}
      </div>
      {shape === "edge" ? <Sides outline={row.outline_mm} chosen={edges} choose={setEdges} /> : null}
      <div className="two">
        {shape === "edge" ? null : field("count", "How many in a row", "")}
        {field("name", "Why, or which", "")}
        {shape !== "edge" && Number(text("count")) > 1 ? (
          <>
            {field("step", "From one to the next")}
            {field("angle", "Which way, from the right upwards", "°")}
          </>
        ) : null}
      </div>
      {kind === "fixing" ? (
        <label className="tickline">
          <input type="checkbox" checked={pierce} onChange={(e) => setPierce(e.target.checked)} />
          <span>Covered, and pierced when the layer lies</span>
        </label>
      ) : null}
    </Dialog>
  );
}

type SidesProps = {
  outline: Surface["outline_mm"];
  chosen: readonly number[];
  choose: (sides: readonly number[]) => void;
};

// The sides of an outline, pressed on its picture or in the row under it; none pressed is all of them.
function Sides({ outline, chosen, choose }: SidesProps) {
  const units = useUnits();
  const [xs, ys] = [outline.map((p) => p[0]), outline.map((p) => p[1])];
  const [left, low, wide, high] = [
    Math.min(...xs),
    Math.min(...ys),
    Math.max(...xs) - Math.min(...xs),
    Math.max(...ys) - Math.min(...ys),
  ];
  const pad = Math.max(wide, high) * 0.06;
  const sides = outline.map((a, i) => ({ n: i + 1, a, b: outline[(i + 1) % outline.length] ?? a }));
  const flip = (n: number) =>
    choose(chosen.includes(n) ? chosen.filter((m) => m !== n) : [...chosen, n].sort((p, q) => p - q));
  const on = (n: number) => !chosen.length || chosen.includes(n);
  return (
    <>
      <svg
        viewBox={`${-pad} ${-pad} ${wide + 2 * pad} ${high + 2 * pad}`}
        style={{ maxHeight: 150, width: "100%" }}
        role="img"
        aria-label="The sides; those the band lies along are thick"
      >
        {sides.map(({ n, a, b }) => (
          <line
            key={n}
            x1={a[0] - left}
            y1={low + high - a[1]}
            x2={b[0] - left}
            y2={low + high - b[1]}
            stroke={on(n) ? "var(--cranberry)" : "var(--bark)"}
            strokeWidth={(on(n) ? 0.03 : 0.008) * Math.max(wide, high)}
            onClick={() => flip(n)}
          />
        ))}
      </svg>
      <div className="chips" role="group" aria-label="Along which sides">
        <button className="chip" aria-pressed={!chosen.length} onClick={() => choose([])}>
          all round
        </button>
        {sides.slice(0, 24).map(({ n, a, b }) => (
          <button key={n} className="chip" aria-pressed={chosen.includes(n)} onClick={() => flip(n)}>
            {n}: {length(Math.round(Math.hypot(b[0] - a[0], b[1] - a[1])), units)}
          </button>
        ))}
      </div>
    </>
  );
}
