"""A box round a machine: its parts, what it takes off, how warm it gets inside, and what may not be built."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Final, NamedTuple

import numpy as np

from ..errors import BadInput
from ..levels.bands import PREDICTED_HZ, Floats
from ..levels.decibels import a_weighted
from ..materials.model import Material
from ..paths.enclosure import GRILLE_CM2, PINS_PER_M2, airflow_m3_s, buoyant_m3_s, fan_pressure_pa, rise_in_box_k
from ..quantities import LAPS
from ..stacks.heat import INSIDE
from ..worded import of
from ..words import listed
from .box_given import SIDES, BoxIn, Opening, Shell, heat_w, power_db, shell
from .box_parts import Holes, box_parts, holes, opening_m2, side_m2
from .box_sound import Let, duct_alpha, fan_of, feet_db, let, piening_db, sabine_duct_db, summed
from .lengths import lengths_of
from .model import HANDLES, Built, Good, InsertionLoss, Part, TradeSpot, added_kg, curve, heavy

SHARP = 2.78
"""Velocity heads lost in a sharp-edged opening: of a coefficient of 0.6."""
BEND_HEADS, DUCT_FRICTION = 1.1, 0.03
"""Velocity heads of a square bend, and of so many widths of lined duct."""
USUAL_U = 3.0
"""Of a wall whose conductivity nobody knows, W/(m²·K)."""
NEAR_HOT_C = 30.0
"""What lies beside a hot part bears so much more than that is warm, or it is kept off."""
TIPS_DEG = 10.0
"""A box that tips when leaned by less falls over at a knock."""
AIR: Final = ("in", "out")
TRIED: Final = (0.25, 0.5, 0.75, 1.0, 1.5, 2.0, 3.0)
"""Air ways of so many times their area, as they are drawn against decibels and degrees."""
RIGID_WARNS = 17.0
"""Feet that pass more than rigid ones by 3 dB and more somewhere."""
AT_500 = PREDICTED_HZ.index(500)
LENGTH_MM = 2400.0
"""As battens are sold."""


class Warm(NamedTuple):
    """How warm it gets: inside, °C; the air that goes through, m³/h; what the walls carry, W/K; free area of each way, m²."""

    inside_c: float
    air_m3_h: float
    walls_w_k: float
    vent_m2: float


def box(given: BoxIn, materials: Mapping[str, Material]) -> Built:
    """A box. BadInput for what cannot be drawn or worked out; what may not be built is ``refused`` beside its figures."""
    found = shell(given)
    cut = holes(given, found)
    parts = box_parts(given, found, cut, materials)
    power, heat = power_db(given.machine), heat_w(given.machine)
    warm = warmth(given, found, cut, heat, materials)
    then, now = let(given, found, cut, materials), _before(given, found, cut, materials)
    with_fan = _louder(power, fan_of(given, warm.vent_m2))
    change = _heard(with_fan, then) - _heard(power, now)
    total = _total(then)
    goods = tuple(g for g in goods_of(given, found, cut, parts) if g.material in materials)
    return Built(
        parts=parts, goods=goods,
        added_kg=added_kg(parts, goods, materials),
        change_dba=round(change, 2) + 0.0, effect_db=curve(_effect(given, power, with_fan, then, now)),
        insertion_loss_db=InsertionLoss(frequency_hz=PREDICTED_HZ, total=curve(-total),
                                        by={k: curve(-v) for k, v in then.by.items()}),
        inside_c=round(warm.inside_c, 1), air_m3_h=round(warm.air_m3_h, 1),
        loudest=_loudest(with_fan, then),
        refused=tuple(_refused(given, found, parts, warm, materials)),
        notes=tuple(_notes(given, found, cut, parts, warm, heat, power, with_fan, then, materials)))


def effect_db(given: BoxIn, found: Shell, cut: Holes, materials: Mapping[str, Material]) -> tuple[Floats, Warm]:
    """What a box takes off in its place, dB (21 bands), its fan counted, and how warm it gets in it."""
    power, warm = power_db(given.machine), warmth(given, found, cut, heat_w(given.machine), materials)
    then, now = let(given, found, cut, materials), _before(given, found, cut, materials)
    return _effect(given, power, _louder(power, fan_of(given, warm.vent_m2)), then, now), warm


def _before(given: BoxIn, found: Shell, cut: Holes, materials: Mapping[str, Material]) -> Let:
    """What leaves without it: of the machine's own case, without what is put in."""
    return let(given, found, cut, materials, stands=given.own_case, lined=False)


def _effect(given: BoxIn, power: Floats, with_fan: Floats, then: Let, now: Let) -> Floats:
    known = np.isfinite(power)
    louder = np.where(known, with_fan, 0.0) - np.where(known, power, 0.0) if given.fan_m3_h else 0.0
    return np.asarray(_total(now) - _total(then) - louder)


def _louder(a: Floats, b: Floats) -> Floats:
    with np.errstate(divide="ignore"):
        return summed(np.array([a, b]))


def _total(of: Let) -> Floats:
    """What leaves in all, dB of what the machine gives to the air."""
    return summed(np.array(list(of.by.values())))


def _heard(power: Floats, of: Let) -> float:
    """A-weighted power that leaves."""
    return a_weighted(power + _total(of))


def _loudest(power: Floats, of: Let) -> tuple[tuple[str, float], ...]:
    """What leaves by each way, by name, dB(A), the loudest first: no more than half a dozen."""
    ways = sorted(((name, a_weighted(power + x)) for name, x in of.ways.items()), key=lambda w: -w[1])
    return tuple((name, round(level, 1)) for name, level in ways[:6])


def warmth(given: BoxIn, found: Shell, cut: Holes, heat: float, materials: Mapping[str, Material],
           lined: bool = True) -> Warm:
    """The balance of heat: walls by their U, air by buoyancy through what comes in and goes out, or by a fan that moves more."""
    areas = {role: sum(_free_m2(o) for o in given.openings if o.role == role) for role in AIR}
    missing = 0.0 if given.open_side is None else side_m2(found, given.open_side)
    # a missing side breathes in by its lower half and out by its upper
    areas = {role: a + missing / 2 for role, a in areas.items()}
    vent = math.sqrt(2 / sum(1 / a**2 for a in areas.values())) if all(areas.values()) else 0.0
    heights = {role: [_middle(found, o, r) for o, r in zip(given.openings, cut.openings, strict=True) if o.role == role]
               for role in areas}
    apart = (np.mean(heights["out"]) - np.mean(heights["in"])) / 1e3 if all(heights.values()) else found.clear_mm[2] / 2e3
    walls = sum(side_m2(found, side) for side in SIDES if side not in (given.open_side, "bottom")) * _u(given, materials, lined)
    fan = given.fan_m3_h / 3600 if vent else 0.0
    outside_k = 273.15 + given.outside_c
    high = max(float(apart), 0.05)
    rise = rise_in_box_k(heat, walls, vent, high, outside_k, fan)
    air = max(buoyant_m3_s(vent, high, rise, outside_k), fan)
    return Warm(given.outside_c + rise, air * 3600, walls, vent)


def _free_m2(o: Opening) -> float:
    """An opening as a sharp-edged one of no depth would breathe, m²: its duct and bends slow the air down."""
    width = math.sqrt(max(o.width_mm * o.height_mm, 1.0))
    heads = SHARP + o.bends * BEND_HEADS + DUCT_FRICTION * o.duct_mm / width
    return opening_m2(o) * math.sqrt(SHARP / heads)


def _middle(found: Shell, o: Opening, rect: tuple[float, float, float, float]) -> float:
    """How high an opening sits, mm."""
    if o.side in ("top", "bottom"):
        return found.outside_mm[2] if o.side == "top" else 0.0
    return rect[1] + rect[3] / 2


def _u(given: BoxIn, materials: Mapping[str, Material], lined: bool) -> float:
    """U of its walls, W/(m²·K), still air on both sides (ISO 6946)."""
    layers = (*given.walls, *(given.lining if lined else ()))
    known = [(materials[x.material].properties.conductivity_w_mk, x.thickness_mm) for x in layers]
    if any(c is None for c, _ in known):
        return USUAL_U
    gap = 0.17 if len(given.walls) > 1 and given.leaf_gap_mm else 0.0
    return 1 / (2 * INSIDE + gap + sum(mm / 1e3 / (c or 1.0) for c, mm in known))


def with_trade(given: BoxIn, built: Built, materials: Mapping[str, Material]) -> Built:
    """A box with what larger and smaller air ways, and a fan, would give: decibels against degrees, each as it would stand."""
    if not any(o.role in AIR for o in given.openings):
        return built
    power, heat = power_db(given.machine), heat_w(given.machine)
    found = shell(given)
    before = _heard(power, _before(given, found, holes(given, found), materials))
    fans = sorted({0.0, given.fan_m3_h, *(round(needed_m3_h(given, heat) * x, -1) for x in (0.5, 1.0))})
    out = []
    for fan in fans:
        for share in TRIED:
            one = given.model_copy(update={"fan_m3_h": fan, "openings": tuple(scaled(o, share) for o in given.openings)})
            try:
                found = shell(one)
                cut = holes(one, found)
            except BadInput:  # it would not go into its wall
                continue
            warm = warmth(one, found, cut, heat, materials)
            change = _heard(_louder(power, fan_of(one, warm.vent_m2)), let(one, found, cut, materials)) - before
            out.append(TradeSpot(
                vent_cm2=round(sum(opening_m2(o) for o in one.openings if o.role in AIR) * 1e4), fan_m3_h=fan,
                sizes_mm=tuple((o.width_mm, o.height_mm) for o in one.openings), inside_c=round(warm.inside_c, 1),
                change_dba=round(change, 1) + 0.0, yours=share == 1.0 and fan == given.fan_m3_h))
    return built.model_copy(update={"trade": tuple(out)})


def scaled(o: Opening, share: float) -> Opening:
    """An air way of so many times its area, to 5 mm."""
    if o.role not in AIR or share == 1.0:
        return o
    sizes = {k: max(round(getattr(o, k) * math.sqrt(share) / 5) * 5.0, 5.0) for k in ("width_mm", "height_mm")}
    return o.model_copy(update=sizes)


def needed_m3_h(given: BoxIn, heat: float) -> float:
    """Air that keeps it within what the machine bears, or 10 K over outside."""
    rise = max((given.machine.most_c or given.outside_c + 10) - given.outside_c, 2.0)
    return airflow_m3_s(heat, rise) * 3600


def _refused(given: BoxIn, found: Shell, parts: tuple[Part, ...], warm: Warm, materials: Mapping[str, Material]) -> list[str]:
    m, out = given.machine, []
    if m.fuel and given.stands != "outdoors":
        out.append("A machine that burns fuel does not go into a box indoors: its exhaust kills. Set it outdoors.")
    elif m.fuel and not m.exhaust_outside:
        out.append("Its exhaust has to go into the open by a pipe of its own, not into the box.")
    if m.most_c is not None and warm.inside_c > m.most_c:
        out.append(f"It gets {warm.inside_c:.0f} °C inside, and the machine bears {m.most_c:g} °C: let more air through, or "
                   "use a fan.")
    if m.hot_c is not None:
        burns = [materials[x.material] for x in given.lining]
        for material in burns:
            most = material.limits.most_c
            if most is not None and most < m.hot_c + NEAR_HOT_C:
                out.append(f"{material.name} bears {most:g} °C, and a part of {m.hot_c:g} °C lies open towards it: line with "
                           "something that does not burn.")
    angle = math.degrees(math.atan2(min(found.outside_mm[0], found.outside_mm[1]) / 2, _heavy_at_mm(parts)))
    if given.stands in ("floor", "outdoors") and angle < TIPS_DEG:
        out.append(f"It tips over when leaned by {angle:.0f}°: make it wider, or fix it to a wall.")
    return out


def _heavy_at_mm(parts: tuple[Part, ...]) -> float:
    """How high its centre of mass lies, its machine left out: it may be lifted off that."""
    whole = sum(p.kg for p in parts)
    return max(sum(p.kg * (p.at_mm[2] + p.size_mm[2] / 2) for p in parts) / max(whole, 1e-6), 1.0)


def goods_of(given: BoxIn, found: Shell, cut: Holes, parts: Sequence[Part]) -> tuple[Good, ...]:
    """What is bought by the metre and piece: seals, hinges, latches, handles, ducts, grilles, pins, feet, a fan, battens."""
    wanted: dict[str, tuple[float, str]] = {}

    def add(material: str, amount: float, unit: str) -> None:
        if amount > 0:
            wanted[material] = (wanted.get(material, (0.0, unit))[0] + amount, unit)

    for door, hole in zip(given.doors, cut.doors, strict=True):
        if door.seal != "none":
            add("bulb-seal", 2 * (hole[2] + hole[3]) / 1e3 * (2 if door.seal == "double" else 1), "m")
        add("lift-off-hinge", 2 if door.leaf_mm[1] < 900 else 3, "piece")
        add("toggle-latch", 2 if max(door.leaf_mm) < 900 else 4, "piece")
    for o in given.openings:
        air = o.role in AIR
        add("flexible-duct", o.duct_mm / 1e3 if o.lined_mm else 0.0, "m")
        add("vent-grille", math.ceil(opening_m2(o) * 1e4 / GRILLE_CM2) if air and not o.duct_mm else 0, "piece")
        add("edge-rubber", 2 * (o.width_mm + o.height_mm) / 1e3 if not air else 0.0, "m")
    if not given.base:
        add("foam-tape", 2 * (found.outside_mm[0] + found.outside_mm[1]) / 1e3, "m")
    if given.lining:
        lined = sum(side_m2(found, s) for s in SIDES if s not in ("bottom", given.open_side))
        add("lining-hanger", math.ceil(PINS_PER_M2 * lined), "piece")
    if given.feet is not None:
        add(given.feet.material, given.feet.count, "piece")
    if given.fan_m3_h:
        add("inline-fan" if any(o.duct_mm for o in given.openings) else "axial-fan", 1, "piece")
        add("thermostat", 1, "piece")
    add("case-handle", HANDLES * len(heavy(parts)), "piece")
    if given.frame:
        bars = lengths_of(battens_mm(given, found), LENGTH_MM, given.kerf_mm)
        # what is bought by the metre has its laps added
        add("timber-batten", math.floor(len(bars) * LENGTH_MM / 10 / LAPS) / 100, "m")
    return tuple(Good.model_validate({"material": m, "amount": round(a, 2), "unit": u}) for m, (a, u) in wanted.items())


def battens_mm(given: BoxIn, found: Shell) -> list[float]:
    """Battens in the edges within its walls: four upright, four along x, four along y between those, each less the one it
    meets."""
    x, y, z = found.within_mm
    under = 4 if given.base else 2
    return [z] * 4 + [x - 2 * BATTEN_MM] * under + [y - 2 * BATTEN_MM] * under


BATTEN_MM = 50.0
"""How wide a batten is where another meets it."""


def _notes(given: BoxIn, found: Shell, cut: Holes, parts: tuple[Part, ...], warm: Warm, heat: float, power: Floats,
           with_fan: Floats, then: Let, materials: Mapping[str, Material]) -> list[str]:
    """What whoever builds it should know."""
    out = [f"Outside {of(f'{found.outside_mm[0]:.0f} × {found.outside_mm[1]:.0f} × {found.outside_mm[2]:.0f}', 'mm')}; "
           f"{heat:.0f} W are to go out, {warm.walls_w_k * (warm.inside_c - given.outside_c):.0f} W by the walls, the rest with "
           f"{of(warm.air_m3_h, 'm³/h', '.0f')} of air: {warm.inside_c:.0f} °C inside at {given.outside_c:g} °C outside."]
    name, level = _loudest(with_fan, then)[0]
    out.append(f"Loudest now: {name}, {level:.0f} dB(A) of sound power.")
    if given.machine.most_c is None:
        out.append("Nobody says how warm the machine may get: look at its plate before it is shut in.")
    if given.fan_m3_h and warm.vent_m2:
        fan = fan_of(given, warm.vent_m2)
        alone = a_weighted(fan + _total(then))
        out.append(f"The fan blows against {fan_pressure_pa(given.fan_m3_h / 3600, warm.vent_m2):.0f} Pa and is heard at "
                   f"{alone:.0f} dB(A) of sound power beside {_heard(power, then):.0f} of the machine.")
    for o in given.openings:
        if o.lined_mm and o.duct_mm:
            alpha = duct_alpha(given, materials)
            after = [float(x(o, alpha)[AT_500]) for x in (piening_db, sabine_duct_db)]
            out.append(f"Its duct of {of(o.duct_mm, 'mm', 'g')} in the {o.side} takes off {after[1]:.0f} dB at 500 Hz after "
                       f"Sabine, as is counted, and {after[0]:.0f} dB after Piening.")
            break
    over = heavy(parts)
    if over:
        most = max(over, key=lambda p: p.kg)
        named = listed([f"{p.name} ({of(p.kg, 'kg', '.0f')})" for p in over[:4]])
        out.append(f"{named}: two people and handles; the heaviest is {of(most.kg, 'kg', '.0f')}.")
    else:
        out.append(f"Every part can be lifted by one: the heaviest is {of(max(p.kg for p in parts), 'kg', '.0f')}.")
    if given.rain or given.stands == "outdoors":
        out.append("Outdoors: a roof that laps over, openings that look down, a drain at the lowest corner.")
    if given.stands in ("wall", "corner"):
        out.append(f"Beside a {given.stands} what it lets out is thrown back: about {3 if given.stands == 'wall' else 6} dB more "
                   "low notes there than in the open.")
    if feet_db(given, materials).max() > -RIGID_WARNS:
        out.append("The machine shakes what it stands on more than with rigid feet somewhere: softer pads.")
    if given.own_case and given.lining:
        bare = warmth(given, found, cut, heat, materials, lined=False)
        out.append(f"Lined, its case gets {warm.inside_c:.0f} °C inside, {bare.inside_c:.0f} °C as it is: line where no air "
                   "passes, and put a gasket between its fan and the sheet.")
    out.append("Trips, alarms and the switch stay within reach; leave a drain, and a way to look in. Screwed, it comes apart "
               "again.")
    return out


