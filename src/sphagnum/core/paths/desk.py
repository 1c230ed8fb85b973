"""The working desk: small calculations of the trade by name, each from a validated form to an answer with its working."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Literal, NamedTuple

import numpy as np
from pydantic import Field

from ..forms import Asked, asked
from ..levels.bands import PREDICTED_HZ
from ..schema import Strict, parse
from ..stacks.modes import DrumIn, drum
from ..stacks.openings import hole_transmission, slit_transmission
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
        sentence=f"{area * 1e4:.1f} cm² hold a panel of {given.panel_m2:g} m² to {ceiling.min():.0f} dB at worst, "
        "however good it is.",
        figures=(figure("Open area", area * 1e4, "cm²", 2),
                 figure("Ceiling by area alone", float(10 * np.log10(given.panel_m2 / area)), "dB", 1),
                 figure("Lowest ceiling", float(ceiling.min()), "dB", 1)),
        lines=(band_line("Ceiling of R", "dB", ceiling),),
        cautions=("Ordinary filler cracks again: elastic acoustic sealant keeps it closed.",),
        working=Working(
            figure="an opening of finite depth",
            formula="τ of a slit with end corrections; of a hole as a short pipe; R ≤ 10·lg(S/(τ·s))",
            inputs=inputs(opening=f"{given.width_mm:g} mm {given.shape}, {given.depth_mm:g} mm deep"),
            source="Gomperts and Kihlman 1967; Rayleigh's end corrections", accuracy="± 3 dB at its resonances",
            valid="width under a third of the wave",
        ),
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
