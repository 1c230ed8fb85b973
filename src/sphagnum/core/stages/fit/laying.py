"""Steps that lay layers: their pieces in order, how they go on, what they take, and how long."""

from __future__ import annotations

import hashlib
import math
from functools import lru_cache
from itertools import pairwise

from shapely import LineString, Polygon

from ...cutting.stock import area_m2, form_at, forms_at, measure
from ...figures.cuts import is_boxed, line_amount
from ...figures.goods import Good, goods_of, load_of_good
from ...figures.job_figures import JobFigures
from ...figures.lays import PANEL, new_layers
from ...figures.loads import goods_for
from ...fitting.fixings import SCREW, STAPLE, glue_of
from ...fitting.history import StepRef
from ...fitting.procedures import Procedure
from ...fitting.times import more
from ...fitting.warming import CARTRIDGE_KG_M2
from ...materials.model import Material, kg_per_m2
from ...materials.table import family
from ...same import Same
from ...surfaces.coverage import laid_share
from ...surfaces.geometry import areas
from ...surfaces.patches import Patch
from ...surfaces.rows import Alternative, StackLayerIn
from ...worded import in_mm, marked, of
from ...words import listed, plural
from ..cut.labels import copy_label
from ..cut.model import LayerPieces, PieceOnSurface
from ..cut.wanted import drawn_surfaces
from .model import Consumable, Cut, Draft, Edge, StepPiece, StepTimer

LARGEST_M2 = 4.0
"""Of one piece, as two hands lay it: a judgement."""
HEAVY_KG = 25.0
"""From here on two carry: a usual limit for one pair of hands (recalled)."""
JOINED = {"compound": "damping compound between", "adhesive": "elastic adhesive between"}
WHERE = {"edge": ("m", "round the {}"), "seam": ("m", "along the seams and round the {}"), "void": ("l", "into the {}")}
RIGID_FOAM = "hard-void-foam"


def layer_drafts(job: JobFigures, patch: Patch, layers: tuple[StackLayerIn, ...]) -> list[Draft]:
    """One step per layer that is laid, in the order of the stack: a tape on the seams of what lies under it comes before what
    covers it."""
    return [d for k in range(len(layers)) if (d := _layer(job, patch, layers, k)) is not None]


def _layer(job: JobFigures, patch: Patch, layers: tuple[StackLayerIn, ...], k: int) -> Draft | None:
    layer, material = layers[k], job.shelf.material(layers[k].material)
    if not is_laid(material):
        return None
    line = material.acts == "line"
    laid, glue, goods = laid_amount(job, patch, layers, k), _glue(layer, material, job), _fasteners(job, patch, layer)
    drawn = _pieces_of(job, patch, layer)
    held = layer.held or material.hold
    procedure = job.shelf.procedures.of(held, material.acts)
    hazards = (*material.hazards, *(glue.hazards if glue is not None else ()), *procedure.hazards)
    pieces = drawn.pieces if drawn is not None else ()
    seam_m = (drawn.seam_m if drawn is not None else 0.0) * patch.count
    minutes = laying_minutes(job, patch, material, laid, len(pieces) * patch.count, seam_m) + _minutes(job, goods, patch.count)
    used = [consumable(job.shelf.material(g.material), g.amount * patch.count) for g in goods]
    return Draft(
        ref=StepRef(phase="seal" if line else "apply", surface_id=patch.id, zone=patch.zone, layer=layer.id),
        surface=patch.name, what=f"{patch.name}: {low(material.name)}",
        text=_text(procedure, material, layer, patch, laid, len(pieces)), minutes=minutes, waits=material.cure_minutes,
        hazards=hazards, hold=f"Let it cure {material.cure_minutes / 60:g} h." if material.cure_minutes else "",
        cut=Cut(drawn, layer, patch.count) if drawn is not None else None, tools=_tools(procedure, goods),
        consumables=tuple(used), people=_people(job, patch, layer, pieces),
        how=(*procedure.how, *job.shelf.procedures.minded(ways_of(job, patch, material), material.acts)),
        timers=_timers(material, glue, procedure), like=like_of(layer), wants_c=procedure.wants_c, letter=material.letter,
        kg_m2=CARTRIDGE_KG_M2 if line else kg_per_m2(material, layer.thickness_mm) / 2,
        photograph=f"The {low(patch.name)} with the {low(material.name)} on it, before it is covered." if not line else "")


def is_laid(material: Material) -> bool:
    """Whether a material has a step of its own."""
    return family(material.family).bought and material.acts != "thing"


def like_of(layer: StackLayerIn) -> str:
    """What a layer is, so that another put in its place is known as the same: material, thickness, place."""
    return f"{layer.material}@{layer.thickness_mm:g} {layer.place}".strip()


def laid_amount(job: JobFigures, patch: Patch, layers: tuple[StackLayerIn, ...], k: int) -> float:
    """How much of a layer goes on all copies of a patch: m², of a line as much as it takes."""
    material = job.shelf.material(layers[k].material)
    if material.acts == "line":
        return line_amount(patch, layers, k, job.shelf, is_boxed(job.doc)) * patch.count
    return laid_share(patch, layers[k], material) * areas(patch).treatable_m2 * patch.count


def laying_minutes(job: JobFigures, patch: Patch, material: Material, laid: float, pieces: float, seam_m: float) -> float:
    """Minutes to lay so much of a material in so many pieces: by the area (or length), the piece and the metre of seam, and
    slower where the place makes it so. Seams are taped by a line's own step."""
    own = material.minutes_each if material.acts == "line" else material.minutes_per_m2
    table = job.shelf.minutes
    ways = [w for w, so in (("curved", "curved" in patch.flags), ("overhead", "overhead" in patch.flags),
                            ("through an opening", patch.opening is not None)) if so]
    return (own * laid + table["a piece"] * pieces + table["a metre of seam"] * seam_m) * more(table, *ways)


def about_pieces(layer: StackLayerIn, material: Material, laid_m2: float) -> float:
    """About how many pieces so much of a layer is cut into, where nobody has cut it yet, by the area alone; 0 of what is not
    cut."""
    form = next((f for f in forms_at(material, layer.thickness_mm) if f.form in ("sheet", "roll") and area_m2(f)), None)
    if form is None or not material.lies:
        return 0.0
    return laid_m2 / min(area_m2(form) or 1.0, LARGEST_M2)


def frame_draft(job: JobFigures, patch: Patch, one: Alternative) -> list[Draft]:
    """One step for the frames, channels and fixings a stack brings."""
    of_layers: dict[str, float] = {}
    for layer in new_layers(job.doc, patch, one):
        for good in _fasteners(job, patch, layer):
            of_layers[good.material] = of_layers.get(good.material, 0.0) + good.amount
    goods = (g._replace(amount=g.amount - of_layers.get(g.material, 0.0)) for g in goods_for(patch, one, job.shelf))
    frames = [g for g in goods if g.amount > 1e-9]
    if not frames:
        return []
    named = [(g, job.shelf.material(g.material)) for g in frames]
    parts = [f"{m.name.lower()}, {of(g.amount * patch.count, measure(m), '.0f')}".rstrip() for g, m in named]
    procedure = job.shelf.procedures.of("frame", "thing")
    return [Draft(
        ref=StepRef(phase="apply", surface_id=patch.id, zone=patch.zone, layer="frame"), surface=patch.name,
        what=f"{patch.name}: frame", text=f"Set what holds the {low(patch.name)}: {listed(parts)}.",
        minutes=_minutes(job, frames, patch.count), hazards=tuple(h for _, m in named for h in m.hazards),
        tools=procedure.tools, how=procedure.how, photograph=f"The frame of the {low(patch.name)}, before it is filled.",
        consumables=tuple(consumable(m, g.amount * patch.count) for g, m in named))]


def _fasteners(job: JobFigures, patch: Patch, layer: StackLayerIn) -> tuple[Good, ...]:
    """Screws, staples, glue and compound that go in with a layer, for one copy."""
    return goods_of(patch, (layer.model_copy(update={"tie": None}),), None, job.shelf)


def consumable(material: Material, amount: float) -> Consumable:
    """So much of a material; of what is measured its name without the pack it comes in."""
    return used_of(material, amount, measure(material))


def used_of(material: Material, amount: float, unit: str) -> Consumable:
    """So much of a material in a unit of one's own."""
    name = material.name.partition(",")[0] if unit == "l" else material.name
    many = f"{amount:.2f}" if amount < 1 and unit else f"{amount:.1f}" if amount < 10 and unit else f"{math.ceil(amount - 1e-9)}"
    return Consumable(material=material.id, amount=round(amount, 2), unit=unit, said=f"{name}: {of(many, unit).rstrip()}")


def _minutes(job: JobFigures, goods: list[Good] | tuple[Good, ...], count: int) -> float:
    return sum(load_of_good(g, job.shelf).minutes for g in goods) * count


def _glue(layer: StackLayerIn, material: Material, job: JobFigures) -> Material | None:
    glue = glue_of(layer.held, material.hold) if material.lies else None
    return None if glue is None else job.shelf.material(glue.material)


def _pieces_of(job: JobFigures, patch: Patch, layer: StackLayerIn) -> LayerPieces | None:
    return next((x for x in drawn_surfaces(job)[patch.id].layers if (x.zone, x.layer) == (patch.zone, layer.id)), None)


def step_pieces(cut: Cut | None) -> tuple[StepPiece, ...]:
    """The pieces of a layer on all copies of its surface, one copy after the other, each in the order it is laid."""
    return () if cut is None else _step_pieces(Same(cut[0]), *cut[1:])


@lru_cache(maxsize=512)
def _step_pieces(of: Same[LayerPieces], layer: StackLayerIn, count: int) -> tuple[StepPiece, ...]:
    drawn = of.value
    edges = _first_edges(drawn.pieces)
    return tuple(
        StepPiece(id=_identity(layer, copy, p), label=copy_label(p.label, copy), copy_number=copy + 1, outline_mm=p.outline_mm,
                  holes_mm=p.holes_mm, first_edge=edge, size=marked(p.width_mm, p.height_mm), kg=p.kg)
        for copy in range(count) for p, edge in zip(drawn.pieces, edges, strict=True))


def _identity(layer: StackLayerIn, copy: int, piece: PieceOnSurface) -> str:
    """Of a piece whatever it is called: what it is of, which copy, and where it lies, to the mm."""
    where = ";".join(f"{x:.0f},{y:.0f}" for ring in (piece.outline_mm, *piece.holes_mm) for x, y in ring)
    return f"{like_of(layer)} {copy + 1} {hashlib.sha256(where.encode()).hexdigest()[:10]}"


def _first_edges(pieces: tuple[PieceOnSurface, ...]) -> list[Edge]:
    """Per piece the straight edge that is tacked first: the longest that butts a piece laid before it, else its longest."""
    out: list[Edge] = []
    before: list[Polygon] = []
    for piece in pieces:
        ring = piece.outline_mm if piece.outline_mm[0] == piece.outline_mm[-1] else (*piece.outline_mm, piece.outline_mm[0])
        edges: list[Edge] = [(a, b) for a, b in pairwise(ring) if a != b]

        def length(edge: Edge) -> float:
            return math.dist(*edge)

        butted = [e for e in edges if length(e) > 30 and any(b.distance(LineString(e).interpolate(0.5, normalized=True)) < 3
                                                             for b in before)]
        out.append(max(butted or edges, key=length))
        before.append(Polygon(piece.outline_mm))
    return out


def _tools(procedure: Procedure, goods: tuple[Good, ...]) -> tuple[str, ...]:
    extra = {SCREW: "driver", STAPLE: "staple gun"}
    return tuple(dict.fromkeys((*procedure.tools, *(extra[g.material] for g in goods if g.material in extra))))


def ways_of(job: JobFigures, patch: Patch, material: Material) -> set[str]:
    """How a place and a material are, of what is minded besides."""
    out: set[str] = {*patch.flags, *(str(z.kind) for z in patch.keep_clear)}
    if patch.opening is not None:
        out.add("through an opening")
    if "barrier" in material.roles and material.acts != "plate":
        out.add("barrier")
    if job.doc.job.kind == "vehicle" and material.goes_by == "void" and material.id != RIGID_FOAM and material.acts == "line":
        out.add("second skin")
    sheet = material.acts != "line"
    return out if sheet else out & {"second skin"}


def _timers(material: Material, glue: Material | None, procedure: Procedure) -> tuple[StepTimer, ...]:
    tack = material.tack_minutes if material.tack_minutes is not None else None if glue is None else glue.tack_minutes
    found = (("working time", material.working_minutes, procedure.then_work), ("tack", tack, procedure.then_tack),
             ("cure", material.cure_minutes or None, procedure.then_cure))
    return tuple(StepTimer(name=name, minutes=minutes, then=then) for name, minutes, then in found if minutes)


def _people(job: JobFigures, patch: Patch, layer: StackLayerIn, pieces: tuple[PieceOnSurface, ...]) -> int:
    """Two where a roll or a piece is heavy, and for a board overhead."""
    material = job.shelf.material(layer.material)
    form = form_at(material, layer.thickness_mm) if material.lies else None
    kg = 0.0 if form is None else (area_m2(form) or 0.0) * kg_per_m2(material, layer.thickness_mm)
    roll = form is not None and form.form == "roll" and kg > HEAVY_KG
    board = material.acts == "plate" and "overhead" in patch.flags
    return 2 if roll or board or any(p.kg > HEAVY_KG for p in pieces) else 1


def _text(
    procedure: Procedure, material: Material, layer: StackLayerIn, patch: Patch, laid: float, pieces: int,
) -> str:
    place, held = low(patch.name), layer.held or material.hold
    how = (f", {held}" if held and held != "screws" else "") + (f", {JOINED[layer.joined]}" if layer.joined else "")
    if material.acts == "line":
        unit, where = WHERE[material.goes_by]
        verb = procedure.verb if "{where}" in procedure.verb else "Put {what} {where}"
        foam = " of foam as it stands" if material.goes_by == "void" else ""
        name = low(material.name)
        line = verb.format(what=f"{name}," if ", " in name else name, where=where.format(place))
        return f"{line}: {of(laid, unit, '.1f')}{foam}{how}."
    part = laid / (areas(patch).treatable_m2 * patch.count or 1.0)
    share = "all of it" if part >= 0.995 else f"{100 * part:.0f} % of it"
    through = "" if patch.opening is None else " Through the opening, piece by piece in their order."
    each = plural(pieces, "piece")
    which = f" {each} on each of {patch.count}." if pieces and patch.count > 1 else f" {each}." if pieces else ""
    what = f"{low(material.name)}, {in_mm(layer.thickness_mm)},"
    if patch.planned and layer.id == PANEL:
        what = f"Set up the {place} of {what.rstrip(',')}"
    else:
        verb = procedure.verb if "{where}" not in procedure.verb else "Lay {what} on the {place}"
        what = verb.format(what=what, place=place).rstrip(",")
    return f"{what}: {of(laid, 'm²', '.1f')}, {share}{how}.{which}{through}"


def low(name: str) -> str:
    """A name within a sentence."""
    return f"{name[0].lower()}{name[1:]}" if name[1:2].islower() else name
