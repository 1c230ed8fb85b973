"""What a box lets out: walls, doors, air ways and the machine's feet in one balance of power per band."""

from __future__ import annotations

import math
from collections.abc import Mapping
from functools import lru_cache
from typing import Final, NamedTuple

import numpy as np

from ..errors import BadInput
from ..levels.bands import PREDICTED_HZ, Floats
from ..levels.decibels import energy
from ..materials.elements import SPEED_OF_SOUND
from ..materials.families.air import Air
from ..materials.families.porous import Porous
from ..materials.family import Layer
from ..materials.model import Material, known_material, screwed, to_layers
from ..paths.enclosure import BARE_ALPHA, close_fit_below, fan_pressure_pa, let_out, lined_duct_db
from ..paths.isolators import MOST_DB, natural_hz, transmissibility
from ..schema import parse
from ..stacks.absorption import before_a_wall, face_alpha
from ..stacks.model import Stack
from ..stacks.openings import slit_transmission
from ..stacks.predict import predict
from .box_given import SIDES, BoxIn, Opening, Shell
from .box_parts import LAP_MM, PANE, Holes, opening_m2, plane, side_m2
from .pads import PADS, stiffness_n_mm

F: Final = np.array(PREDICTED_HZ)
SLIT_MM: Final = {"none": 3.0, "worn": 0.5, "compressed": 0.05, "double": 0.02}
"""How wide the joint of a door stands open in the mean, by its seal; judged."""
UNDER_MM = 0.1
"""The same under walls that stand on a floor, on a strip of foam; judged."""
RIGID_FEET_DB = 20.0
"""What a machine that stands rigidly shakes out through what it stands on, under what it gives to the air; judged, ± 6 dB."""
MOST_IL_DB = 60.0
LEAST_PA = 20.0
"""No fan is so idle that it is quieter than against this; judged."""
FACING_DB: Final = {"towards": 0.0, "beside": -4.0, "away": -8.0}
"""How much less a missing side lets out in a direction, where the side is large against the wave; judged."""
BEND_DB = ((0.5, 1.0), (1.0, 5.0), (2.0, 8.0), (4.0, 12.0))
"""Of a lined square bend at a width of so many half waves: loss, dB, after ASHRAE 1987 (recalled)."""


class Let(NamedTuple):
    """What leaves by each kind of way, dB of what the machine gives off, 21 bands; and by each way by its name."""

    by: dict[str, Floats]
    ways: dict[str, Floats]


def _width_m(opening: Opening) -> float:
    return math.sqrt(max(opening.width_mm * opening.height_mm, 1.0)) / 1e3


def sabine_duct_db(opening: Opening, alpha: Floats) -> Floats:
    """What the lined length of a duct takes off, dB (see ``lined_duct_db``)."""
    if not (opening.lined_mm and opening.duct_mm):
        return np.zeros(len(F))
    return lined_duct_db(F, opening.duct_mm / 1e3, _width_m(opening), alpha)


def duct_alpha(given: BoxIn, materials: Mapping[str, Material]) -> Floats:
    """Absorption of the lining of its ducts: that of the box, or what wool of 25 mm does where it has none (judged)."""
    found = lining_alpha(given, materials)
    return np.full(len(F), 0.6) if found is None else found


def duct_db(opening: Opening, alpha: Floats) -> Floats:
    """What a duct takes off, dB: its lined length and its bends; at most 50."""
    side, out = _width_m(opening), sabine_duct_db(opening, alpha)
    if opening.bends:
        per_bend = np.interp(np.log2(F * 2 * side / SPEED_OF_SOUND), np.log2([x for x, _ in BEND_DB]), [y for _, y in BEND_DB],
                             left=0.0)
        out = out + opening.bends * per_bend * (1.0 if opening.lined_mm else 0.25)
    return np.asarray(np.minimum(out, 50.0))


def piening_db(opening: Opening, alpha: Floats) -> Floats:
    """The same length after Piening (recalled): 1.5·α·U/S·l dB, beside Sabine's 1.05·α^1.4·U/S·l."""
    side = _width_m(opening)
    return np.asarray(np.minimum(1.5 * np.clip(alpha, 0, 1) * 4 / side * opening.duct_mm / 1e3, 50.0))


def lining_alpha(given: BoxIn, materials: Mapping[str, Material]) -> Floats | None:
    """Diffuse absorption of the lining of a box, 21 bands; None where nothing of it is open."""
    made: list[Layer] = []
    for layer in reversed(given.lining):
        made += reversed(to_layers(known_material(layer.material, materials, "lining"), layer.thickness_mm))
    return face_alpha(tuple(before_a_wall(x) if isinstance(x, Porous) else x for x in made))


@lru_cache(maxsize=512)
def _wall_tau(width_m: float, height_m: float, layers: tuple[Layer, ...]) -> tuple[Floats, float]:
    found = predict(parse(Stack, {"width_m": width_m, "height_m": height_m, "layers": layers}, "walls"))
    return 10 ** (-np.array(found.transmission_loss_db) / 10), found.surface_mass_kg_m2


def _layers(given: BoxIn, materials: Mapping[str, Material], lined: bool) -> tuple[Layer, ...]:
    """A wall from outside in, as a stack."""
    out: list[Layer] = []
    for k, leaf in enumerate(given.walls):
        if k and given.leaf_gap_mm:
            out.append(Air(kind="air", thickness_mm=given.leaf_gap_mm))
        out += to_layers(known_material(leaf.material, materials, f"walls[{k}].material"), leaf.thickness_mm)
    for k, layer in enumerate(given.lining if lined else ()):
        out += to_layers(known_material(layer.material, materials, f"lining[{k}].material"), layer.thickness_mm)
    return screwed(out)


def let(given: BoxIn, found: Shell, cut: Holes, materials: Mapping[str, Material], *, stands: bool = True,
        lined: bool = True) -> Let:
    """What leaves a box by each of its ways. ``stands`` False: no box at all, but the machine on its feet as it is; ``lined``
    False: without its lining. BadInput for a layer no model covers."""
    nothing = np.zeros(len(F))
    feet = feet_db(given, materials) if stands else nothing - RIGID_FEET_DB
    if not stands:
        return Let({"air": nothing, "feet": feet}, {})
    parts, shares, ways, kinds = list[Floats](), list[Floats](), list[str](), list[str]()

    def add(kind: str, name: str, leaving: Floats, share: Floats = nothing) -> None:
        parts.append(leaving)
        shares.append(share)
        ways.append(name)
        kinds.append(kind)

    absorbed = nothing
    alpha = lining_alpha(given, materials) if lined else None
    layers, bare = _layers(given, materials, lined), _layers(given, materials, False)
    longest = max(found.clear_mm) / 1e3
    wholes = {side: side_m2(found, side) for side in SIDES if side != "bottom" or given.base}
    whole = sum(wholes.values())
    for side, area in wholes.items():
        if side == given.open_side:
            add("openings", f"the missing {side}", nothing + area * 10 ** (_open_db(given, area) / 10))
            continue
        cuts = [r for o, r in zip(given.openings, cut.openings, strict=True) if o.side == side]
        cuts += [r for d, r in zip(given.doors, cut.doors, strict=True) if d.side == side]
        net = max(area - sum(r[2] * r[3] for r in cuts) / 1e6, 0.0)
        u, v = plane(SIDES[side][0])
        tau, mass = _wall_tau(max(found.within_mm[u], 50.0) / 1e3, max(found.within_mm[v], 50.0) / 1e3,
                              bare if side == "bottom" else layers)
        add("walls", f"the {side}" if side in ("top", "bottom") else f"the {side} wall", tau * net,
            close_fit_below(F, mass, max(given.clearance_mm, 5.0) / 1e3, longest) * area / whole)
        absorbed = absorbed + net * (BARE_ALPHA if alpha is None or side == "bottom" else alpha)
    if not given.base:
        rim = 2 * (found.outside_mm[0] + found.outside_mm[1]) / 1e3
        add("walls", "the joint at the floor", _slit(UNDER_MM, found.wall_mm, rim))
        absorbed = absorbed + BARE_ALPHA * side_m2(found, "bottom")
    for i, (door, hole) in enumerate(zip(given.doors, cut.doors, strict=True), start=1):
        area = hole[2] * hole[3] / 1e6
        tau, _ = _wall_tau(hole[2] / 1e3, hole[3] / 1e3, layers)
        if door.window_mm is not None:
            pane, _ = _wall_tau(door.window_mm[0] / 1e3, door.window_mm[1] / 1e3, _pane(materials))
            seen = door.window_mm[0] * door.window_mm[1] / 1e6
            tau = (tau * (area - seen) + pane * seen) / area
        add("doors", f"door {i}", tau * area)
        add("doors", f"the seal of door {i}", _slit(SLIT_MM[door.seal], LAP_MM, 2 * (hole[2] + hole[3]) / 1e3))
        absorbed = absorbed + area * (BARE_ALPHA if alpha is None else alpha)
    in_ducts = duct_alpha(given, materials)
    for o in given.openings:
        through = 10 ** (-duct_db(o, in_ducts) / 10)
        add("openings", f"{WAY[o.role]} {o.side}", nothing + opening_m2(o) * through)
    out = np.maximum(let_out(np.array(parts), absorbed, np.array(shares)), -MOST_IL_DB)
    by = {kind: summed(out[[k == kind for k in kinds]]) for kind in dict.fromkeys(kinds)}
    named = {way: summed(out[[w == way for w in ways]]) for way in dict.fromkeys(ways)}
    return Let({**by, "feet": feet}, {**named, "the machine's feet": feet})


WAY: Final = {"in": "air in at the", "out": "air out at the", "cable": "the cables at the", "shaft": "the shaft at the"}


def summed(rows: Floats) -> Floats:
    """Levels of several ways together, (ways, bands) to (bands), dB."""
    return np.asarray(10 * np.log10(energy(rows).sum(axis=0)))


def _open_db(given: BoxIn, area_m2: float) -> Floats:
    """Of a missing side: what its direction takes off, from where it is a wave wide on."""
    wide = np.clip(F * math.sqrt(area_m2) / SPEED_OF_SOUND, 0, 1)
    return np.asarray(FACING_DB[given.faces] * wide)


def _slit(wide_mm: float, deep_mm: float, long_m: float) -> Floats:
    tau = slit_transmission(F, wide_mm / 1e3, max(deep_mm, 1.0) / 1e3, edge=True)
    return np.asarray(np.minimum(tau, 3.0) * wide_mm / 1e3 * long_m)


def _pane(materials: Mapping[str, Material]) -> tuple[Layer, ...]:
    return tuple(to_layers(known_material(PANE.material, materials, "doors"), PANE.thickness_mm))


def feet_db(given: BoxIn, materials: Mapping[str, Material]) -> Floats:
    """What goes by the machine's feet, dB of what it gives to the air: rigid feet, less what pads take."""
    if given.feet is None:
        return np.zeros(len(F)) - RIGID_FEET_DB
    known_material(given.feet.material, materials, "feet.material")
    pad = PADS.get(given.feet.material)
    if pad is None:
        raise BadInput(f"nobody knows how stiff '{given.feet.material}' is", "feet.material", f"give one of: {', '.join(PADS)}")
    load = given.machine.mass_kg / given.feet.count
    k = stiffness_n_mm(pad, load) * given.feet.count * 1e3
    passed = 20 * np.log10(transmissibility(F, natural_hz(k, given.machine.mass_kg), pad.damping_ratio))
    return np.asarray(np.maximum(passed, -MOST_DB) - RIGID_FEET_DB)


def fan_power_db(flow_m3_s: float, pressure_pa: float) -> Floats:
    """Sound power of a fan per third, dB: 37 + 10·lg V̇ + 20·lg Δp over all (VDI 2081, recalled), falling 3 dB an octave over
    250 Hz."""
    whole = 37 + 10 * math.log10(max(flow_m3_s, 1e-6)) + 20 * math.log10(max(pressure_pa, LEAST_PA))
    shape = -3 * np.maximum(np.log2(F / 250), 0.0)
    return np.asarray(whole + shape - 10 * math.log10(energy(shape).sum()))


def fan_of(given: BoxIn, least_m2: float) -> Floats:
    """The fan of a box as a second source in it, dB per band; −∞ without one. BadInput where there is no way to blow through."""
    if not given.fan_m3_h:
        return np.full(len(F), -math.inf)
    if least_m2 <= 0:
        raise BadInput("a fan needs a way in and a way out", "openings", "give an opening of each role, or no fan")
    flow = given.fan_m3_h / 3600
    return fan_power_db(flow, min(fan_pressure_pa(flow, least_m2), 2000.0))
