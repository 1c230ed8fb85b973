"""Properties measured in the shop with a ring, a weight, a flow of air or a scale, each with its interval, for the Shelf."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from typing import Annotated, Any, Final, Literal, NamedTuple

import numpy as np
from pydantic import Field

from ..errors import BadInput
from ..levels.bands import PREDICTED_HZ
from ..levels.statistics import student_t
from ..materials.model import Material, known_material, to_layers
from ..schema import Strict, parse
from ..stacks.model import Stack
from ..stacks.predict import predict
from ..worded import of
from ..words import plain, plural
from ..working import Working, WorkingInput

Given = Annotated[float, Field(gt=0, le=1e7, strict=True, allow_inf_nan=False)]
Readings = Annotated[tuple[Given, ...], Field(min_length=1, max_length=40)]
RING = 2.2
"""η = 2.2/(f·T): what loses so much rings so long (ISO 10848-1)."""
P0_PA = 101_325.0
AT_M_S = 0.0005
"""Flow resistance is told at 0.5 mm/s (ISO 9053-1)."""
MOST_MS = 0.05
AIR_KPA_S_M2 = (10.0, 100.0)
"""Lateral flow resistivity between which the air in a sample adds to its stiffness; above it does alone what it does (ISO
9052-1:1989, 8.2)."""
FAR = 4.0
"""A value so many times what the shelf has, or so little of it, is more often a slip than a find."""
ONE_READING: Final = 0.1
"""Share that stands in for the scatter of what was read once: a judgement."""


class LossIn(Strict):
    """A panel of the shop rung bare and with a damping sheet all over it: ring times to 60 dB at one frequency."""

    kind: Literal["loss"]
    material: str
    thickness_mm: Given
    panel: str
    panel_mm: Given
    hz: Annotated[float, Field(ge=50, le=5000, strict=True, allow_inf_nan=False)]
    bare_s: Readings
    damped_s: Readings


class StiffnessIn(Strict):
    """A sample under a mass on a heavy floor, as it rings: the frequency it swings at, and what kind of sample it is."""

    kind: Literal["stiffness"]
    material: str
    thickness_mm: Given
    mass_kg: Given
    width_mm: Given
    length_mm: Given
    hz: Readings
    flow_kpa_s_m2: Given | None = None


class ResistivityIn(Strict):
    """Air through a sample: flows and the pressure over it at each."""

    kind: Literal["resistivity"]
    material: str
    thickness_mm: Given
    area_cm2: Given
    flow_l_min: Readings
    pressure_pa: Readings


class DensityIn(Strict):
    """A piece on the scale."""

    kind: Literal["density"]
    material: str
    thickness_mm: Given
    width_mm: Given
    length_mm: Given
    kg: Readings


Own = Annotated[LossIn | StiffnessIn | ResistivityIn | DensityIn, Field(discriminator="kind")]


class Measured(Strict):
    """A property as it was measured: its name on the Shelf, value and 95 % interval in the unit it is kept in, in words."""

    property: str
    value: float
    interval95: tuple[float, float]
    unit: str
    sentence: str
    reference: str
    """What the Shelf keeps as where the value is from."""
    notes: tuple[str, ...] = ()
    working: Working


class _Told(NamedTuple):
    """A property's value, half of its 95 % interval, and what is to be said with it."""

    value: float
    half: float
    notes: tuple[str, ...] = ()


def measured(given: LossIn | StiffnessIn | ResistivityIn | DensityIn, materials: Mapping[str, Material], on: str) -> Measured:
    """A property of a material of the shelf. BadInput for readings no material gives, and for a family that has no such
    property."""
    material = known_material(given.material, materials, "material")
    kind = KINDS[given.kind]
    families = kind.offered.families
    if material.family not in families:
        raise BadInput(f"{material.name} has no {kind.words}", "material", f"choose a {' or '.join(families)} material")
    told = kind.work(given, materials)
    low, high = max(told.value - told.half, 0.0), told.value + told.half
    count = max(len(v) for v in given.model_dump().values() if isinstance(v, tuple))
    digits = max(0, 2 - math.floor(math.log10(told.value)))

    known = getattr(material.properties, kind.property)

    def shown(x: float) -> str:
        return plain(x, digits)
    notes = told.notes
    has = "" if known is None else of(shown(known), kind.unit).strip()
    if known is not None and not 1 / FAR < told.value / known < FAR:
        notes = (*notes, f"That is far from the {has} of the shelf: look at the units of what was typed.")
    span = f"{shown(told.value)} ± {shown(told.half)} {kind.unit}".strip()
    beside = f" The shelf has {has}." if has else ""
    told_in = of(f"{shown(told.value)} ± {shown(told.half)}", kind.unit).strip()
    return Measured(property=kind.property, value=_rounded(told.value), interval95=(_rounded(low), _rounded(high)),
                    unit=kind.unit, sentence=f"{kind.words[0].upper()}{kind.words[1:]} of {material.name}: {told_in}.{beside}",
                    reference=f"measured in the shop on {on}, {plural(count, 'reading')}: {span}",
                    notes=notes, working=kind.working.model_copy(update={"inputs": _read(given, kind.offered.asks)}))


def _rounded(value: float) -> float:
    return float(f"{value:.4g}")


def _mean(values: Sequence[float]) -> tuple[float, float]:
    """Mean and standard uncertainty of it times the factor of 95 %: half of its interval."""
    mean = float(np.mean(values))
    if len(values) < 2:
        return mean, 2 * ONE_READING * mean
    return mean, float(np.std(values, ddof=1)) / math.sqrt(len(values)) * student_t(len(values) - 1)


def _loss(given: LossIn, materials: Mapping[str, Material]) -> _Told:
    (bare, bare_half), (damped, damped_half) = _mean(given.bare_s), _mean(given.damped_s)
    before, after = RING / (given.hz * bare), RING / (given.hz * damped)
    half = math.hypot(before * bare_half / bare, after * damped_half / damped)
    added = after - before
    if added <= 0:
        raise BadInput("the damped panel rings no shorter than the bare one", "damped_s",
                       "hang both by two threads, and knock alike")
    band = int(np.argmin(np.abs(np.log2(np.array(PREDICTED_HZ) / given.hz))))
    bare_model = composite_loss(given, materials, None, band)

    def gives(loss: float) -> float:
        return composite_loss(given, materials, loss, band) - bare_model
    # of a soft layer what both lose rises with its own loss, of a stiff faced one it falls again: the first rise counts
    tried = np.geomspace(0.005, 2.0, 24)
    curve = np.array([gives(x) for x in tried])
    top = int(np.argmax(curve))
    if added > curve[top]:
        raise BadInput(f"together they lose {added:.3f} more than the panel alone, and no loss of this sheet at the modulus the "
                       f"shelf has for it gives more than {curve[top]:.3f}", "damped_s",
                       "look at its modulus and thickness on the shelf, or at how it was laid")

    def of(x: float) -> float:
        return float(np.interp(min(max(x, curve[0]), curve[top]), curve[:top + 1], tried[:top + 1]))
    value = of(added)
    notes = (f"The panel alone loses {before:.4f}, both together {after:.4f} at {given.hz:g} Hz.",)
    return _Told(value, max(of(added + half) - value, value - of(added - half)), notes)


def composite_loss(given: LossIn, materials: Mapping[str, Material], loss: float | None, band: int) -> float:
    """What panel and sheet lose together in the model, free at the edges, in a band by its place; ``loss`` None: the panel
    alone."""
    layers = list(to_layers(known_material(given.panel, materials, "panel"), given.panel_mm))
    if loss is not None:
        made = to_layers(known_material(given.material, materials, "material"), given.thickness_mm)
        layers += [x.model_copy(update={"loss_factor": loss}) for x in made]
    found = predict(parse(Stack, {"width_m": 0.5, "height_m": 0.5, "layers": layers, "surround": "none", "edge_losses": False},
                          "layers"))
    if found.loss_factor is None:
        raise BadInput("this panel does not ring", "panel", "choose a plate")
    return found.loss_factor[band]


def _stiffness(given: StiffnessIn, _materials: Mapping[str, Material]) -> _Told:
    hz, half_hz = _mean(given.hz)
    load = given.mass_kg / (given.width_mm * given.length_mm / 1e6)
    apparent = 4 * math.pi**2 * load * hz**2 / 1e6  # MN/m³
    air = P0_PA / (given.thickness_mm / 1e3 * 0.9) / 1e6
    notes: list[str] = [f"{of(load, 'kg/m²', '.0f')} swing on it at {hz:.1f} Hz: {apparent:.1f} MN/m³."]
    stiffness = apparent
    if given.flow_kpa_s_m2 is not None and AIR_KPA_S_M2[0] <= given.flow_kpa_s_m2 < AIR_KPA_S_M2[1]:
        stiffness += air
        notes.append(f"The air in it adds {air:.1f} MN/m³ where it cannot get out sideways.")
    elif given.flow_kpa_s_m2 is not None and given.flow_kpa_s_m2 < AIR_KPA_S_M2[0]:
        notes.append("So open, its air gets out at the sides of a sample and not of a floor: the true value may be higher.")
    if not 100 <= load <= 400:
        notes.append(f"A load near {of(200, 'kg/m²', 'g')} is usual; under another a soft layer is stiffer or softer.")
    modulus = stiffness * given.thickness_mm / 1e3  # MN/m³ · m
    return _Told(modulus, modulus * 2 * half_hz / hz, tuple(notes))


def _resistivity(given: ResistivityIn, _materials: Mapping[str, Material]) -> _Told:
    if len(given.flow_l_min) != len(given.pressure_pa):
        raise BadInput(f"{len(given.flow_l_min)} flows and {len(given.pressure_pa)} pressures", "pressure_pa",
                       "give one to each flow")
    speed = np.array(given.flow_l_min) / 6e4 / (given.area_cm2 / 1e4)
    each = np.array(given.pressure_pa) / speed / (given.thickness_mm / 1e3)
    notes = []
    if speed.min() > MOST_MS:
        notes.append(f"The slowest flow is {1e3 * speed.min():.0f} mm/s: slower ones tell what sound meets.")
    if len(each) >= 3 and np.ptp(speed) > 0.2 * speed.max():
        fitted, covered = np.polyfit(speed, each, 1, cov="unscaled")
        left = each - np.polyval(fitted, speed)
        scatter = math.sqrt(float((left**2).sum()) / (len(each) - 2))
        value = float(np.polyval(fitted, AT_M_S))
        at = np.array([AT_M_S, 1.0])
        half = scatter * math.sqrt(float(at @ covered @ at)) * student_t(len(each) - 2)
        notes.append("Drawn back to 0.5 mm/s along a line.")
    else:
        value, half = _mean(each.tolist())
    if value <= 0:
        raise BadInput("the pressures fall as the flow rises", "pressure_pa", "type flow and pressure in the same order")
    return _Told(value, half, tuple(notes))


def _density(given: DensityIn, _materials: Mapping[str, Material]) -> _Told:
    kg, half = _mean(given.kg)
    area = given.width_mm * given.length_mm / 1e6
    density = kg / area / (given.thickness_mm / 1e3)
    # a tape is read to a millimetre, a caliper to a tenth
    sides = math.hypot(1 / given.width_mm, 1 / given.length_mm, 0.1 / given.thickness_mm)
    return _Told(density, density * math.hypot(half / kg if len(given.kg) > 1 else 0.01, sides),
                 (f"{of(kg / area, 'kg/m²', '.2f')}.",))


class Asked(Strict):
    """A reading a procedure asks for: its field, label and unit; whether it is read more than once, or may be left out."""

    key: str
    label: str
    unit: str = ""
    many: bool = False
    free: bool = False


class Procedure(Strict):
    """A small procedure as a page offers it: its kind, name and how it is done, of which families, and what it asks for. ``on``:
    what is chosen beside the material, and its families."""

    kind: str
    name: str
    how: str
    families: tuple[str, ...]
    asks: tuple[Asked, ...]
    on: tuple[tuple[str, str, tuple[str, ...]], ...] = ()


class _Kind(NamedTuple):
    """A procedure: the property it tells in which unit and words, how it is worked out, and as it is offered and shown."""

    property: str
    unit: str
    words: str
    work: Callable[[Any, Mapping[str, Material]], _Told]
    offered: Procedure
    working: Working


def _working(figure: str, formula: str, source: str, accuracy: str, valid: str) -> Working:
    return Working(figure=figure, formula=formula, inputs=(), source=source, accuracy=accuracy, valid=valid)


_THICK = Asked(key="thickness_mm", label="Thickness", unit="mm")
_SIDES = (Asked(key="width_mm", label="Width", unit="mm"), Asked(key="length_mm", label="Length", unit="mm"))
KINDS: Final[dict[str, _Kind]] = {
    "density": _Kind("density_kg_m3", "kg/m³", "density", _density, Procedure(
        kind="density", name="Weight, by a scale", how="Cut a square piece, dry, and lay it on the scale a few times.",
        families=("plate", "damping", "limp", "foam", "porous"),
        asks=(_THICK, *_SIDES, Asked(key="kg", label="Readings of the scale", unit="kg", many=True))), _working(
        "density", "ρ = m/(a·b·d)", "by its definition",
        f"{of(1, 'mm')} of the tape, {of(0.1, 'mm')} of the caliper, the scale's scatter", "dry")),
    "loss": _Kind("loss_factor", "", "loss factor", _loss, Procedure(
        kind="loss", name="Loss of a damping sheet, by its ring", families=("damping",), on=(("panel", "Panel", ("plate",)),),
        how="Hang a panel by two threads, knock it bare and with the sheet all over it; type how long each rings to 60 dB.",
        asks=(Asked(key="thickness_mm", label="Thickness of the sheet", unit="mm"),
              Asked(key="panel_mm", label="Thickness of the panel", unit="mm"), Asked(key="hz", label="Frequency", unit="Hz"),
              Asked(key="bare_s", label="Bare, ring times", unit="s", many=True),
              Asked(key="damped_s", label="Damped, ring times", unit="s", many=True))), _working(
        "loss factor of a damping sheet", "η = 2.2/(f·T) bare and damped; the sheet's own is what gives their difference in the "
        "model of the two together", "ISO 10848-1 (recalled); Ross, Ungar and Kerwin 1959", "the scatter of the rings; the "
        "sheet's modulus as the shelf has it", "free edges, the sheet all over, near 20 °C")),
    "stiffness": _Kind("youngs_dynamic_mpa", "MPa", "dynamic modulus", _stiffness, Procedure(
        kind="stiffness", name="Stiffness of a decoupler, by a mass on it", families=("foam",),
        how=f"Lay the sample on a heavy floor, a mass of about {of(200, 'kg/m²')} on it, knock, and type what it swings at.",
        asks=(Asked(key="thickness_mm", label="Thickness under the mass", unit="mm"), *_SIDES,
              Asked(key="mass_kg", label="Mass on it", unit="kg"), Asked(key="hz", label="It swings at", unit="Hz", many=True),
              Asked(key="flow_kpa_s_m2", label="Flow resistivity of an open one", unit="kPa·s/m²", free=True))), _working(
        "dynamic modulus of a decoupler", "s′ = 4π²·m′·f²; with its air 0.101/(0.9·d) MN/m³ from 10 to 100 kPa·s/m²; E = s′·d",
        "ISO 9052-1:1989 (recalled)", "the scatter of the readings", f"small swings, about {of(200, 'kg/m²')} on it")),
    "resistivity": _Kind("flow_resistivity_pa_s_m2", "Pa·s/m²", "flow resistivity", _resistivity, Procedure(
        kind="resistivity", name="Flow resistivity, by a pressure drop", families=("porous",),
        how="Press the sample into a tube without a gap at its edge, draw air through slowly, and type flow and pressure.",
        asks=(_THICK, Asked(key="area_cm2", label="Area of the tube", unit="cm²"),
              Asked(key="flow_l_min", label="Flows", unit="l/min", many=True),
              Asked(key="pressure_pa", label="Pressures at them", unit="Pa", many=True))), _working(
        "flow resistivity", "σ = Δp·A/(q·d), drawn back to 0.5 mm/s", "ISO 9053-1:2018 (recalled)", "the scatter of the readings",
        "no air past its edge")),
}
PROCEDURES: Final = tuple(k.offered for k in KINDS.values())


def _read(given: Strict, asks: Sequence[Asked]) -> tuple[WorkingInput, ...]:
    """What was read, as its working shows it."""
    def value(read: Any) -> str:
        return ", ".join(f"{x:g}" for x in read) if isinstance(read, tuple) else f"{read:g}"
    return tuple(WorkingInput(name=a.label.lower(), value=of(value(read), a.unit)) for a in asks
                 if (read := getattr(given, a.key)) is not None)
