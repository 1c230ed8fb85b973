// An outline traced over a photograph: corners marked with a loupe under the finger, squared up by a rectangle of known size.
import { Button, Input, Segmented } from "antd";
import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { api, ask, type Schemas } from "../api/client";
import { Ask } from "./fields";
import { FileInput } from "./FileInput";
import { readPhoto, type Photo } from "./photo";
import { useLatest, type Give } from "./given";
import { Note } from "./said";
import css from "./trace-photo.module.css";
import { amount, lengthUnit, sentIn, useUnits } from "./units";

type Pixel = [number, number];
type Mark = "rectangle" | "length" | "outline";
type Marks = Record<Mark, Pixel[]>;
type Traced = { shape: Schemas["TracedShape"] | null; wrong: string };

const MOST: Record<Mark, number> = { rectangle: 4, length: 2, outline: 200 };
const HELP: Record<Mark, string> = {
  rectangle:
    "Mark the four corners of something square of known size that lies in the panel: a sheet of paper will do.",
  length: "Mark the two ends of a length you have measured.",
  outline: "Mark the corners of the panel in order round its edge.",
};
const [NEAR_PX, LOUPE] = [14, 3];
const STEPS: Record<string, Pixel> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

export function TracePhoto({ give }: { give: Give }) {
  const units = useUnits();
  const [photo, setPhoto] = useState<Photo | null>(null);
  const [mode, setMode] = useState<Mark>("rectangle");
  const [marks, setMarks] = useState<Marks>({ rectangle: [], length: [], outline: [] });
  const [sizes, setSizes] = useState({ width: "", height: "", length: "" });
  const [held, setHeld] = useState<number | null>(null);
  const [pointer, setPointer] = useState<Pixel | null>(null);
  const seen = useLatest<Traced>();
  const [wrong, setWrong] = useState("");
  const picker = useRef<HTMLInputElement>(null);
  const svg = useRef<SVGSVGElement>(null);

  const take = async (file: File | undefined) => {
    if (!file) return;
    try {
      setPhoto(await readPhoto(file));
      setWrong("");
    } catch (error) {
      setWrong(error instanceof Error ? error.message : "It cannot be read.");
    }
  };
  const traced = async (m: Marks, s: typeof sizes): Promise<Traced | null> => {
    const square = m.rectangle.length === 4 && s.width && s.height;
    const known = m.length.length === 2 && s.length;
    if (m.outline.length < 3 || !(square || known)) return null;
    const mm = (text: string) => sentIn(text, "length", units) as never;
    const body = {
      outline: m.outline,
      rectangle: square ? { corners: m.rectangle as never, width_mm: mm(s.width), height_mm: mm(s.height) } : null,
      length: known ? { ends: m.length as never, length_mm: mm(s.length) } : null,
    };
    try {
      return { shape: (await ask(api.POST("/api/traced", { body }))) as Schemas["TracedShape"], wrong: "" };
    } catch (error) {
      return { shape: null, wrong: error instanceof Error ? error.message : "That cannot be traced." };
    }
  };
  const trace = (m: Marks, s: typeof sizes) => {
    const asked = traced(m, s);
    seen.ask(asked);
    give(asked.then((it) => it?.shape ?? null));
  };
  const put = (points: Pixel[]) => {
    const next = { ...marks, [mode]: points };
    setMarks(next);
    trace(next, sizes);
  };
  const size = (change: Partial<typeof sizes>) => {
    const next = { ...sizes, ...change };
    setSizes(next);
    trace(marks, next);
  };
  const at = (e: PointerEvent): Pixel => {
    const box = svg.current?.getBoundingClientRect();
    if (!box || !photo) return [0, 0];
    return [((e.clientX - box.left) * photo.width) / box.width, ((e.clientY - box.top) * photo.height) / box.height];
  };
  const points = marks[mode];
  const [found, said] = [seen.value?.shape, wrong || seen.value?.wrong];
  const down = (e: PointerEvent<SVGSVGElement>) => {
    e.currentTarget.setPointerCapture(e.pointerId);
    const p = at(e);
    const near = (photo?.width ?? 0) / (svg.current?.getBoundingClientRect().width || 1);
    const n = points.findIndex((q) => Math.hypot(q[0] - p[0], q[1] - p[1]) < NEAR_PX * near);
    if (n >= 0) return setHeld(n);
    if (points.length >= MOST[mode]) return;
    setHeld(points.length);
    setMarks({ ...marks, [mode]: [...points, p] });
    setPointer(p);
  };
  const move = (e: PointerEvent<SVGSVGElement>) => {
    const p = at(e);
    setPointer(p);
    if (held !== null) setMarks({ ...marks, [mode]: points.map((q, i) => (i === held ? p : q)) });
  };
  const up = () => {
    if (held !== null) put(points);
    setHeld(null);
    if (mode === "rectangle" && points.length === 4 && held === 3) setMode("outline");
    if (mode === "length" && points.length === 2 && held === 1) setMode("outline");
  };
  const press = (e: KeyboardEvent, n: number) => {
    const by = STEPS[e.key];
    if (!by) return;
    e.preventDefault();
    put(points.map((q, i) => (i === n ? [q[0] + by[0], q[1] + by[1]] : q)));
  };
  const unit = lengthUnit(units);
  return (
    <div className="form">
      <div>
        <Button onClick={() => picker.current?.click()}>
          {photo ? "Another photograph …" : "Choose a photograph …"}
        </Button>
        <FileInput picker={picker} label="Photograph" accept="image/*" take={take} />
      </div>
      {photo ? (
        <>
          <Segmented<Mark>
            block
            value={mode}
            onChange={setMode}
            options={[
              { value: "rectangle", label: `Square-up (${marks.rectangle.length} of 4)` },
              { value: "length", label: `Known length (${marks.length.length} of 2)` },
              { value: "outline", label: `Outline (${marks.outline.length})` },
            ]}
          />
          <p className="small">{HELP[mode]}</p>
          <div className={css.tracing} style={{ maxWidth: (460 * photo.width) / photo.height }}>
            <svg
              ref={svg}
              viewBox={`0 0 ${photo.width} ${photo.height}`}
              onPointerDown={down}
              onPointerMove={move}
              onPointerUp={up}
              onPointerLeave={() => held === null && setPointer(null)}
              role="group"
              aria-label="The photograph; press to mark a point"
            >
              <image href={photo.url} width={photo.width} height={photo.height} />
              <Drawn marks={marks} k={photo.width / 560} />
              {points.map((p, i) => (
                <circle
                  key={i}
                  cx={p[0]}
                  cy={p[1]}
                  r={(9 * photo.width) / 560}
                  className={css.point}
                  tabIndex={0}
                  role="button"
                  aria-label={`Point ${i + 1}; arrow keys move it`}
                  onKeyDown={(e) => press(e, i)}
                />
              ))}
              {pointer && held !== null ? <Loupe photo={photo} at={pointer} /> : null}
            </svg>
          </div>
          <div className="two">
            <Ask label="Square-up: width">
              <Input value={sizes.width} suffix={unit} onChange={(e) => size({ width: e.target.value })} />
            </Ask>
            <Ask label="Square-up: height">
              <Input value={sizes.height} suffix={unit} onChange={(e) => size({ height: e.target.value })} />
            </Ask>
            <Ask label="Known length">
              <Input value={sizes.length} suffix={unit} onChange={(e) => size({ length: e.target.value })} />
            </Ask>
            <div className="acts">
              <Button disabled={!points.length} onClick={() => put(points.slice(0, -1))}>
                Take the last point back
              </Button>
            </div>
          </div>
          {found ? (
            <Note kind={found.squared ? "good" : "warn"}>
              {amount(found.area_m2, "m²", units, 3)}. {found.note}
            </Note>
          ) : null}
        </>
      ) : null}
      {said ? <Note kind="danger">{said}</Note> : null}
    </div>
  );
}

function Drawn({ marks, k }: { marks: Marks; k: number }) {
  const line = (p: Pixel[], closed: boolean) =>
    p.length > 1 ? `M${p.map((q) => q.join(" ")).join("L")}${closed ? "Z" : ""}` : "";
  return (
    <g fill="none" strokeWidth={2.5 * k}>
      <path d={line(marks.rectangle, marks.rectangle.length === 4)} className={css.square} />
      <path d={line(marks.length, false)} className={css.known} />
      <path d={line(marks.outline, true)} className={css.edge} />
    </g>
  );
}

// What lies under the finger, three times as large, beside it.
function Loupe({ photo, at }: { photo: Photo; at: Pixel }) {
  const r = photo.width / 9;
  const [x, y] = [at[0] > photo.width / 2 ? r : photo.width - r, at[1] > photo.height / 2 ? r : photo.height - r];
  return (
    <g>
      <clipPath id="loupe">
        <circle cx={x} cy={y} r={r} />
      </clipPath>
      <g clipPath="url(#loupe)">
        <image
          href={photo.url}
          x={x - at[0] * LOUPE}
          y={y - at[1] * LOUPE}
          width={photo.width * LOUPE}
          height={photo.height * LOUPE}
        />
        <path
          d={`M${x - r} ${y}h${2 * r}M${x} ${y - r}v${2 * r}`}
          className={css.cross}
          strokeWidth={photo.width / 700}
        />
      </g>
      <circle cx={x} cy={y} r={r} className={css.rim} strokeWidth={photo.width / 250} />
    </g>
  );
}
