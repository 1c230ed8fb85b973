"""The layers of a surface as they are drawn: in section from the source's side, each with what it weighs and costs."""

from __future__ import annotations

from typing import Literal

from ...cutting.stock import forms_at, price_m2
from ...figures.cuts import cuts_of, line_amount
from ...figures.lays import Lay, Placed, laid_of
from ...job.shelf import Shelf
from ...materials.model import Material, kg_per_m2
from ...materials.table import family
from ...schema import Strict
from ...stacks.model import Frame
from ...surfaces.coverage import laid_share
from ...surfaces.geometry import areas
from ...surfaces.patches import Patch
from ...surfaces.rows import Alternative, StackLayerIn
from ...worded import in_mm, of
from ...words import listed

State = Literal["panel", "stays", "comes off", "new"]


class LayerView(Strict):
    """A layer as drawn: where it lies, its depth and role, and what it weighs and costs on one surface."""

    id: str
    state: State
    far: bool
    material: str
    name: str
    family: str
    acts: str
    role: str
    letter: str
    thickness_mm: float
    sold_mm: tuple[float, ...]
    """Thicknesses that are sold (of a panel that stands: that are found)."""
    coverage: float
    reached: float
    """What its pieces cover of what may be covered."""
    kg_m2: float
    price: float | None
    """Of one surface; None where no price is known."""
    hold: str
    """How it is held, in words."""
    tie: str
    """What ties the leaves beside it, in words."""
    joined: str
    seams: int = 0
    """Of a new barrier: joints between its blanks."""
    taped: bool = False
    takes: str = ""
    """Of a new line: how much of it goes on one surface, and along what."""


def layer_view(
    layer: StackLayerIn, patch: Patch, shelf: Shelf, state: State, far: bool = False, taped: bool = False
) -> LayerView:
    """A layer as drawn; new ones are cut, the rest is as it is."""
    size = areas(patch)
    material = shelf.material(layer.material)
    laid = laid_share(patch, layer, material) if state == "new" else layer.coverage
    facing = (material.properties.facing_thickness_mm or 0.0) if material.acts == "damping" else 0.0
    cost = price_m2(material, layer.thickness_mm) if state == "new" and material.lies else 0.0
    return LayerView(
        id=layer.id, state=state, far=far, material=material.id, name=material.name, family=material.family, acts=material.acts,
        role=material.roles[0] if material.roles else material.family, letter=material.letter,
        thickness_mm=round(layer.thickness_mm + facing if material.lies else 0.0, 2), sold_mm=_sold(material),
        coverage=layer.coverage, reached=round(laid, 3), kg_m2=round(kg_per_m2(material, layer.thickness_mm), 2),
        price=None if cost is None else round(cost * laid * size.treatable_m2, 2), hold=layer.held or material.hold,
        tie="" if layer.tie is None else tie_words(layer.tie), joined=JOINED[layer.joined],
        taped=taped,
    )


def seams_of(patch: Patch, layers: tuple[StackLayerIn, ...], shelf: Shelf, boxed: bool) -> dict[str, int]:
    """Joints between the pieces of each barrier among what is to be laid, by the layer's id; as Cut cuts them."""
    cuts = zip(layers, cuts_of(patch, layers, shelf, boxed), strict=True)
    return {x.id: len(cover.pieces) - 1 for x, cover in cuts
            if cover is not None and cover.pieces and "barrier" in shelf.material(x.material).roles}


ALONG = {"edge": ("m", " all round"), "seam": ("m", ", seams and all round"), "void": ("l", " of foam")}


def lines_of(patch: Patch, layers: tuple[StackLayerIn, ...], shelf: Shelf, boxed: bool) -> dict[str, str]:
    """What each line among what is to be laid takes on one surface, in words, by the layer's id."""
    return {x.id: of(line_amount(patch, layers, k, shelf, boxed), unit, ".1f") + along for k, x in enumerate(layers)
            for material in (shelf.material(x.material),) if material.acts == "line"
            for unit, along in (ALONG[material.goes_by],)}


JOINED = {"": "", "compound": "damping compound between", "adhesive": "elastic adhesive between"}
TIES = {"wood-studs": "wood studs", "light-steel-studs": "light steel studs", "staggered-wood-studs": "staggered studs",
        "double-wood-studs": "two rows of studs", "point-fixings": "single fixings", "channels": "resilient channels",
        "battens": "battens"}


def tie_words(frame: Frame) -> str:
    """A frame in words."""
    if frame.kind == "none":
        return ""
    words = TIES[frame.kind] + (f" {in_mm(frame.spacing_mm)} apart" if frame.spacing_mm else "")
    hung = frame.resilient_channel_spacing_mm
    more = [] if hung is None else [f"channels {in_mm(hung)} apart"]
    return listed([words, *more, *(["rubber under each"] if frame.isolated else [])])


def _sold(material: Material) -> tuple[float, ...]:
    if not material.lies or not family(material.family).bought:
        return ()
    sold = tuple(sorted({f.thickness_mm for f in material.stock if f.thickness_mm is not None and f.form != "none"}))
    return sold or material.thicknesses_mm


def section(
    patch: Patch, lay: Lay, alternative: Alternative | None, shelf: Shelf, boxed: bool
) -> tuple[LayerView, ...]:
    """Everything in section, from the source's side: what is new, what stays, what comes off, and the panel. ``boxed``: its
    neighbours meet it at corners."""
    far = [p for p in lay.placed if p.far]
    taped = any(p.new and shelf.material(p.layer.material).acts == "line" for p in lay.placed)
    out = [layer_view(p.layer, patch, shelf, "new", True, taped) for p in far]
    out.append(layer_view(patch.substrate, patch, shelf, "new" if patch.planned else "panel"))
    near = lay.placed[len(far):]
    gone = [] if alternative is None or patch.planned else [x for x in patch.present if x.id in alternative.takes_out]
    for one in near:
        if not one.new:
            out += _before(gone, one, patch, shelf)
        out.append(layer_view(one.layer, patch, shelf, "new" if one.new else "stays", taped=taped))
    out += [layer_view(x, patch, shelf, "comes off") for x in gone]
    laid = () if alternative is None else laid_of(patch, alternative)
    seams, takes = seams_of(patch, laid, shelf, boxed), lines_of(patch, laid, shelf, boxed)
    return tuple(x.model_copy(update={"seams": seams.get(x.id, 0), "takes": takes.get(x.id, "")}) if x.state == "new" else x
                 for x in out)


def _before(gone: list[StackLayerIn], one: Placed, patch: Patch, shelf: Shelf) -> list[LayerView]:
    """What comes off and stood before a layer that stays; taken from the list."""
    order = [x.id for x in patch.present]
    at = order.index(one.layer.id)
    ahead = [x for x in gone if order.index(x.id) < at]
    for x in ahead:
        gone.remove(x)
    return [layer_view(x, patch, shelf, "comes off") for x in ahead]


class Depth(Strict):
    """How deep what is added is on the side of the panel it is laid on: ``far`` is the source's."""

    mm: float
    far: bool


def depth_of(views: tuple[LayerView, ...]) -> Depth:
    """Depth of what is added beside the panel: on the listener's side, on the source's where more is laid there."""
    after = next((i for i, v in enumerate(views) if v.state == "panel" or (v.id == "" and not v.far)), 0)
    beside = views[after + 1 :]
    near = sum(v.thickness_mm for v in beside if v.state == "new")
    far = sum(v.thickness_mm for v in views if v.far)
    return Depth(mm=max(near, far), far=far > near)


def unsold(layers: tuple[StackLayerIn, ...], shelf: Shelf) -> tuple[str, ...]:
    """Layers of a thickness nobody on the shelf sells, in words."""
    out = []
    for layer in layers:
        material = shelf.material(layer.material)
        if material.lies and family(material.family).bought and not forms_at(material, layer.thickness_mm):
            out.append(f"{material.name} {in_mm(layer.thickness_mm)}")
    return tuple(dict.fromkeys(out))
