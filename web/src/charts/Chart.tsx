// The frame of every picture: it fills its width, is read by pointer, finger and arrow keys, and has a table behind it.
import {
  useCallback,
  useId,
  useState,
  type KeyboardEvent,
  type PointerEvent,
  type ReactNode,
  type RefCallback,
} from "react";
import css from "./charts.module.css";

// What stands at one place of a picture; ``at`` is its distance along the direction of reading, px, ``across`` the other one
// where the picture is read as a plane.
export type Point = { at: number; name: string; values: readonly (string | null)[]; across?: number };

type Props = {
  label: string;
  // what a point's name and its values are called
  columns: readonly string[];
  height: number;
  points: (width: number) => readonly Point[];
  children: (width: number, read: number | null) => ReactNode;
  // what can be moved lies over the picture
  over?: (width: number) => ReactNode;
  legend?: ReactNode;
  along?: "x" | "y";
  first?: number;
  // in one line: the table's button beside the picture, what is read floating under it
  tight?: boolean;
  // what is read is chosen too; which one is
  pick?: (place: number) => void;
  picked?: number | null;
};

const NARROWEST = 180;

// The width of an element, whenever it comes to be there.
export function useWidth<E extends Element>(first: number): [RefCallback<E>, number] {
  const [width, setWidth] = useState(first);
  const ref = useCallback((element: E | null) => {
    if (!element) return;
    const watch = new ResizeObserver(([entry]) => {
      if (entry) setWidth(Math.max(NARROWEST, Math.floor(entry.contentRect.width)));
    });
    watch.observe(element);
    return () => watch.disconnect();
  }, []);
  return [ref, width];
}

// A point in words, as it is spoken.
export const said = (columns: readonly string[], point: Point): string => {
  const values = point.values.map((v, i) => (v === null ? "" : `${columns[i + 1] ?? ""} ${v}`.trim()));
  return `${point.name}: ${values.filter(Boolean).join(", ")}`;
};

function Cursor({ point, along, width, height }: { point: Point; along: "x" | "y"; width: number; height: number }) {
  const { at, across } = point;
  if (across !== undefined) return <circle cx={at} cy={across} r={16} className={css.ring} />;
  const ends = along === "x" ? { x1: at, x2: at, y1: 0, y2: height } : { x1: 0, x2: width, y1: at, y2: at };
  return <line {...ends} className={css.cursor} />;
}

const STEPS: Record<string, number> = {
  ArrowLeft: -1,
  ArrowUp: -1,
  ArrowRight: 1,
  ArrowDown: 1,
  PageUp: -3,
  PageDown: 3,
  Home: -Infinity,
  End: Infinity,
};

// The point nearest to a place; ``aside`` counts where the picture is read as a plane.
export function nearestTo(points: readonly Point[], to: number, aside: number): number | null {
  let best: number | null = null;
  let least = Infinity;
  points.forEach((p, i) => {
    const far = Math.hypot(p.at - to, p.across === undefined ? 0 : p.across - aside);
    if (far < least) [best, least] = [i, far];
  });
  return best;
}

// The point a key leads to; null where the key is none of ours.
export function stepped(key: string, chosen: number | null, last: number): number | null {
  const by = STEPS[key];
  if (by === undefined || last < 0) return null;
  if (chosen === null) return by === Infinity || (by < 0 && by > -Infinity) ? last : 0;
  return Math.max(0, Math.min(last, chosen + by));
}

export function Chart({
  label,
  columns,
  height,
  points,
  children,
  over,
  legend,
  along = "x",
  first = 850,
  tight = false,
  pick,
  picked,
}: Props) {
  const [ref, width] = useWidth<HTMLDivElement>(first);
  const [read, setRead] = useState<number | null>(null);
  const [open, setOpen] = useState(false);
  const id = useId();
  const all = points(width);
  const last = all.length - 1;
  const chosen = read === null ? null : Math.min(read, last);
  const point = chosen === null ? undefined : all[chosen];

  const go = (place: number, choose: boolean) => {
    setRead(place);
    if (choose) pick?.(place);
  };
  const nearest = (e: PointerEvent<HTMLDivElement>) => {
    if (e.pointerType === "touch" && e.type === "pointermove" && !e.buttons) return;
    const box = e.currentTarget.getBoundingClientRect();
    const [x, y] = [e.clientX - box.left, e.clientY - box.top];
    const [to, aside] = along === "x" ? [x, y] : [y, x];
    const found = nearestTo(all, to, aside);
    if (found !== null) go(found, e.type === "pointerdown");
  };
  const leave = (e: PointerEvent<HTMLDivElement>) => {
    if (e.pointerType === "mouse" && document.activeElement !== e.currentTarget) setRead(null);
  };
  const press = (e: KeyboardEvent<HTMLDivElement>) => {
    if (e.key === "Escape") return setRead(null);
    const next = e.ctrlKey || e.metaKey || e.altKey ? null : stepped(e.key, chosen ?? picked ?? null, last);
    if (next === null) return;
    e.preventDefault();
    go(next, true);
  };
  return (
    <figure className={`${css.chart} ${tight ? css.tight : ""}`} aria-label={label}>
      <div className={css.plot} style={{ height }} ref={ref}>
        <div
          className={css.picture}
          {...(all.length
            ? {
                role: "slider",
                tabIndex: 0,
                "aria-orientation": along === "x" ? ("horizontal" as const) : ("vertical" as const),
                "aria-valuemin": 0,
                "aria-valuemax": last,
                "aria-valuenow": chosen ?? picked ?? 0,
                "aria-valuetext": point ? said(columns, point) : `${all.length} values; the arrow keys read them`,
              }
            : { role: "img" })}
          aria-label={label}
          data-reads={along}
          onPointerDown={nearest}
          onPointerMove={nearest}
          onPointerLeave={leave}
          onKeyDown={press}
        >
          <svg width={width} height={height} aria-hidden>
            {children(width, chosen)}
            {point ? <Cursor point={point} along={along} width={width} height={height} /> : null}
          </svg>
        </div>
        {over ? (
          <svg width={width} height={height} className={css.over} role="group" aria-label={`${label}: to move`}>
            {over(width)}
          </svg>
        ) : null}
      </div>
      <figcaption className={css.caption}>
        <span className={css.readout} aria-hidden data-testid="read-out">
          {point ? (
            <>
              <b>{point.name}</b>
              {point.values.map((v, i) =>
                v === null ? null : (
                  <span key={columns[i + 1]}>
                    {columns[i + 1]} <b>{v}</b>
                  </span>
                ),
              )}
            </>
          ) : (
            legend
          )}
        </span>
        {all.length ? (
          <button className="key" aria-expanded={open} onClick={() => setOpen(!open)}>
            table
          </button>
        ) : null}
      </figcaption>
      {open ? (
        <div className={css.behind} id={id} tabIndex={0} role="region" aria-label={`${label}, as a table`}>
          <table>
            <thead>
              <tr>
                {columns.map((c) => (
                  <th key={c} scope="col">
                    {c}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {all.map((p, i) => (
                <tr key={`${p.name}${i}`}>
                  <th scope="row">{p.name}</th>
                  {p.values.map((v, k) => (
                    <td key={columns[k + 1]}>{v ?? "–"}</td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      ) : null}
    </figure>
  );
}
