// One sheet, large: to mark out and cut from, piece by piece, and to move a piece by hand where the program laid it badly.
import { Button, Select } from "antd";
import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Schemas } from "../../api/client";
import { useWidth } from "../../charts/Chart";
import { Note } from "../../parts/said";
import type { StageProps } from "../../parts/stage";
import { lengthUnit, useUnits } from "../../parts/units";
import { percent } from "../../parts/words";
import { FILL, Hatches, Letter, path } from "../../theme/hatches";
import drawn from "../../parts/drawing/drawing.module.css";
import css from "./cut.module.css";
import { useHand, type Laid } from "./hand";
import { labelAt, reach, ringsOf } from "../../parts/drawing/PieceShape";
import { Edges, nameOf, type Sheet } from "./Sheets";

type Props = StageProps & {
  sheets: readonly Sheet[];
  at: number;
  go: (at: number | null) => void;
  lit: string;
  light: (label: string) => void;
  done: ReadonlySet<string>;
  letGo: readonly string[];
};
type Drag = { piece: Schemas["SheetPiece"]; from: [number, number]; by: [number, number]; over: number | null };

const [TALLEST, SNAP_MM, STEP_MM, SWIPE_PX] = [560, 5, 10, 60];
const snapped = (mm: number) => Math.round(mm / SNAP_MM) * SNAP_MM;
const KEYS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};

const quarter = (deg: number) => (deg + 720) % 180 !== 0;

export function Bench({ id, page, edit, sheets, at, go, lit, light, done, letGo }: Props) {
  const units = useUnits();
  const sheet = sheets[at] as Sheet;
  const hand = useHand({ id, doc: page.document, sheets, sheet, edit, letGo });
  const [ref, room] = useWidth<HTMLDivElement>(760);
  const [drag, setDrag] = useState<Drag | null>(null);
  const [chosen, setChosen] = useState("");
  const swipe = useRef<number | null>(null);
  const k = Math.min((room - 6) / sheet.across_mm, TALLEST / sheet.up_mm);
  const place = (p: readonly number[]): [number, number] => [(p[0] ?? 0) * k, (sheet.up_mm - (p[1] ?? 0)) * k];
  // a way to the right and up, as the sheet is drawn, as a way on the stock, and back
  const [a, b, c, d] = sheet.to_stock;
  const onStock = (right: number, up: number): [number, number] => [a * right + b * up, c * right + d * up];
  const asDrawn = (x: number, y: number): [number, number] => [a * x + c * y, b * x + d * y];
  const [w, h] = [sheet.across_mm * k, sheet.up_mm * k];
  const piece = sheet.pieces.find((p) => p.label === chosen);
  const like = sheets
    .map((s, n) => [s, n] as const)
    .filter(([s]) => s.material === sheet.material && s.thickness_mm === sheet.thickness_mm);
  // from wherever the move before has brought it, and however it lies by then
  const put = (label: string, change: (now: Laid) => Partial<Laid>) =>
    void hand.place(label, (now) => ({ ...now, locked: true, ...change(now) }));
  // onto another sheet, where the program finds it a place
  const moveTo = (label: string, n: number) => {
    const to = sheets[n];
    if (to) void hand.place(label, (now) => ({ ...now, stock: to.stock, number: to.number, locked: true }), true);
  };
  const start = (e: PointerEvent<SVGGElement>, p: Schemas["SheetPiece"]) => {
    e.stopPropagation();
    e.currentTarget.setPointerCapture(e.pointerId);
    setChosen(p.label);
    hand.say("");
    setDrag({ piece: p, from: [e.clientX, e.clientY], by: [0, 0], over: null });
  };
  const target = (d: Drag, now = hand.of(d.piece)): Laid => ({
    ...now,
    x_mm: snapped(now.x_mm + d.by[0]),
    y_mm: snapped(now.y_mm + d.by[1]),
  });
  const move = (e: PointerEvent<SVGGElement>) => {
    if (!drag) return;
    const under = document.elementFromPoint(e.clientX, e.clientY)?.closest<HTMLElement>("[data-sheet]");
    const over = under ? Number(under.dataset["sheet"]) : null;
    const next = { ...drag, over, by: onStock((e.clientX - drag.from[0]) / k, (drag.from[1] - e.clientY) / k) };
    setDrag(next);
    if (over === null) hand.check(target(next));
  };
  const end = () => {
    if (!drag) return;
    const far = Math.hypot(...drag.by) * k > 4;
    setDrag(null);
    if (drag.over !== null && drag.over !== at) moveTo(drag.piece.label, drag.over);
    else if (far) put(drag.piece.label, (now) => target(drag, now));
  };
  const press = (e: KeyboardEvent, p: Schemas["SheetPiece"]) => {
    const by = KEYS[e.key];
    if (by) {
      e.preventDefault();
      const step = e.shiftKey ? 1 : STEP_MM;
      const [dx, dy] = onStock(by[0] * step, by[1] * step);
      put(p.label, (now) => ({ x_mm: now.x_mm + dx, y_mm: now.y_mm + dy }));
    } else if (e.key === "Enter" || e.key === " ") {
      e.preventDefault();
      setChosen(p.label);
    }
  };
  const turn = (p: Schemas["SheetPiece"]) =>
    put(p.label, (now) => {
      const next = p.turns.length ? p.turns[(p.turns.indexOf(now.turned_deg) + 1) % p.turns.length] : undefined;
      const turned_deg = next ?? (now.turned_deg + 90) % 360;
      const [wide, high] = onStock(...reach(p.outline_mm)).map(Math.abs) as [number, number];
      const by =
        ((quarter(now.turned_deg - p.turned_deg) ? high - wide : wide - high) / 2) *
        Number(quarter(turned_deg - now.turned_deg));
      return { turned_deg, x_mm: Math.max(0, now.x_mm + by), y_mm: Math.max(0, now.y_mm - by) };
    });
  // what is cut stays where it is when the rest is laid again
  const tick = async (p: Schemas["SheetPiece"]) => {
    const job = page.document.job;
    const before = (page.document.job.cut_pieces ?? []).includes(p.label);
    if (done.has(p.label)) return edit.tryOperate("jobs", job, { op: "remove", at: ["cut_pieces"], id: p.label });
    const ticked = before
      ? undefined
      : edit.tryOperate("jobs", job, { op: "add", at: ["cut_pieces"], item: p.label, after: null });
    if (!p.locked) await hand.place(p.label, (now) => ({ ...now, locked: true }));
    return ticked;
  };
  const cut = sheet.pieces.filter((p) => done.has(p.label)).length;
  return (
    <div className={css.bench} data-testid="bench">
      <div className="acts">
        <Button onClick={() => go(null)}>All sheets</Button>
        <Button disabled={at === 0} onClick={() => go(at - 1)} aria-label="The sheet before">
          ‹
        </Button>
        <b className={css.which}>
          {nameOf(sheet)}, {sheet.name}
        </b>
        <Button disabled={at === sheets.length - 1} onClick={() => go(at + 1)} aria-label="The next sheet">
          ›
        </Button>
      </div>
      <p className="small">
        {at + 1} of {sheets.length}. {sheet.size}, {percent(sheet.used)} of it used, {cut} of {sheet.pieces.length} cut.{" "}
        {sheet.alike > 1 ? `${sheet.alike} sheets are cut just like this one.` : null}
      </p>
      {like.length > 1 ? (
        <div className="chips" role="group" aria-label="Sheets of this material: drag a piece onto one">
          {like.map(([s, n]) => (
            <button
              key={n}
              className="chip"
              data-sheet={n}
              data-over={drag?.over === n || undefined}
              aria-pressed={n === at}
              onClick={() => go(n)}
            >
              {nameOf(s)}
            </button>
          ))}
        </div>
      ) : null}
      <div
        className={css.plate}
        ref={ref}
        onPointerDown={(e) => (swipe.current = e.clientX)}
        onPointerUp={(e) => {
          const by = swipe.current === null ? 0 : e.clientX - swipe.current;
          swipe.current = null;
          if (Math.abs(by) > SWIPE_PX && !drag) go(Math.max(0, Math.min(sheets.length - 1, at - Math.sign(by))));
        }}
      >
        <svg
          width={w + 4}
          height={h + 4}
          viewBox={`-2 -2 ${w + 4} ${h + 4}`}
          role="group"
          aria-label={`${sheet.name}, ${sheet.pieces.length} pieces`}
        >
          <Hatches />
          <path d={path(sheet.outline_mm.map(place))} className={css.stock} />
          {sheet.pieces.map((p, n) => {
            const held =
              drag?.piece.label === p.label ? target(drag) : hand.moving?.id === p.label ? hand.moving : null;
            const now = held ?? hand.of(p);
            const by = asDrawn(now.x_mm - p.x_mm, now.y_mm - p.y_mm);
            const put = (q: readonly number[]) => place([(q[0] ?? 0) + by[0], (q[1] ?? 0) + by[1]]);
            const [x, y] = labelAt(p.outline_mm.map(put), n, 12, h);
            return (
              <g
                key={p.label}
                tabIndex={0}
                role="button"
                aria-label={`${p.label}${p.locked ? ", locked" : ""}; arrow keys move it`}
                aria-pressed={chosen === p.label}
                onPointerDown={(e) => start(e, p)}
                onPointerMove={move}
                onPointerUp={end}
                onPointerCancel={() => setDrag(null)}
                onPointerEnter={() => light(p.label)}
                onKeyDown={(e) => press(e, p)}
                className={css.movable}
              >
                <path
                  d={ringsOf(p, put)}
                  fillRule="evenodd"
                  fill={FILL[sheet.letter]}
                  className={
                    held && hand.why ? css.bad : p.label === chosen || p.label === lit ? drawn.lit : drawn.piece
                  }
                  opacity={done.has(p.label) ? 0.45 : 1}
                  strokeDasharray={p.locked ? "9 3" : undefined}
                />
                <Letter x={x} y={y} letter={p.label} r={12} room={reach(p.outline_mm.map(put))} />
                {roomFor(p, k) ? (
                  <text x={x} y={y + 26} className={css.size} textAnchor="middle">
                    {p.size}
                  </text>
                ) : null}
              </g>
            );
          })}
        </svg>
        <Edges sheet={sheet} />
      </div>
      {hand.why ? (
        <Note kind="warn">
          {hand.why}
          {drag ? "" : " It stays where it was."}
        </Note>
      ) : null}
      <div className="acts" role="group" aria-label="The chosen piece">
        {piece ? (
          <>
            <b>{piece.label}</b>
            <Button onClick={() => turn(piece)}>Turn</Button>
            {piece.mirrors ? (
              <Button onClick={() => put(piece.label, (now) => ({ mirrored: !now.mirrored }))}>Turn over</Button>
            ) : null}
            <Button onClick={() => put(piece.label, (now) => ({ locked: !now.locked }))}>
              {piece.locked ? "Unlock" : "Lock"}
            </Button>
            {like.length > 1 ? (
              <Select
                value={at}
                aria-label="On which sheet"
                options={like.map(([s, value]) => ({ value, label: `on ${nameOf(s).toLowerCase()}` }))}
                onChange={(n: number) => {
                  moveTo(piece.label, n);
                }}
              />
            ) : null}
          </>
        ) : (
          <span className="small">Drag a piece to move it, or press it and turn it.</span>
        )}
        {hand.any ? (
          <>
            <Button onClick={() => void hand.again()}>Lay the rest again</Button>
            <Button onClick={() => void hand.free()}>As the program lays it</Button>
          </>
        ) : null}
      </div>
      <div className={`rows ${css.marks}`}>
        {sheet.pieces.map((p) => (
          <label key={p.label} className={css.mark} data-lit={p.label === lit || undefined}>
            <input type="checkbox" checked={done.has(p.label)} onChange={() => void tick(p)} />
            <b>{[p.label, ...(p.also ?? [])].join(" ")}</b>
            <b className="num">{p.size}</b>
            <span className="num">{p.at}</span>
            {p.lines.map((line, n) => (
              <span key={n} className={`small ${css.more}`}>
                {line.lead}
                <span className={css.points}>
                  {line.points?.map((p, at) => (
                    <span key={at} className="num">
                      {p}
                    </span>
                  ))}
                </span>
              </span>
            ))}
          </label>
        ))}
      </div>
      <p className="small">
        Size: along the foot × up. Place: the piece’s lower left corner, from the left edge · from the foot of the sheet
        as it is drawn; all other places too. In {lengthUnit(units)}.
      </p>
    </div>
  );
}

const LETTER_PX = 7.6;
function roomFor(p: Schemas["SheetPiece"], k: number): boolean {
  const [wide, high] = reach(p.outline_mm);
  return wide * k > p.size.length * LETTER_PX + 6 && high * k > 64;
}
