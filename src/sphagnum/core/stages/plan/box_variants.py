"""Other boxes round the same machine: of another board, lining, air way or fan, as far as they may be built."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import NamedTuple

import numpy as np

from ...builds.box import AIR, box, effect_db, needed_m3_h, scaled
from ...builds.box_given import SIDES, BoxIn, heat_w, shell
from ...builds.box_parts import holes, opening_m2, side_m2
from ...builds.model import Built, Sheet
from ...cutting.stock import price_m2
from ...errors import BadInput
from ...levels.bands import Floats
from ...materials.model import Material, kg_per_m2, sold_mm
from ...planning.problem import unbeaten_rows
from ...worded import in_mm, of

MOST_OF_EACH = 4
"""Boards, and linings, that go on to be tried with other air ways."""
DEEPEST_MM = 50.0
"""Linings are tried to this depth, or that of the one given: the box grows with them, and nobody said how much room it has."""
SHARES = (0.5, 1.0, 1.5, 2.0)
"""Air ways of so many times their area."""
WARMTH_SHARE = 0.15
"""How well it is known how much warmer it gets, of itself: a judgement. No box is proposed that may cook its machine by that."""
FLIMSY = 0.6
"""No board thinner than this of the one it stands in for."""
NEARLY_K = 0.5
"""Where nobody said how warm the machine may get, it gets no warmer than in the box as it is given, but for this."""

Usable = Callable[[Material], bool]
Weigh = Callable[[Floats], Floats]
"""Energies of what boxes take off, (boxes, 21) to (boxes,)."""


class Variant(NamedTuple):
    """Another box, what is other about it, and the box worked out."""

    given: BoxIn
    words: str
    built: Built


class _Tried(NamedTuple):
    """A box with what it takes off, how warm it gets, and its kg and money by its faces."""

    given: BoxIn
    effect: Floats
    inside_c: float
    kg: float
    money: float


def box_variants(
    given: BoxIn, materials: Mapping[str, Material], usable: Usable, weigh: Weigh, most: int
) -> list[Variant]:
    """Boxes that none beats in what is heard, kg and money at once and that may be built, at most ``most``; the one given is not
    among them. A lining or board is tried alone first, then the best of each with other air ways and fans. None where the one
    given cannot be drawn or worked out."""
    mine = _look(given, materials)
    if mine is None:
        return []
    bears, stands = given.machine.most_c, _hot_at_most(mine)
    most_c = stands + NEARLY_K if bears is None else max(bears, stands) if mine.inside_c <= bears else bears

    def best(boxes: Iterable[BoxIn], many: int, coolest: float = math.inf) -> list[_Tried]:
        looked = (_look(x, materials) for x in boxes)
        kept = [x for x in looked if x is not None and math.isfinite(x.money) and _hot_at_most(x) <= coolest]
        if not kept:
            return []
        energy = weigh(np.array([x.effect for x in kept]))
        rows = unbeaten_rows(np.column_stack([energy, [x.kg for x in kept], [x.money for x in kept]]))
        return [kept[rows[i]] for i in sorted({round(k * (len(rows) - 1) / max(many - 1, 1)) for k in range(many)})]
    leaves = [given, *(x.given for x in best(_other_leaves(given, materials, usable), MOST_OF_EACH))]
    linings = [given, *(x.given for x in best(_other_linings(given, materials, usable), MOST_OF_EACH))]
    made = [x for leaf in leaves for lining in linings for x in _other_air(leaf.model_copy(update={"lining": lining.lining}))]
    return [Variant(x.given, told(given, x.given, materials), built) for x in best(made, most, most_c) if x.given != given
            for built in (box(x.given, materials),) if not built.refused]


def _hot_at_most(one: _Tried) -> float:
    return one.inside_c + WARMTH_SHARE * max(one.inside_c - one.given.outside_c, 0.0)


def _look(given: BoxIn, materials: Mapping[str, Material]) -> _Tried | None:
    """A box as far as it takes to compare it, its money infinite where a layer has no price; None where it cannot be drawn or
    worked out."""
    try:
        found = shell(given)
        cut = holes(given, found)
        effect, warm = effect_db(given, found, cut, materials)
        area = sum(side_m2(found, s) for s in SIDES if s != given.open_side and (s != "bottom" or given.base))
        layers = [(materials[x.material], x.thickness_mm) for x in (*given.walls, *given.lining)]
        kg = sum(kg_per_m2(m, mm) for m, mm in layers) * area
    except BadInput:
        return None
    prices = [price_m2(m, sold_mm(m, mm)) for m, mm in layers]
    return _Tried(given, effect, warm.inside_c, kg, sum(math.inf if p is None else p for p in prices) * area)


def _other_leaves(given: BoxIn, materials: Mapping[str, Material], usable: Usable) -> Iterator[BoxIn]:
    """The same with its leaves of every board that holds as its own does; a case that stands is not built anew."""
    own = materials.get(given.walls[0].material)
    if own is None or given.own_case:
        return
    for m in materials.values():
        if m.family == own.family and m.hold == own.hold and m.limits.bears == own.limits.bears and usable(m) and (
                _outdoors(m) or not (given.rain or given.stands == "outdoors")):
            for mm in (t for t in _sold(m) if t >= FLIMSY * given.walls[0].thickness_mm):
                yield given.model_copy(update={"walls": tuple(Sheet(material=m.id, thickness_mm=mm) for _ in given.walls)})


def _outdoors(m: Material) -> bool:
    return m.limits.outdoors is not False and (m.limits.wet or m.limits.outdoors is True)


def _other_linings(given: BoxIn, materials: Mapping[str, Material], usable: Usable) -> Iterator[BoxIn]:
    """The same with each absorber in place of its lining; what is poured or goes only in some places is none."""
    deepest = max(DEEPEST_MM, sum(x.thickness_mm for x in given.lining))
    for m in materials.values():
        if m.roles[:1] == ("absorber",) and not m.limits.fill and not m.limits.lying and not m.limits.places and usable(m):
            for mm in _sold(m):
                if mm <= deepest:
                    yield given.model_copy(update={"lining": (Sheet(material=m.id, thickness_mm=mm),)})


def _sold(m: Material) -> list[float]:
    return sorted({s.thickness_mm for s in m.stock if s.thickness_mm is not None and s.price is not None
                   and s.form in ("sheet", "roll")})


def _other_air(given: BoxIn) -> Iterator[BoxIn]:
    """The same with smaller and larger air ways, without a fan and with one."""
    yield given
    if not any(o.role in AIR for o in given.openings):
        return
    for fan in sorted({0.0, given.fan_m3_h, round(needed_m3_h(given, heat_w(given.machine)), -1)}):
        for share in SHARES:
            if share != 1.0 or fan != given.fan_m3_h:
                yield given.model_copy(update={"fan_m3_h": fan, "openings": tuple(scaled(o, share) for o in given.openings)})


def told(own: BoxIn, other: BoxIn, materials: Mapping[str, Material]) -> str:
    """What is other about a box than about the one given, in words."""
    out = []
    if other.walls != own.walls:
        out.append(f"walls of {_named(other.walls, materials)}")
    if other.lining != own.lining:
        out.append(f"lined with {_named(other.lining, materials)}")
    if other.openings != own.openings:
        area = sum(opening_m2(o) for o in other.openings if o.role in AIR) * 1e4
        out.append(f"air ways of {of(area, 'cm²', '.0f')} in all")
    if other.fan_m3_h != own.fan_m3_h:
        out.append(f"a fan of {of(other.fan_m3_h, 'm³/h', 'g')}" if other.fan_m3_h else "no fan")
    return ", ".join(out)


def _named(sheets: Sequence[Sheet], materials: Mapping[str, Material]) -> str:
    one = [f"{materials[s.material].name} {in_mm(s.thickness_mm)}" for s in sheets]
    return " and ".join(dict.fromkeys(one)) if one else "nothing"
