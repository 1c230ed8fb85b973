"""Pictures of papers, each drawn by one routine for every way of printing it: rule, stairs, bands, ways in, section, surface."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import NamedTuple

from reportlab.lib.colors import HexColor, white

from ...core.levels.meaning import hertz
from ...core.papers.blocks import (
    BandsBlock,
    Block,
    PathsBlock,
    Points,
    RuleBlock,
    RuleMark,
    SectionBlock,
    StairsBlock,
    SurfaceBlock,
)
from ...core.words import percent, signed
from ..report_style import BARK, HEATHER, INK, LINE, MOSS, MOSS_WASH, PAPER, WATER
from .drawing import Box, Drawing, Way, Words, said_width

WIDE = 174.0
"""What a page is wide between its margins, mm."""
GAP = 2.0
"""Between a mark and its label, and between labels, mm."""
PROMISED = HexColor("#e0cfe2")
COLOURS = {"as found": INK, "target": MOSS, "predicted": HEATHER, "measured": WATER}
FILLS = {"plate": HexColor("#b9a483"), "damping": BARK, "limp": HexColor("#4a545c"), "soft": HexColor("#e3d3a1")}


def label_spans(at: Sequence[float], widths: Sequence[float], room: float) -> list[tuple[float, int]]:
    """Where the label of each mark begins and in which row it stands, 0 the lowest: none covers another label, the line of
    another mark below its own label, or leaves the room; same unit all."""
    left: dict[int, float] = {}
    for i in sorted(range(len(at)), key=lambda k: -at[k]):  # beside a mark whose label had to go left, it goes left too
        crossed = [j for j in left if left[j] < at[j] and at[i] < at[j] <= at[i] + 2 * GAP + widths[i]]
        fits_right, fits_left = at[i] + GAP + widths[i] <= room, at[i] - GAP - widths[i] >= 0
        left[i] = at[i] + GAP if fits_right and not (crossed and fits_left) else max(at[i] - GAP - widths[i], 0.0)
    spans = [(left[i] - GAP / 2, left[i] + widths[i] + GAP / 2) for i in range(len(at))]
    over = [[j for j in range(len(at)) if j != i and spans[i][0] <= at[j] <= spans[i][1]] for i in range(len(at))]
    rows = [0] * len(at)
    for _ in range(2 * len(at)):
        for i in sorted(range(len(at)), key=lambda k: len(over[k])):
            least = max((rows[j] + 1 for j in over[i] if i not in over[j] or j < i), default=0)
            taken = {rows[j] for j in range(len(at)) if j != i and spans[i][0] < spans[j][1] and spans[j][0] < spans[i][1]}
            rows[i] = next(r for r in range(least, least + len(at) + 1) if r not in taken)
    return [(left[i], rows[i]) for i in range(len(at))]


NAMES = {"predicted": "expected"}
ROW, TAPE, LABEL_MM = 4.6, 7.0, 2.6


def rule(block: RuleBlock, width: float = WIDE) -> Drawing:
    """The goal's rule: a tape with a mark per value, labels in rows above it that never meet."""
    span = block.high - block.low or 1.0

    def at(value: float) -> float:
        return min(max((value - block.low) / span, 0.0), 1.0) * width

    texts = [Words(0, 0, _valued(m), 8.5, True) for m in block.marks]
    places = [at(m.value) for m in block.marks]
    spans = label_spans(places, [said_width(t) for t in texts], width)
    rows = max((r for _, r in spans), default=-1) + 1
    top = ROW * rows + 1.0
    shapes: list[Box | Way | Words] = [Box(0, top, width, TAPE, PAPER)]
    if block.promised is not None:
        low, high = sorted(block.promised)
        shapes.append(Box(at(low), top, max(at(high) - at(low), 0.6), TAPE, PROMISED))
    shapes += _ticks(block, at, places, top, width)
    for mark, text, x, (left, row) in zip(block.marks, texts, places, spans, strict=True):
        y, fill = ROW * (rows - row) - 1.2, COLOURS.get(mark.name, INK)
        if mark.within:
            ends = at(mark.value - mark.within), at(mark.value + mark.within)
            shapes.append(Box(ends[0], top + TAPE - 0.8, ends[1] - ends[0], 0.8, fill))
        shapes += [Box(x - 0.35, y - 2.2, 0.7, top + TAPE - y + 2.2, fill), text._replace(x=left, y=y, fill=fill)]
    promised = "" if block.promised is None else f"; promised {block.promised[0]:.1f} to {block.promised[1]:.1f}"
    return Drawing(width, top + TAPE, tuple(shapes), "; ".join(t.text for t in texts) + promised + f", {block.unit}")


def _valued(mark: RuleMark) -> str:
    return f"{NAMES.get(mark.name, mark.name)} {mark.value:.1f}" + (f" ± {mark.within:.1f}" if mark.within else "")


def _ticks(block: RuleBlock, at: Callable[[float], float], marks: Sequence[float], top: float, width: float) -> list[Words]:
    """Numbers on the tape, none under a mark's line, none beside another too near; the unit at its end."""
    unit = Words(width - 1.0, top + 5.0, block.unit, 7, anchor="end", fill=BARK)
    span = block.high - block.low
    step = next(s for s in (1, 2, 5, 10, 20, 50, 100, 1000, 100_000) if span / s <= 12 or s == 100_000)
    out, edge = [unit], 0.0
    for tick in range(math.ceil(block.low / step) * step, int(block.high) + 1, step):
        words = Words(at(tick), top + 5.0, str(tick), 7, anchor="middle", fill=BARK)
        half = said_width(words) / 2
        free = all(abs(at(tick) - m) > half + 0.8 for m in marks)
        if free and at(tick) - half >= edge and at(tick) + half <= width - said_width(unit) - 2 * GAP:
            out.append(words)
            edge = at(tick) + half + GAP
    return out


def stairs(block: StairsBlock, width: float = WIDE) -> Drawing:
    """Rounds as stairs: a tread at each level, what it changed under it."""
    levels = [s.level for s in block.steps] + ([block.goal] if block.goal is not None else [])
    margin = max(0.25 * (max(levels) - min(levels)), 1.0)
    low, high = min(levels) - margin, max(levels)
    tall, top, aside = 26.0, 8.0, 20.0 if block.goal is not None else 0.0
    each = (width - aside) / max(len(block.steps), 1)

    def down(value: float) -> float:
        return top + (high - value) / (high - low) * tall

    shapes: list[Box | Way | Words] = []
    goal = None if block.goal is None else down(block.goal)
    for i, step in enumerate(block.steps):
        x, y = i * each, down(step.level)
        # its level above the tread, or in it where the goal's line would run through the figures
        inside = goal is not None and y - 5.0 <= goal <= y
        words = _cut(f"{step.level:.1f} {block.unit}", each - 3, 8.5)
        shapes += [Box(x + 1, y, each - 2, top + tall - y, MOSS_WASH), Box(x + 1, y - 0.4, each - 2, 0.8, INK),
                   Words(x + 2, y + 4.2 if inside else y - 1.6, words, 8.5, True)]
        changed = "" if step.change is None else signed(step.change) if step.comparable else "not comparable"
        for row, text in enumerate(x for x in (step.name, changed) if x):
            shapes.append(Words(x + 2, top + tall + 4.0 + 3.8 * row, _cut(text, each - 3, 8.0), 8.0, fill=BARK if row else INK))
    if goal is not None:
        shapes += [Way(((0, goal), (width - aside, goal)), MOSS, 0.4, dashed=True),
                   Words(width, goal + 1.0, f"goal {block.goal:.1f}", 7.5, True, "end", MOSS)]
    says = "; ".join(f"{s.name} {s.level:.1f} {block.unit}" for s in block.steps)
    return Drawing(width, top + tall + 9.0, tuple(shapes), says)


def _cut(text: str, width: float, size: float) -> str:
    """As much of a text as has room, with a sign that there is more."""
    if said_width(Words(0, 0, text, size)) <= width:
        return text
    while text and said_width(Words(0, 0, text + "…", size)) > width:
        text = text[:-1]
    return text.rstrip() + "…"


def bands(block: BandsBlock, width: float = WIDE) -> Drawing:
    """Levels per band before and after as two lines, the change as bars under them, each with its 95 % interval."""
    known = [v for row in (block.before_db, block.after_db) for v in row if v is not None]
    changes = [v for v in block.change_db if v is not None]
    if not known or not block.frequency_hz:
        return Drawing(width, 1.0, (), "nothing read")
    left, tall, gap, under = 12.0, 46.0, 9.0, 20.0
    low, high = math.floor((min(known) - 2) / 10) * 10, math.ceil((max(known) + 2) / 10) * 10
    each = (width - left) / len(block.frequency_hz)

    def x(i: int) -> float:
        return left + (i + 0.5) * each

    def y(value: float) -> float:
        return 6.0 + (high - value) / (high - low) * tall

    shapes: list[Box | Way | Words] = []
    for value in range(low, high + 1, 10):
        shapes += [
            Way(((left, y(value)), (width, y(value))), LINE, 0.25),
            Words(left - 1.5, y(value) + 1.0, str(value), 7, anchor="end", fill=BARK),
        ]
    shapes.append(Words(0, 3.5, "dB", 7, fill=BARK))
    for name, values, colour, at in ((block.before, block.before_db, INK, left), (block.after, block.after_db, WATER, left + 60)):
        for run in _runs([None if v is None else (x(i), y(v)) for i, v in enumerate(values)]):
            shapes.append(Way(run, colour, 0.7))
        shapes += [Box(at, 1.2, 6, 0.8, colour), Words(at + 8, 3.0, _cut(name, 48, 8), 8, fill=colour)]
    halves = block.within_db or (None,) * len(block.frequency_hz)
    ends = [abs(c) + (u or 0.0) for c, u in zip(block.change_db, halves, strict=True) if c is not None]
    most, widest = max([abs(c) for c in changes] or [1.0]) or 1.0, max([*ends, 1.0])
    zero = 6.0 + tall + gap + under / 2
    shapes += [Way(((left, zero), (width, zero)), BARK, 0.25), Words(0, zero - under / 2 + 2.0, "change", 7, fill=BARK)]
    for i, (f, c) in enumerate(zip(block.frequency_hz, block.change_db, strict=True)):
        if c is not None:
            tallness = abs(c) / widest * under / 2
            shapes.append(
                Box(x(i) - each * 0.36, zero - tallness if c > 0 else zero, each * 0.72, tallness, HEATHER if c > 0 else MOSS)
            )
            half = (halves[i] or 0.0) / widest * under / 2
            middle = zero - math.copysign(tallness, c)
            if half:
                shapes.append(Way(((x(i), middle - half), (x(i), middle + half)), INK, 0.3))
        if each > 7 or i % 3 == 0:
            shapes.append(Words(x(i), 6.0 + tall + 4.5, hertz(f), 6.5, anchor="middle", fill=BARK))
    shapes.append(Words(width, zero + under / 2 + 3.0, f"largest change {most:.1f} dB; lines: 95 %", 7, anchor="end", fill=BARK))
    says = f"levels per band, {block.before} and {block.after}"
    return Drawing(width, 6.0 + tall + gap + under + 4.0, tuple(shapes), says)


def _runs(points: Sequence[tuple[float, float] | None]) -> list[list[tuple[float, float]]]:
    """Stretches of points with none missing between them."""
    out: list[list[tuple[float, float]]] = [[]]
    for p in points:
        if p is None:
            out.append([])
        else:
            out[-1].append(p)
    return [run for run in out if len(run) > 1]


def paths(block: PathsBlock, width: float = WIDE) -> Drawing:
    """Ways in as bars, now and then, the loudest first."""
    rows, room, tall = block.paths[:10], 62.0, 8.2
    levels = [v for p in rows for v in (p.now, p.then) if v is not None]
    if not levels:
        return Drawing(width, 1.0, (), "nothing known")
    low, high = min(levels) - 4.0, max(levels)
    span = width - room - 34.0

    def long(value: float) -> float:
        return max((value - low) / (high - low or 1.0), 0.0) * span

    shapes: list[Box | Way | Words] = []
    for i, p in enumerate(rows):
        y = i * tall
        shapes.append(Words(0, y + 4.8, _cut(p.name, room - 3, 8.5), 8.5, p.treated))
        if p.now is not None:
            shapes += [
                Box(room, y + 1.0, long(p.now), 2.6, BARK),
                Words(room + long(p.now) + 1.5, y + 3.4, f"{p.now:.1f} dB(A), {percent(p.share)}", 7.5, fill=BARK),
            ]
        if p.then is not None and p.treated:
            shapes += [
                Box(room, y + 4.2, long(p.then), 2.6, MOSS),
                Words(room + long(p.then) + 1.5, y + 6.6, f"{p.then:.1f} {block.then}".strip(), 7.5, fill=MOSS),
            ]
    return Drawing(width, len(rows) * tall + 1.0, tuple(shapes), "; ".join(f"{p.name} {percent(p.share)}" for p in rows))


def section(block: SectionBlock, width: float = 84.0) -> Drawing:
    """A stack in section, lying: the panel below, what was put on it above, each by its thickness and name."""
    bar = min(30.0, 0.25 * width)
    shapes: list[Box | Way | Words] = []
    y = 0.0
    for layer in reversed(block.layers):
        lines = _broken(layer.name, width - bar - 2.5, 8.0)
        tall = max(3.6 * len(lines) + 0.4, min(9.0, 1.6 * math.sqrt(layer.thickness_mm)))
        shapes += [Box(0, y, bar, tall, FILLS.get(layer.acts, PAPER)), Way(((0, y + tall), (bar, y + tall)), INK, 0.2)]
        first = y + tall / 2 + 1.2 - 1.7 * (len(lines) - 1)
        shapes += [Words(bar + 2, first + 3.4 * k, line, 8.0) for k, line in enumerate(lines)]
        y += tall
    return Drawing(width, max(y, 1.0), tuple(shapes), ", ".join(x.name for x in block.layers))


def _broken(text: str, width: float, size: float) -> list[str]:
    """A text in two lines at most."""
    if said_width(Words(0, 0, text, size)) <= width:
        return [text]
    words = text.split(" ")
    first = next((k for k in range(len(words), 0, -1) if said_width(Words(0, 0, " ".join(words[:k]), size)) <= width), 1)
    return [x for x in (_cut(" ".join(words[:first]), width, size), _cut(" ".join(words[first:]), width, size)) if x]


def surface(block: SurfaceBlock, width: float = 84.0, tall: float = 60.0, every_label: bool = False) -> Drawing:
    """A surface with its pieces where they go; labels where they have room, or all of them for who lays them."""
    xs, ys = ([p[k] for p in block.outline_mm] for k in (0, 1))
    scale = min(width / (max(xs) - min(xs) or 1.0), tall / (max(ys) - min(ys) or 1.0))

    def at(points: Points) -> list[tuple[float, float]]:
        return [((x - min(xs)) * scale, (max(ys) - y) * scale) for x, y in points]

    shapes: list[Box | Way | Words] = [Way(at(block.outline_mm), BARK, 0.4, PAPER)]
    for piece in block.pieces:
        shapes.append(Way(at(piece.outline_mm), INK, 0.25, MOSS_WASH))
        shapes += [Way(at(h), INK, 0.2, white) for h in piece.holes_mm]
        if piece.first_edge:
            shapes.append(Way(at(piece.first_edge), INK, 0.85))
        drawn = at(piece.outline_mm)
        (x1, y1), (x2, y2) = ((f(p[0] for p in drawn), f(p[1] for p in drawn)) for f in (min, max))
        label = Words((x1 + x2) / 2, (y1 + y2) / 2 + 0.9, piece.label, 7, True, "middle")
        if every_label or (said_width(label) < x2 - x1 and y2 - y1 > LABEL_MM):
            shapes.append(label)
    return Drawing(max((max(xs) - min(xs)) * scale, 1.0), max((max(ys) - min(ys)) * scale, 1.0), tuple(shapes), block.title)


class Pictured(NamedTuple):
    """A picture with what stands over and under it."""

    title: str
    drawing: Drawing
    under: tuple[str, ...] = ()


def picture(block: Block, width: float = WIDE) -> Pictured | None:
    """What a block shows as a picture; None of one that is words, rows or kept pictures."""
    match block:
        case RuleBlock():
            return Pictured("", rule(block, width), (block.words,) if block.words else ())
        case StairsBlock():
            return Pictured("", stairs(block, width))
        case BandsBlock():
            return Pictured("", bands(block, width), block.words)
        case PathsBlock():
            return Pictured(block.title, paths(block, width))
        case SectionBlock():
            return Pictured(block.title, section(block, width))
        case SurfaceBlock():
            return Pictured(block.title, surface(block, width, 0.95 * width))
        case _:
            return None
