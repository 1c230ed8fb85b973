"""Goods that follow from a plan though nobody lays them: studs, tracks, channels, screws, compound between boards."""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

from ..cutting.stock import form_at, goes_for, price_m
from ..fitting.fixings import (
    CHANNEL,
    COATS,
    COATS_THAT_DRINK,
    COMPOUND_L_M2,
    HANGER,
    JOINED,
    LYING,
    POINTS_PER_M2,
    SCREW,
    SCREWS_PER_M2,
    STAPLE,
    STUDS,
    WASHER,
    glue_of,
)
from ..job.shelf import Shelf
from ..stacks.model import Frame
from ..surfaces.coverage import laid_share
from ..surfaces.geometry import areas
from ..surfaces.patches import Patch
from ..surfaces.rows import StackLayerIn
from ..worded import in_mm


class Good(NamedTuple):
    """So much of a material, in what ``measure`` has it in; and what it is for."""

    material: str
    amount: float
    why: str


class GoodsLoad(NamedTuple):
    """What goods weigh (kg), cost (None where a price is unknown) and take (minutes)."""

    kg: float
    money: float | None
    minutes: float


@lru_cache(maxsize=2048)
def goods_of(patch: Patch, layers: tuple[StackLayerIn, ...], frame: Frame | None, shelf: Shelf) -> tuple[Good, ...]:
    """Goods for one copy of a patch: of frames that its new layers bring, of screws and compound for its new boards.

    ``frame`` is one the alternative itself changes to, where no layer says it.
    """
    size, out = areas(patch), list[Good]()
    width, height = size.width_mm / 1e3, size.height_mm / 1e3
    for tie in [x.tie for x in layers if x.tie is not None] or ([frame] if frame is not None else []):
        if tie.kind in STUDS and tie.spacing_mm:
            stands, rim, rows = STUDS[tie.kind]
            length = (width / (tie.spacing_mm / 1e3) + 1) * height * rows if tie.kind not in LYING else (
                (height / (tie.spacing_mm / 1e3) + 1) * width)
            out.append(Good(stands, length, f"{tie.kind.replace('-', ' ')} {in_mm(tie.spacing_mm)} apart"))
            if rim:
                out.append(Good(rim, 2 * width * rows, "rails at foot and head"))
        if tie.resilient_channel_spacing_mm:
            out.append(Good(CHANNEL, (height / (tie.resilient_channel_spacing_mm / 1e3) + 1) * width, "resilient channels"))
        if tie.kind == "point-fixings" and tie.spacing_mm and tie.isolated:
            out.append(Good(WASHER, size.treatable_m2 / (tie.spacing_mm / 1e3) ** 2, "isolated fixings"))
    for layer in layers:
        material = shelf.material(layer.material)
        if not material.lies:
            continue
        screwed = material.acts == "plate" and material.rigid and layer.held in ("", "screws")
        glue = glue_of(layer.held, material.hold)
        if not (screwed or glue is not None or layer.joined or layer.held in ("screws", "isolated screws", "hangers", "staples")):
            continue
        laid = laid_share(patch, layer, material) * size.treatable_m2
        if screwed:
            out.append(Good(SCREW, SCREWS_PER_M2 * laid, "screws of boards"))
        elif layer.held in ("screws", "isolated screws"):
            out.append(Good(SCREW, POINTS_PER_M2 * laid, "screws through a lining"))
        if layer.held == "isolated screws":
            out.append(Good(WASHER, POINTS_PER_M2 * laid, "isolated fixings"))
        if layer.held == "hangers":
            out.append(Good(HANGER, POINTS_PER_M2 * laid, "hangers of a lining"))
        if layer.held == "staples":
            out.append(Good(STAPLE, 2 * POINTS_PER_M2 * laid, "staples"))
        if glue is not None:
            coats = COATS_THAT_DRINK if material.family == "porous" else COATS
            out.append(Good(glue.material, glue.l_m2 * coats * laid, f"{coats} coats of glue, litres"))
        if layer.joined:
            out.append(Good(JOINED[layer.joined], COMPOUND_L_M2 * laid, "between boards, litres"))
    return tuple(g for g in _summed(out) if g.material in shelf.materials)


def _summed(goods: list[Good]) -> list[Good]:
    found: dict[str, Good] = {}
    for good in goods:
        before = found.get(good.material)
        found[good.material] = good if before is None else before._replace(amount=before.amount + good.amount)
    return list(found.values())


def load_of_good(good: Good, shelf: Shelf) -> GoodsLoad:
    """What one good weighs once it is dry, costs and takes."""
    material = shelf.material(good.material)
    form = form_at(material, None)
    each = goes_for(material, form) if form is not None else 1.0
    kg = 0.0 if form is None or form.kg is None else form.kg / each * material.solids * good.amount
    price = price_m(material)
    return GoodsLoad(kg, None if price is None else price * good.amount, material.minutes_each * good.amount)
