"""Openings beside a loudspeaker closed: patches or formable layers, gasket, damping where it helps most; what the bass gains."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Annotated, Literal

from pydantic import Field

from ..errors import BadInput
from ..materials.model import Material, known_material
from ..paths.loudspeaker import CLOSE_WITH, DoorIn, gain_range
from ..schema import Strict
from ..worded import of
from ..words import signed
from .box_parts import Slab, flat_parts
from .model import Built, Good, Millimetres, Part, Sheet, added_kg

RIM_MM = 25.0
"""How far a patch lies over the rim of its hole."""
LEFT_CM2 = {"patch": 10.0, "formable": 20.0}
"""What stays open round drains, rods and plugs; judged."""
LEVELS = (("rim", 1.0, 60.0), ("middle", 0.6, 120.0), ("far end", 0.3, 200.0))
"""Damping from the cone outwards: share covered, and how far its band reaches beyond the one before, mm."""
APART_MM = 50.0
MOST_CM2 = 5000.0


class BaffleIn(Strict):
    """A loudspeaker in a panel with holes beside it; ``holes_mm`` as a tape gives them, or ``open_cm2`` as one square."""

    kind: Literal["baffle"]
    cone_mm: Annotated[float, Field(gt=20, le=500, strict=True, allow_inf_nan=False)]
    lowest_hz: Annotated[float, Field(gt=10, le=1000, strict=True, allow_inf_nan=False)]
    open_cm2: Annotated[float | None, Field(ge=0, le=MOST_CM2, strict=True, allow_inf_nan=False)] = None
    closed: Literal["patch", "formable"] = "patch"
    """A stiff patch where the skin is flat, two formable layers where the trim bulges."""
    sheet: Sheet
    """What closes it: the patch, or each of the layers."""
    holes_mm: Annotated[tuple[tuple[Millimetres, Millimetres], ...], Field(max_length=12)] = ()
    volume_l: Annotated[float, Field(gt=1, le=500, strict=True, allow_inf_nan=False)] = 35.0
    damping: Sheet | None = None
    panel_mm: tuple[Millimetres, Millimetres] = (900.0, 600.0)
    """The skin it sits in."""


def baffle(given: BaffleIn, materials: Mapping[str, Material]) -> Built:
    """What is cut for it and what it gives, as a range. BadInput where nothing is open, or holes are larger than their panel."""
    if not given.open_cm2 and not given.holes_mm:
        raise BadInput("nothing is open beside it", "open_cm2", "measure what is open, or leave this build out")
    known_material(given.sheet.material, materials, "sheet.material")
    side = math.sqrt(given.open_cm2 or 0.0) * 10
    holes = given.holes_mm or ((side, side),)
    taped = sum(a * b for a, b in holes) / 100
    if given.holes_mm and given.open_cm2 and abs(taped - given.open_cm2) > 0.25 * given.open_cm2:
        raise BadInput(f"the holes are {of(taped, 'cm²', '.0f')} by the tape, and {of(given.open_cm2, 'cm²')} are given",
                       "open_cm2", "give one of the two")
    if any(a + 2 * RIM_MM > given.panel_mm[0] or b + 2 * RIM_MM > given.panel_mm[1] for a, b in holes):
        raise BadInput("a hole is larger than the panel it is in", "holes_mm", "measure the panel too")
    parts = _parts(given, holes, materials)
    gasket_m = math.pi * given.cone_mm / 1e3 + 2 * sum(a + b for a, b in holes) / 1e3
    goods = tuple(g for g in (Good(material="foam-tape", amount=round(gasket_m, 2), unit="m"),) if g.material in materials)
    kg = added_kg(parts, goods, materials)
    door = door_of(given, kg)
    found = gain_range(door)
    return Built(
        parts=parts, goods=goods, added_kg=kg,
        gain_db=None if found.bass is None else (round(found.bass[0], 1), round(found.bass[1], 1)),
        notes=tuple(_notes(given, door, found.bass)))


def door_of(given: BaffleIn, added_kg: float) -> DoorIn:
    """The same as the desk's calculation takes it."""
    taped = sum(a * b for a, b in given.holes_mm) / 100
    whole = given.open_cm2 or taped
    return DoorIn(open_cm2=whole, left_cm2=min(LEFT_CM2[given.closed], whole), volume_l=given.volume_l, cone_mm=given.cone_mm,
                  lowest_hz=given.lowest_hz, added_kg=min(added_kg, 20.0))


def _parts(given: BaffleIn, holes: tuple[tuple[float, float], ...], materials: Mapping[str, Material]) -> tuple[Part, ...]:
    """A patch or two layers for each hole, side by side as they are drawn; strips of damping round the cone, most at its rim."""
    out, x = list[Part](), 0.0
    sheet, t = materials[given.sheet.material], given.sheet.thickness_mm
    layers = 2 if given.closed == "formable" else 1
    for n, (a, b) in enumerate(holes, start=1):
        for k in range(layers):
            name = f"patch over hole {n}" if layers == 1 else f"layer {k + 1} over hole {n}"
            out += flat_parts(name, sheet, Slab((x, 0.0, k * t), (a + 2 * RIM_MM, b + 2 * RIM_MM, t), 2))
        x += a + 2 * RIM_MM + APART_MM
    if given.damping is not None:
        damping = known_material(given.damping.material, materials, "damping.material")
        radius = given.cone_mm / 2
        for name, share, reach in LEVELS:
            area = math.pi * ((radius + reach) ** 2 - radius**2) * share
            radius += reach
            wide = min(reach, 150.0)
            strip = Slab((x, 0.0, 0.0), (area / wide, wide, given.damping.thickness_mm), 2)
            out += flat_parts(f"damping, {name}", damping, strip)
            x += area / wide + APART_MM
    return tuple(p.model_copy(update={"id": f"L{i}"}) for i, p in enumerate(out, start=1))


def _notes(given: BaffleIn, door: DoorIn, bass: tuple[float, float] | None) -> list[str]:
    how = ("Flat: cut the patch 25 mm larger all round, rivet or screw it over the gasket."
           if given.closed == "patch" else "Bulged: two layers, the second across the first, rolled from the rim inwards.")
    gains = (f"{signed(bass[0], 0)} to {signed(bass[1], 0)} dB of bass, where it plays." if bass is not None else
             "It does not play low enough to gain; less road noise comes through the door.")
    return [gains, f"{of(door.open_cm2, 'cm²', '.0f')} are open now, {of(door.left_cm2, 'cm²', '.0f')} stay when done. {how}",
            f"Close it with {CLOSE_WITH}. Gasket between the loudspeaker's rim and the sheet, an open absorber ring round its "
            "grille, damping most at its rim and least at the far end.",
            "Drains, the window and the latch keep their way; the water membrane stays whole.",
            "Play a slow sweep before and after, at one place of the microphone: that proves it."]
