"""The layouts of a job's pieces: asked for with what a hand fixed, and told sheet by sheet."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from itertools import count, islice
from typing import NamedTuple

from shapely import Polygon, box

from ...cutting.buying import OFFCUT, Cut, Found, cut_input, flat_forms
from ...cutting.hand import fixed_of, good, place_on, why_not
from ...cutting.model import CutInput, CutResult, Placement
from ...cutting.parts import ANGLES, moved, moved_each, rounded, turn, upright_each
from ...cutting.rests import outline_of, rests_of
from ...cutting.rows import LaidByHand, LayoutIn, Offcut
from ...errors import BadInput
from ...figures.job_figures import JobFigures
from ...materials.model import Material
from ...schema import Strict
from ...worded import in_mm, marked
from .marking import Frame, frame_of, marks_of
from .model import LeftOver, Points, SheetPiece, SheetView
from .wanted import Named, has_face, pieces_wanted

AS_IT_WAS = 0.002
"""A piece whose area differs by more than this share is not the one a hand has laid."""


def _same(laid: LaidByHand, area_mm2: float | None) -> bool:
    return area_mm2 is not None and (laid.area_mm2 == 0 or abs(laid.area_mm2 - area_mm2) <= AS_IT_WAS * area_mm2)


class Asked(NamedTuple):
    """A layout asked for: of which material, for which pieces, with which rests, and what the hand's pieces became."""

    material: Material
    thickness_mm: float
    named: list[Named]
    rests: tuple[Offcut, ...]
    data: CutInput
    locked: frozenset[str]
    let_go: tuple[str, ...]


def ask(job: JobFigures, key: Cut, named: list[Named]) -> Asked:
    """What is asked of the layouts for a material: its pieces, the rests taken, and what a hand has laid and still lies well."""
    name, thickness = key
    material = job.shelf.material(name)
    rests = offcuts_of(job.doc.offcuts_taken, name, thickness)
    data = cut_input(material, thickness, [n.wanted for n in named], rests, job.shelf.habits, name in job.doc.job.cut_across)
    hand = laid_by_hand(job.doc.layouts, key)
    if not hand:
        return Asked(material, thickness, named, rests, data, frozenset(), ())
    areas = {n.wanted.label: n.wanted.shape.area for n in named}
    wanted = tuple(fixed_of(p) for p in sorted(hand, key=lambda p: not p.locked) if _same(p, areas.get(p.id)))
    kept = good(data, wanted)
    stays = {f.piece for f in kept}
    return Asked(material, thickness, named, rests, data.model_copy(update={"fixed": kept}),
                 frozenset(p.id for p in hand if p.locked and p.id in stays),
                 tuple(p.id for p in hand if p.id in areas and p.id not in stays))


def laid_by_hand(rows: tuple[LayoutIn, ...], key: Cut) -> tuple[LaidByHand, ...]:
    """What a hand has laid of a material at a thickness. Of a piece that stands in several rows, as two browsers may make them at
    once, the last counts."""
    mine = (r for r in rows if r.material == key[0] and abs(r.thickness_mm - key[1]) < 0.01)
    return tuple({p.id: p for r in mine for p in r.pieces}.values())


class HandSaid(Strict):
    """Why a piece may not lie where a hand has it, empty where it may; and where it could lie, if that was asked."""

    why: str
    at: LaidByHand | None = None


def said_of(job: JobFigures, layout: LayoutIn, moved: str, seek: bool) -> HandSaid:
    """Whether a piece may lie where a hand has it in a layout; ``seek``: where on its sheet it may. BadInput where it is no
    longer wanted."""
    wanted = pieces_wanted(job)
    key = next((k for k in wanted if laid_by_hand((layout,), k)), None)
    one = next((p for p in layout.pieces if p.id == moved), None)
    if key is None or one is None:
        raise BadInput(f"there is no piece {moved} of that material any more", "moved", "look at the sheets anew")
    data, others = ask(job, key, wanted[key]).data, tuple(fixed_of(p) for p in layout.pieces)
    if not seek:
        return HandSaid(why=why_not(data, others, fixed_of(one)))
    found = place_on(data, others, fixed_of(one))
    if found is None:
        return HandSaid(why=f"{moved} has no place on that one.")
    there = {"mirrored": found.mirrored, "turned_deg": found.turned_deg, "x_mm": found.x_mm, "y_mm": found.y_mm}
    return HandSaid(why="", at=one.model_copy(update=there))


def offcuts_of(offcuts: tuple[Offcut, ...], material: str, thickness_mm: float) -> tuple[Offcut, ...]:
    """The rests of a material at a thickness."""
    return tuple(o for o in offcuts if o.material == material and abs(o.thickness_mm - thickness_mm) < 0.01)


def find(job: JobFigures, asked: Asked) -> Found:
    """The layout of what was asked for."""
    return job.lay(asked.material.id, asked.thickness_mm, asked.data)


class Opened(NamedTuple):
    """An opened stock on its own: its outline and what lies on it, mm, and how it is shown."""

    whole: Polygon
    laid: tuple[Polygon, ...]
    view: SheetView


def sheets_of(asked: Asked, result: CutResult) -> list[Opened]:
    """Every opened sheet, roll and rest with its pieces."""
    material, thickness = asked.material, asked.thickness_mm
    sold = {f.id: (f.form == "roll", f.width_mm or 0.0, "", ()) for f in flat_forms(material, thickness)}
    kept: dict[str, tuple[bool, float, str, Points]] = {
        f"{OFFCUT}{r.id}": (False, r.width_mm, rest_words(r), r.outline_mm) for r in asked.rests}
    liner = material.hold.startswith("self-adhesive")
    stocks = sold | kept
    frames = [frame_of(stocks[used.stock][1], used.length_used_mm, liner) for used in result.used]
    lying = _lying(asked.named, [(p, f) for used, f in zip(result.used, frames, strict=True) for p in used.placements])
    out = []
    for used, frame in zip(result.used, frames, strict=True):
        roll, width, offcut, outline = stocks[used.stock]
        whole = Polygon(outline) if outline else box(0.0, 0.0, width, used.length_used_mm)
        here = list(islice(lying, len(used.placements)))
        pieces = [_sheet_piece(one, one.laid.piece in asked.locked) for one in here]
        area = sum(one.named.wanted.shape.area for one in here)
        grain = any(one.named.wanted.rotate in ("half", "none") for one in here)
        a, b, c, d = frame.matrix[:4]
        out.append(Opened(whole, tuple(one.on_stock for one in here), SheetView(
            material=material.id, thickness_mm=thickness, name=f"{material.name}, {in_mm(thickness)}", letter=material.letter,
            roll=roll, stock=used.stock, number=used.number, across_mm=frame.across_mm, up_mm=frame.up_mm, offcut=offcut,
            size=marked(frame.across_mm, frame.up_mm),
            to_stock=(a + 0.0, c + 0.0, b + 0.0, d + 0.0),  # a turn, or a turn over: its inverse is its transpose
            outline_mm=rounded(moved(whole, frame.matrix).exterior.coords),
            used=round(area / whole.area, 3) if whole.area else 0.0, pieces=tuple(sorted(pieces, key=_reading_order)),
            face=face_of(material), grain=("foot" if frame.turned else "left edge") if grain else "")))
    return out


class _Lying(NamedTuple):
    """A piece as it truly is where it was laid, on the stock and as that is drawn."""

    named: Named
    laid: Placement
    at: tuple[float, float]
    """The lower left of its bounds on the stock, mm."""
    on_stock: Polygon
    drawn: Polygon


def _lying(named: list[Named], laid: list[tuple[Placement, Frame]]) -> Iterator[_Lying]:
    """All that is laid, each with the frame of its stock, in its order; moved all at once, as one by one takes longer."""
    by_label = {n.wanted.label: n for n in named}
    placements, mine = [p for p, _ in laid], [by_label[p.piece] for p, _ in laid]
    at = [(min(x for x, _ in p.outline_mm), min(y for _, y in p.outline_mm)) for p in placements]
    on_stock = upright_each([n.wanted.shape for n in mine], [turn(p.turned_deg, p.mirrored) for p in placements], at)
    drawn = moved_each(on_stock, [frame.matrix for _, frame in laid])
    return map(_Lying, mine, placements, at, on_stock, drawn)


def _sheet_piece(one: _Lying, locked: bool) -> SheetPiece:
    wanted, laid, (x, y), drawn = one.named.wanted, one.laid, one.at, one.drawn
    outline, *holes = (rounded(r.coords) for r in (drawn.exterior, *drawn.interiors))
    marks = marks_of(drawn)
    return SheetPiece(label=wanted.label, surface_id=one.named.surface_id, outline_mm=outline, holes_mm=tuple(holes),
                      x_mm=round(x, 2), y_mm=round(y, 2), mirrored=laid.mirrored, turned_deg=laid.turned_deg, locked=locked,
                      turns=ANGLES[wanted.rotate] or (), mirrors=wanted.mirror, area_mm2=round(wanted.shape.area),
                      size=marks.size, at=marks.at, lines=marks.lines)


def _reading_order(piece: SheetPiece) -> tuple[float, float]:
    """From the left edge on, then from the foot up."""
    return min(x for x, _ in piece.outline_mm), min(y for _, y in piece.outline_mm)


def face_of(material: Material) -> str:
    """Which side of a material lies up when it is cut; empty where both are alike."""
    if material.hold.startswith("self-adhesive"):
        return "liner up"
    return "face up" if has_face(material) else ""


def alike(sheets: list[SheetView]) -> list[SheetView]:
    """The sheets, those that are cut just like one before them named so, and each piece with those it stands for."""
    groups: dict[tuple[object, ...], list[int]] = {}
    for at, s in enumerate(sheets):
        own = (s.stock, s.number) if s.roll or s.offcut else tuple((p.outline_mm, p.holes_mm) for p in s.pieces)
        groups.setdefault((s.material, s.thickness_mm, s.stock, s.roll, own), []).append(at)
    out = list(sheets)
    for first, *others in groups.values():
        for at in (first, *others):
            also = [tuple(sheets[k].pieces[n].label for k in (first, *others) if k != at) for n in range(len(sheets[at].pieces))]
            pieces = tuple(p.model_copy(update={"also": names}) for p, names in zip(sheets[at].pieces, also, strict=True))
            out[at] = sheets[at].model_copy(update={
                "pieces": pieces, "alike": 1 + len(others), "same_as": None if at == first else first})
    return out


def rest_words(rest: Offcut) -> str:
    """Which rest it is and where it lies."""
    return ", ".join(x for x in (f"offcut {rest.code}" if rest.code else "offcut kept", rest.place) if x)


def left_over(job: JobFigures, asked: Asked, opened: Iterable[Opened]) -> Iterator[LeftOver]:
    """Rests of opened sheets worth keeping that nobody kept yet, without a label."""
    least, gap = job.shelf.habits.least_offcut_mm, job.shelf.habits.gap_mm
    what = f"{asked.material.id}@{asked.thickness_mm:g}"
    for whole, laid, sheet in opened:
        if sheet.roll:  # what is not cut off a roll stays on it
            continue
        for rest in rests_of(whole, laid, gap, least):
            x1, y1, x2, y2 = rest.bounds
            known = f"{what} {sheet.stock}#{sheet.number} {x1:.0f},{y1:.0f} {x2 - x1:.0f}x{y2 - y1:.0f}"
            if known in job.doc.job.rests_kept:
                continue
            yield LeftOver(
                rest=known, material=asked.material.id, thickness_mm=asked.thickness_mm, width_mm=round(x2 - x1), code="",
                name=f"{asked.material.name}, {in_mm(asked.thickness_mm)}", length_mm=round(y2 - y1),
                outline_mm=outline_of(rest))


def labelled(left: Iterable[LeftOver], taken: Iterable[str]) -> Iterator[LeftOver]:
    """Rests, each with the first label nobody has."""
    had = set(taken)
    free = (code for n in count(1) if (code := f"R{n}") not in had)
    yield from (rest.model_copy(update={"code": next(free)}) for rest in left)
