"""A box round a machine: insertion loss with openings, ducts and a close fit, and the heat that must get out."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from pydantic import Field

from ..forms import Asked, asked
from ..levels.bands import PREDICTED_A_DB, PREDICTED_HZ, Floats
from ..levels.decibels import energy
from ..materials.elements import AIR_DENSITY, SPEED_OF_SOUND
from ..schema import Strict, parse
from ..stacks.model import Stack
from ..stacks.predict import predict
from ..worded import of
from ..working import Answer, Fitted, Trade, TradePoint, Wares, Working, band_line, figure, inputs

HEAT_CAPACITY = 1006.0  # J/(kg·K), air
DISCHARGE = 0.6  # of a sharp-edged opening


def insertion_loss_db(absorption_m2: Floats | float, leaving_m2: Floats) -> Floats:
    """Insertion loss of a box, dB: what goes in leaves through Σ τ·S or is taken up inside, 10·lg(1 + A/Στ·S).

    ``absorption_m2`` inside (without what leaves), ``leaving_m2`` the sum of τ·S of walls, openings and ducts.
    """
    return np.asarray(10 * np.log10(1 + np.asarray(absorption_m2) / np.maximum(leaving_m2, 1e-12)))


BARE_ALPHA, BARE_ALPHA_RANGE = 0.08, (0.04, 0.15)
"""Absorption of a bare hard face inside a box, all bands, and between which values it lies: judgements."""


def let_out(leaving_m2: Floats, absorbed_m2: Floats, close: Floats) -> Floats:
    """What leaves a box by each of its parts, dB of what its machine gives off, (…, parts, bands); over all parts it adds up to
    −IL.

    ``leaving_m2``: τ·S of each part, (…, parts, bands); ``absorbed_m2``: taken up inside, (…, bands). Of a power balance
    1 = A/(A + Στ·S) + Στ·S/(A + Στ·S). ``close``: the share a part lets out since it stands close to the machine,
    where that is more.
    """
    whole = absorbed_m2 + leaving_m2.sum(axis=-2)
    with np.errstate(divide="ignore"):
        return np.asarray(10 * np.log10(np.maximum(close, leaving_m2 / np.maximum(whole, 1e-12)[..., None, :])))


def close_fit_below(frequency_hz: Floats, mass_kg_m2: float, gap_m: float, longest_m: float) -> Floats:
    """What a wall close to its machine lets out by the air between them as a spring, a share of what meets it: below its limit,
    nothing above; at its resonance as much as without it, for vents and leaks let the spring breathe (a judgement).

    Its limit is the box's first mode, c/(2·longest side): from there on the field inside is better taken as diffuse, and where
    the gap is a quarter of a wave.
    """
    limit = min(SPEED_OF_SOUND / (2 * longest_m), SPEED_OF_SOUND / (4 * gap_m))
    let = 10 ** (-np.maximum(close_fit_db(frequency_hz, mass_kg_m2, gap_m), 0.0) / 10)
    return np.where(frequency_hz < limit, let, 0.0)


def close_fit_db(frequency_hz: Floats, mass_kg_m2: float, gap_m: float, loss: float = 0.1) -> Floats:
    """Insertion loss of a wall of mass m′ close before a stiffly vibrating surface, dB (one-dimensional, Byrne et al. 1988).

    20·lg|cos kd + j·(Z/ρc)·sin kd|, Z = jωm′ + ρc; the air gap has a loss factor. Negative at the gap's resonance.
    """
    k = 2 * np.pi * frequency_hz / SPEED_OF_SOUND * np.sqrt(1 - 1j * loss)
    z = 1 + 2j * np.pi * frequency_hz * mass_kg_m2 / (AIR_DENSITY * SPEED_OF_SOUND)
    return np.asarray(20 * np.log10(np.abs(np.cos(k * gap_m) + 1j * z * np.sin(k * gap_m))))


def lined_duct_db(frequency_hz: Floats, length_m: float, side_m: Floats | float, lining_alpha: Floats | float) -> Floats:
    """Attenuation of a square duct lined all round, dB: 1.05·α^1.4·(U/S)·l (Sabine 1940, recalled), free side ``side_m``.

    Held to the value at f = c/side above that frequency, where sound beams down the duct; at most 40 dB.
    """
    per_m = 1.05 * np.clip(lining_alpha, 0, 1) ** 1.4 * 4 / side_m
    beams = np.minimum(1.0, (SPEED_OF_SOUND / side_m / frequency_hz) ** 2)
    return np.asarray(np.minimum(per_m * length_m * beams, 40.0))


def airflow_m3_s(heat_w: float, rise_k: float) -> float:
    """Air that carries off heat at a rise of temperature, m³/s: Q/(ρ·c_p·ΔT)."""
    return heat_w / (AIR_DENSITY * HEAT_CAPACITY * rise_k)


def natural_vent_m2(flow_m3_s: float, height_m: float, rise_k: float, inside_k: float = 313.0) -> float:
    """Area of each of two equal openings one above the other that lets a flow through by its own buoyancy, m².

    V̇ = C_d·(A/√2)·√(2·g·h·ΔT/T), C_d = 0.6.
    """
    return flow_m3_s * math.sqrt(2) / (DISCHARGE * math.sqrt(2 * 9.81 * height_m * rise_k / inside_k))


def buoyant_m3_s(vent_m2: float, height_m: float, rise_k: float, outside_k: float) -> float:
    """What two equal openings one above the other let through by themselves, m³/s; the inverse of ``natural_vent_m2``."""
    return DISCHARGE * vent_m2 / math.sqrt(2) * math.sqrt(2 * 9.81 * height_m * rise_k / (outside_k + rise_k))


def rise_in_box_k(
    heat_w: float, walls_w_k: float, vent_m2: float, height_m: float, outside_k: float = 293.0, fan_m3_s: float = 0.0
) -> float:
    """How much warmer it gets in a box, K, where its heat leaves through walls (Σ U·A, W/K) and two equal openings of ``vent_m2``
    each by their own buoyancy, or by a fan that moves more; at most 500. The inverse of ``natural_vent_m2``, by bisection.
    """
    low, high = 0.0, 500.0
    for _ in range(60):
        rise = (low + high) / 2
        flow = max(buoyant_m3_s(vent_m2, height_m, rise, outside_k), fan_m3_s)
        carried = walls_w_k * rise + AIR_DENSITY * HEAT_CAPACITY * flow * rise
        low, high = (rise, high) if carried < heat_w else (low, rise)
    return high


VELOCITY_HEADS = 2.5
"""Pressure lost from outside to outside through two openings and a turn between them, in velocity heads of one."""


def fan_pressure_pa(flow_m3_s: float, area_m2: float) -> float:
    """Pressure a fan must make to drive a flow through an opening, Pa: ζ·ρ/2·(V̇/A)²."""
    return VELOCITY_HEADS * AIR_DENSITY / 2 * (flow_m3_s / area_m2) ** 2


def fan_vent_m2(flow_m3_s: float, pressure_pa: float) -> float:
    """Area of each opening through which a fan of a pressure drives a flow, m²; the inverse of ``fan_pressure_pa``."""
    return flow_m3_s * math.sqrt(VELOCITY_HEADS * AIR_DENSITY / 2 / pressure_pa)


WALLS: dict[str, tuple[float, float, float]] = {
    "plywood": (600, 8, 0.03), "chipboard": (680, 3, 0.03), "gypsum board": (700, 2.3, 0.025), "steel sheet": (7850, 210, 0.02),
    "aluminium sheet": (2700, 70, 0.02), "heavy mat, limp": (2000, 0, 0),
}
"""What a box is made of: density (kg/m³), Young's modulus (GPa), loss factor; typical values, 0: no stiffness to speak of."""
Wall = Literal["plywood", "chipboard", "gypsum board", "steel sheet", "aluminium sheet", "heavy mat, limp"]
FANS_PA = (5.0, 30.0, 150.0)
"""Pressures of small, usual and strong fans."""


class HoodIn(Strict):
    """A box round a machine with one vent in and one out, each with or without a lined duct before it."""

    length_m: Asked = asked(1.1, "Length", "m", gt=0.1, le=30)
    width_m: Asked = asked(0.8, "Width", "m", gt=0.1, le=30)
    height_m: Asked = asked(1.3, "Height", "m", gt=0.1, le=10)
    walls: Wall = Field(default="plywood", title="Walls")
    wall_kg_m2: Asked = asked(11.0, "Weight of the walls", "kg/m²", gt=0.1, le=1000)
    gap_mm: Asked = asked(150.0, "Machine to wall", "mm", gt=1, le=3000)
    lining_alpha: Asked = asked(0.6, "Absorption inside", "0–1", gt=0, le=1)
    vent_cm2: Asked = asked(900.0, "All vents, free area", "cm²", ge=0, le=100_000)
    duct_m: Asked = asked(0.0, "Lined duct before each vent (0: none)", "m", ge=0, le=10)
    heat_w: Asked = asked(1900.0, "Heat of the machine", "W", ge=0, le=1e6)
    rise_k: Asked = asked(10.0, "It may get warmer inside by", "K", gt=0.5, le=100)
    wall_u: Asked = asked(3.0, "U of the walls", "W/(m²K)", gt=0, le=10)


def box_area_m2(given: HoodIn) -> float:
    """Area of all six sides, m²."""
    a, b, c = given.length_m, given.width_m, given.height_m
    return 2 * (a * b + b * c + a * c)


def wall_mm(given: HoodIn) -> float:
    """Thickness of the walls, mm, held to what a layer may be."""
    return min(max(given.wall_kg_m2 / WALLS[given.walls][0] * 1e3, 0.01), 2000.0)


def wall_stack(given: HoodIn) -> Stack:
    """The largest side of the box as a stack of one layer."""
    density, modulus, loss = WALLS[given.walls]
    layer = {"thickness_mm": wall_mm(given)}
    layer |= {"density_kg_m3": density, "youngs_modulus_gpa": modulus, "loss_factor": loss} if modulus else {
        "surface_mass_kg_m2": given.wall_kg_m2}
    return parse(Stack, {"width_m": max(given.length_m, given.width_m), "height_m": given.height_m,
                         "layers": [{"kind": "plate" if modulus else "limp", **layer}]})


def parse_hood(form: dict[str, object]) -> HoodIn:
    """A form of the desk as it was kept. Raises BadInput where it does not hold together (any more)."""
    return parse(HoodIn, form)


def box_loss_db(given: HoodIn, vent_m2: Floats) -> Floats:
    """Insertion loss of the box per band for vent areas (areas,): shape (areas, 21), dB, by the balance of ``let_out``; at most
    60 dB."""
    f, vents = np.array(PREDICTED_HZ), np.asarray(vent_m2)[:, None]
    area = box_area_m2(given)
    wall = 10 ** (-np.array(predict(wall_stack(given)).transmission_loss_db) / 10) * area
    duct = lined_duct_db(f[None, :], given.duct_m, np.sqrt(np.maximum(vents, 1e-4) / 2), given.lining_alpha)
    leaving = np.stack(np.broadcast_arrays(wall[None, :], vents * 10 ** (-duct / 10)), axis=1)
    close = np.zeros((2, len(f)))
    close[0] = close_fit_below(f, given.wall_kg_m2, given.gap_mm / 1e3, max(given.length_m, given.width_m, given.height_m))
    out = let_out(leaving, np.full((len(vents), len(f)), given.lining_alpha * area), close)
    return np.asarray(np.minimum(-10 * np.log10(np.sum(10 ** (out / 10), axis=1)), 60.0))


def box_gain_dba(loss_db: Floats) -> Floats:
    """What an insertion loss (areas, 21) takes off a noise of the same level in all bands, dB(A), shape (areas,)."""
    weight = energy(PREDICTED_A_DB)
    return np.asarray(10 * np.log10(weight.sum() / (weight * energy(-loss_db)).sum(axis=-1)))


LEAST_CM2 = 1.0
"""Vents under this are as good as none: the least that is drawn and that a fan is asked to blow through."""


def vent_choices(given: HoodIn, flow_m3_s: float, need_cm2: float) -> list[tuple[str, float]]:
    """Names and areas (cm²) of all vents: what the box has, and what suffices without a fan and with fans of three pressures."""
    fans = [(f"fan of {pa:g} Pa", 2e4 * fan_vent_m2(flow_m3_s, pa)) for pa in FANS_PA]
    return [("yours", max(given.vent_cm2, LEAST_CM2)), *([("no fan", need_cm2), *fans] if flow_m3_s > 0 else [])]


GRILLE_CM2 = 450.0
"""Free area of a weather grille of 300 × 300 mm: half of it, a judgement."""
PINS_PER_M2 = 6.0
"""Hangers that hold a lining to its wall, as the trade sets them."""


def goods_of_box(given: HoodIn) -> tuple[Wares, ...]:
    """What holds a box together, as it is usually made: battens in its edges, a door that lifts off, pins for its lining."""
    a, b, c = given.length_m, given.width_m, given.height_m
    pins = math.ceil(PINS_PER_M2 * (box_area_m2(given) - a * b)) if given.lining_alpha >= LINED_FROM else 0
    return (Wares(material="timber-batten", amount=round(4 * (a + b + c), 1)), Wares(material="lift-off-hinge", amount=2.0),
            Wares(material="toggle-latch", amount=2.0),
            *((Wares(material="lining-hanger", amount=float(pins)),) if pins else ()))


LINED_FROM = 0.3
"""Absorption inside from which there must be a lining."""


def fitted_with_it(given: HoodIn, flow_m3_s: float, need_cm2: float) -> tuple[Fitted, ...]:
    """The vents of the box, and the fan where they breathe too little without."""
    duct = f", each behind {of(given.duct_m, 'm')} of lined duct" if given.duct_m else ""
    grilles = Wares(material="vent-grille", amount=2.0 * math.ceil(given.vent_cm2 / 2 / GRILLE_CM2))
    vents = Fitted(name=f"Vents of {of(given.vent_cm2, 'cm²')} in all, low and high{duct}", goods=(grilles,))
    there = (vents,) if given.vent_cm2 else ()
    if given.vent_cm2 >= need_cm2:
        return there
    pressure = fan_pressure_pa(flow_m3_s, max(given.vent_cm2, LEAST_CM2) / 2e4)
    air = round(flow_m3_s * 3600)
    fan = Wares(material="inline-fan" if given.duct_m else "axial-fan", amount=1.0)
    return (*there, Fitted(name=f"Fan of {of(air, 'm³/h')} at {pressure:.0f} Pa", air_m3_h=air, goods=(fan,)))


def hood(given: HoodIn) -> Answer:
    """What a box gives, what heat it must let out, and how one trades against the other."""
    area = box_area_m2(given)
    through_walls = given.wall_u * area * given.rise_k
    flow = airflow_m3_s(max(given.heat_w - through_walls, 0.0), given.rise_k)
    need_cm2 = 2 * natural_vent_m2(flow, given.height_m * 0.8, given.rise_k) * 1e4
    choices = vent_choices(given, flow, need_cm2)
    areas = np.array([at for _, at in choices])
    x = np.geomspace(areas.min() / 2, areas.max() * 2, 41)
    losses = box_loss_db(given, np.concatenate([[given.vent_cm2, need_cm2], areas, x]) / 1e4)
    gain, with_need, *gains = box_gain_dba(losses).tolist()
    cautions = []
    if given.vent_cm2 < need_cm2:
        pressure = fan_pressure_pa(flow, max(given.vent_cm2, LEAST_CM2) / 2e4)
        cautions.append(f"{of(given.vent_cm2, 'cm²')} breathe too little without a fan: {of(need_cm2, 'cm²', '.0f')} are "
                        f"needed, or a fan of {of(flow * 3600, 'm³/h', '.0f')} at {pressure:.0f} Pa, quieter than what leaves "
                        "the vents.")
    cautions.append("Trips, alarms and the way to the switch stay reachable; a burning engine needs its exhaust outside.")
    heat = (f"{need_cm2:.0f} cm² of vents carry the heat off by themselves" if need_cm2 >= 1 else
            "its walls carry the heat off by themselves")
    return Answer(
        sentence=f"About {gain:.0f} dB(A) less of an even noise; {heat}.",
        figures=(figure("With these vents", gain, "dB(A) less", 1),
                 figure("With the vents it needs", with_need, "dB(A) less", 1),
                 figure("Heat through the walls", through_walls, "W", 0),
                 figure("Air it needs", flow * 3600, "m³/h", 0),
                 figure("Vents it needs without a fan", need_cm2, "cm²", 0),
                 figure("Thickness of the walls", wall_mm(given), "mm", 1)),
        lines=(band_line("Insertion loss", "dB", losses[0]), band_line("With the vents it needs", "dB", losses[1])),
        trade=Trade(
            label="Quieter by dB(A)", unit="dB(A)", x_label="the area of all vents", x_unit="cm²",
            x=tuple(round(float(v), 1) for v in x), values=tuple(round(g, 2) for g in gains[len(choices) :]),
            points=tuple(TradePoint(label=name, x=round(at, 1), value=round(g, 2), yours=i == 0)
                         for i, ((name, at), g) in enumerate(zip(choices, gains, strict=False))),
        ),
        cautions=tuple(cautions), effect_db=tuple(round(float(v), 2) for v in losses[0]),
        also=fitted_with_it(given, flow, need_cm2), goods=goods_of_box(given),
        working=Working(
            figure="a box round a machine",
            formula="IL = 10·lg(1 + A/Στ·S), held down by the close fit below the first mode; V̇ = Q/(ρ·c_p·ΔT); fan ζ·ρ/2·(V̇/A)²",
            inputs=inputs(area=of(area, "m²", ".2f"), walls=f"{given.walls}, {of(given.wall_kg_m2, 'kg/m²')}",
                          vents=of(given.vent_cm2, "cm²"), duct=of(given.duct_m, "m"), heat=f"{given.heat_w:g} W"),
            source="power balance of a diffuse field; walls after ISO 12354-1; Byrne et al. 1988 (close fit); "
            "buoyancy through two openings",
            accuracy="± 4 dB; ± 30 % on the vent", valid="walls tight but for the vents; above the first mode of the box",
        ),
    )
