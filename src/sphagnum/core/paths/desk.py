"""The working desk: small calculations of the trade by name, each from a validated form to an answer with its working."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Literal, NamedTuple

import numpy as np
from pydantic import Field

from ..forms import Asked, asked
from ..levels.bands import PREDICTED_HZ
from ..materials.elements import SPEED_OF_SOUND
from ..schema import Strict, parse
from ..stacks.absorption import Lining, absorb, absorption_working
from ..stacks.modes import DrumIn, drum
from ..stacks.openings import hole_transmission, slit_transmission
from ..worded import in_mm, of
from ..working import Answer, Working, band_line, figure, inputs
from .enclosure import HoodIn, hood
from .isolators import PadsIn, pads
from .loudspeaker import DoorIn, door
from .outdoors import YardIn, yard
from .room import RoomIn, room


class CrackIn(Strict):
    """A slit or a hole in a panel."""

    shape: Literal["slit", "hole"] = Field(default="slit", title="Shape")
    width_mm: Asked = asked(2.0, "Width of the slit, or of the hole", "mm", ge=0.05, le=500)
    length_m: Asked = asked(3.0, "Length of the slit", "m", gt=0, le=100)
    depth_mm: Asked = asked(20.0, "Depth", "mm", ge=0.1, le=2000)
    panel_m2: Asked = asked(2.0, "Panel it is in", "m²", gt=0.01, le=1000)


def crack(given: CrackIn) -> Answer:
    """What a slit or hole lets through, and the ceiling it sets on the panel it is in."""
    f, w, d = np.array(PREDICTED_HZ), given.width_mm / 1e3, given.depth_mm / 1e3
    slit = given.shape == "slit"
    area = w * given.length_m if slit else np.pi * w**2 / 4
    tau = slit_transmission(f, w, d) if slit else hole_transmission(f, w / 2, d)
    ceiling = -10 * np.log10(np.minimum(tau * area / given.panel_m2, 1.0))
    return Answer(
        sentence=f"{of(area * 1e4, 'cm²', '.1f')} hold a panel of {of(given.panel_m2, 'm²')} to {ceiling.min():.0f} dB at worst, "
        "however good it is.",
        figures=(figure("Open area", area * 1e4, "cm²", 2),
                 figure("Ceiling by area alone", float(10 * np.log10(given.panel_m2 / area)), "dB", 1),
                 figure("Lowest ceiling", float(ceiling.min()), "dB", 1)),
        lines=(band_line("Ceiling of R", "dB", ceiling),),
        cautions=("Ordinary filler cracks again: elastic acoustic sealant keeps it closed.",),
        working=Working(
            figure="an opening of finite depth",
            formula="τ of a slit with end corrections; of a hole as a short pipe; R ≤ 10·lg(S/(τ·s))",
            inputs=inputs(opening=f"{in_mm(given.width_mm)} {given.shape}, {in_mm(given.depth_mm)} deep"),
            source="Gomperts and Kihlman 1967; Rayleigh's end corrections", accuracy="± 3 dB at its resonances",
            valid="width under a third of the wave",
        ),
    )


class LiningIn(Strict):
    """An open layer before a wall, with what covers it and the gap behind it."""

    thickness_mm: Asked = asked(50.0, "Open layer", "mm", ge=0.5, le=1000)
    flow_resistivity_pa_s_m2: Asked = asked(12000.0, "Its flow resistivity", "Pa·s/m²", ge=100, le=1e6)
    gap_mm: Asked = asked(0.0, "Air gap behind it", "mm", ge=0, le=1000)
    film_kg_m2: Asked = asked(0.0, "Film or foil over it (0: none)", "kg/m²", ge=0, le=20)
    open_share: Asked = asked(1.0, "Perforated cover, open share (1: none)", "0–1", gt=0, le=1)
    hole_mm: Asked = asked(5.0, "Its holes", "mm", ge=0.1, le=100)


def lining(given: LiningIn) -> Answer:
    """What an open layer takes up per band, and from where on."""
    layers: list[dict[str, Any]] = []
    if given.open_share < 1:
        layers.append({"kind": "perforated", "thickness_mm": 1.5, "hole_mm": given.hole_mm, "open_share": given.open_share})
    if given.film_kg_m2:
        layers.append({"kind": "limp", "thickness_mm": 0.1, "surface_mass_kg_m2": max(given.film_kg_m2, 0.01)})
    layers.append({"kind": "porous", "thickness_mm": given.thickness_mm,
                   "flow_resistivity_pa_s_m2": given.flow_resistivity_pa_s_m2})
    if given.gap_mm:
        layers.append({"kind": "air", "thickness_mm": max(given.gap_mm, 0.01)})
    found = absorb(parse(Lining, {"layers": layers}))
    works = [f for f, a in zip(found.frequency_hz, found.alpha_diffuse, strict=True) if a >= 0.5]
    span = f"takes up half and more from {works[0]:g} to {works[-1]:g} Hz" if works else "takes up half in no band"
    quarter = SPEED_OF_SOUND / 4 / ((given.thickness_mm + given.gap_mm) / 1e3)
    return Answer(
        sentence=f"NRC {found.NRC:.2f}, αw {found.alpha_w:.2f}: it {span}.",
        figures=(figure("NRC", found.NRC, "", 2), figure("SAA", found.SAA, "", 2), figure("αw", found.alpha_w, "", 2),
                 figure("A quarter wave fits from", quarter, "Hz", 0)),
        lines=(band_line("Diffuse sound taken up", "of 1", found.alpha_diffuse),),
        cautions=("It takes up what builds up on its own side; it does not block.",),
        working=absorption_working(found),
    )


class Calculation(NamedTuple):
    """One of the desk's calculations."""

    title: str
    about: str
    form: type[Strict]
    answer: Callable[[Any], Answer]


DESK: dict[str, Calculation] = {
    "door": Calculation("Loudspeaker in a panel", "What closing the opening round it gives", DoorIn, door),
    "crack": Calculation("Slit or hole", "The ceiling a leak sets", CrackIn, crack),
    "hood": Calculation("Box round a machine", "What it gives, the heat it must let out", HoodIn, hood),
    "pads": Calculation("Machine on pads", "What passes into the floor", PadsIn, pads),
    "yard": Calculation("Out to a neighbour", "Distance, wall, screen, ground", YardIn, yard),
    "room": Calculation("Lining a room or cabin", "What absorption takes off", RoomIn, room),
    "lining": Calculation("Absorber before a wall", "What it takes up, with film, cover, gap", LiningIn, lining),
    "drum": Calculation("Drum note of a panel", "Modes and ring with what is laid on it", DrumIn, drum),
}


class DeskField(Strict):
    """One input of a calculation as a form shows it."""

    name: str
    title: str
    unit: str
    value: float | str | bool | None
    choices: tuple[str, ...] = ()


class DeskEntry(Strict):
    """A calculation and its form."""

    id: str
    title: str
    about: str
    fields: tuple[DeskField, ...]


def entries() -> tuple[DeskEntry, ...]:
    """All calculations with their forms, filled with usual values."""
    return tuple(DeskEntry(id=name, title=c.title, about=c.about, fields=tuple(_fields(c.form))) for name, c in DESK.items())


def _fields(form: type[Strict]) -> list[DeskField]:
    out = []
    for name, field in form.model_fields.items():
        extra = field.json_schema_extra if isinstance(field.json_schema_extra, dict) else {}
        choices = getattr(field.annotation, "__args__", ()) if getattr(field.annotation, "__origin__", None) is Literal else ()
        out.append(DeskField(name=name, title=field.title or name, unit=str(extra.get("unit", "")), value=field.default,
                             choices=tuple(str(c) for c in choices)))
    return out


def work_out(name: str, given: dict[str, Any]) -> Answer:
    """The answer of a calculation. KeyError for an unknown one, BadInput for a form that does not fit."""
    calculation = DESK[name]
    return calculation.answer(parse(calculation.form, given))
