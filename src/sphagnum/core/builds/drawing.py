"""A build from in front, from the side and from above, to scale, drawn from the very parts that are cut."""

from __future__ import annotations

from collections.abc import Sequence
from string import ascii_uppercase
from typing import Final, NamedTuple

from shapely import Polygon

from .model import Part

VIEWS: Final = (("from in front", 0, 2, False), ("from the left", 1, 2, False), ("from above", 0, 1, True))
"""Of each view its name, the axes it shows across and up, and whether what lies far along the third is near the eye."""
LETTERS = 62.0
"""How many letters go along the whole sheet: what stands beside a view is measured by them, however large the build is."""


Ring = tuple[tuple[float, float], ...]


class Drawn(NamedTuple):
    """A part in a view: its outline and holes in mm on the sheet (y up), and its name."""

    id: str
    name: str
    view: str
    outline_mm: Ring
    holes_mm: tuple[Ring, ...] = ()
    name_at: tuple[float, float] | None = None
    """Where its name stands; None of what does not bear it there."""


class Measure(NamedTuple):
    """A dimension in a view: from and to in mm on the sheet, and what stands at it."""

    from_mm: tuple[float, float]
    to_mm: tuple[float, float]
    words: str


class Sheet(NamedTuple):
    """Three views beside one another with what surrounds them, dimensions and titles; size in mm as built."""

    parts: tuple[Drawn, ...]
    around: tuple[tuple[tuple[float, float], ...], ...]
    measures: tuple[Measure, ...]
    titles: tuple[tuple[str, tuple[float, float]], ...]
    ghosts: tuple[Ring, ...]
    """What stands in it or on it, drawn over it in dashes."""
    size_mm: tuple[float, float]
    letter_mm: float

    @property
    def names(self) -> tuple[tuple[str, tuple[float, float]], ...]:
        """What bears its name, and where it stands."""
        return tuple((label_in_views(p.id), p.name_at) for p in self.parts if p.name_at is not None)


Block = tuple[tuple[float, float, float], tuple[float, float, float]]
"""Least corner and size, mm."""


def three_views(parts: Sequence[Part], whole_mm: tuple[float, float, float] | None = None, blocks: Sequence[Block] = ()) -> Sheet:
    """All parts in three views. ``whole_mm``: the size of what they stand in, from its least corner; theirs where None;
    ``blocks``: machines in it or on it."""
    ends = [*((p.at_mm, p.size_mm) for p in parts), *blocks]
    low = [0.0] * 3 if whole_mm is not None else [min(at[k] for at, _ in ends) for k in range(3)]
    high = list(whole_mm) if whole_mm is not None else [max(at[k] + size[k] for at, size in ends) for k in range(3)]
    drawn, measures, around, titles, ghosts, x0, tall = list[Drawn](), list[Measure](), [], [], list[Ring](), 0.0, 0.0
    across_all = sum(high[across] - low[across] for _, across, _, _ in VIEWS)
    letter = across_all / (LETTERS - 2 * APART)
    for name, across, up, far_is_near in VIEWS:
        wide, high_mm = high[across] - low[across], high[up] - low[up]
        shift = x0 - low[across], -low[up]
        deep = 3 - across - up
        # what is nearer to the eye is drawn over what is behind it
        for p in sorted(parts, key=lambda p: p.at_mm[deep] + p.size_mm[deep] if far_is_near else -p.at_mm[deep]):
            outline, holes = _seen(p, across, up)
            drawn.append(Drawn(p.id, p.name, name, _moved(outline, shift), tuple(_moved(h, shift) for h in holes)))
        ghosts += [_moved(_box(at, size, across, up), shift) for at, size in blocks]
        measures.append(Measure((x0, -letter), (x0 + wide, -letter), f"{wide:.0f}"))
        measures.append(Measure((x0 - letter, 0), (x0 - letter, high_mm), f"{high_mm:.0f}"))
        titles.append((name, (x0, -3.8 * letter)))
        around.append(((x0, 0.0), (x0 + wide, 0.0), (x0 + wide, high_mm), (x0, high_mm)))
        x0, tall = x0 + wide + APART * letter, max(tall, high_mm)
    return Sheet(tuple(_named(drawn, letter)), tuple(around), tuple(measures), tuple(titles), tuple(ghosts),
                 (x0 - APART * letter, tall), letter)


APART = 5.0
"""Letters between two views."""


def _named(drawn: Sequence[Drawn], letter: float) -> list[Drawn]:
    """Parts with their names where they are large enough and not behind something nearer, none on another."""
    taken, nearer, out = list[tuple[float, float]](), list[tuple[str, Polygon]](), list[Drawn]()
    for d in reversed(drawn):
        shape = Polygon(d.outline_mm, d.holes_mm)
        where = shape.representative_point() if d.holes_mm else shape.centroid
        hidden = any(view == d.view and other.contains(where) for view, other in nearer)
        nearer.append((d.view, shape))
        low_u, low_v, high_u, high_v = shape.bounds
        small = min(high_u - low_u, high_v - low_v) < 1.6 * letter
        on_another = any(abs(where.x - x) < 3 * letter and abs(where.y - y) < 1.2 * letter for x, y in taken)
        bears = not (hidden or small or on_another)
        if bears:
            taken.append((where.x, where.y))
        out.append(d._replace(name_at=(where.x, where.y)) if bears else d)
    return out[::-1]


def label_in_views(part_id: str) -> str:
    """How a part is named in a picture: the boards of one absorber by the absorber."""
    return part_id.rstrip(ascii_uppercase)


def _moved(ring: Sequence[tuple[float, float]], by: tuple[float, float]) -> Ring:
    return tuple((u + by[0], v + by[1]) for u, v in ring)


def _seen(part: Part, across: int, up: int) -> tuple[Ring, tuple[Ring, ...]]:
    """A part's outline and holes in a view: its own where the view looks along its thickness, else its box."""
    thick = "xyz".index(part.axis)
    if thick not in (across, up):
        at = part.at_mm[across], part.at_mm[up]
        return _moved(part.outline_mm, at), tuple(_moved(h, at) for h in part.holes_mm)
    return _box(part.at_mm, part.size_mm, across, up), ()


def _box(at: Sequence[float], size: Sequence[float], across: int, up: int) -> Ring:
    (u0, u1), (v0, v1) = ((at[k], at[k] + size[k]) for k in (across, up))
    return (u0, v0), (u1, v0), (u1, v1), (u0, v1)
