"""What a prediction says beside its curve: resonances, and warnings where a model or a stack has its limits."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..levels.bands import PREDICTED_HZ, Floats
from ..materials.family import Layer
from ..materials.table import family
from ..schema import Strict
from ..worded import of
from . import single_leaf
from .model import Stack
from .transmission import Result, compliance_of


class Note(Strict):
    """Something the reader of a result should know; ``rule`` is its stable name."""

    rule: str
    severity: str
    text: str


class Resonances(Strict):
    """Critical frequency of each leaf (None for a limp one) and mass–air–mass frequency of each cavity, Hz."""

    critical_hz: tuple[float | None, ...]
    mass_air_mass_hz: tuple[float, ...]


def resonances(result: Result) -> list[Resonances]:
    """Critical frequencies per leaf and, between neighbouring masses, √(s″(1/m₁ + 1/m₂))/2π per cavity, of every stack."""
    critical: list[list[float] | None] = []
    for heavy in (result.heavy[i] for i, group in enumerate(result.plan.groups) if group.mass):
        leaf = heavy.leaf
        if leaf is None:
            critical.append(None)
        else:
            middle = leaf.stiffness.real[:, leaf.stiffness.shape[1] // 2]
            critical.append(_rounded(single_leaf.critical_hz(leaf.mass[:, 0], middle)))
    return [
        Resonances.model_construct(critical_hz=tuple(None if c is None else c[k] for c in critical), mass_air_mass_hz=tuple(of))
        for k, of in enumerate(cavities_hz(result).tolist())
    ]


def cavities_hz(result: Result) -> Floats:
    """The mass–spring–mass resonance of each cavity of every stack, Hz to 0.01, (stacks, cavities)."""
    out: list[Floats] = []
    before: Floats | None = None
    compliance: Floats | float = 0.0
    for i, group in enumerate(result.plan.groups):
        if not group.mass:
            compliance = compliance + compliance_of(result.layers[group.places[0]])
            continue
        mass = result.heavy[i].mass
        if before is not None:
            out.append(np.sqrt((1 / mass + 1 / before) / compliance)[:, 0] / (2 * np.pi))
        before, compliance = mass, 0.0
    return np.round(np.array(out).T.reshape(len(result.tau), len(out)), 2)


def _rounded(values: Floats) -> list[float]:
    return [float(x) for x in np.round(values, 2).tolist()]


def notes(stack: Stack, result: Result, found: Resonances, index: int) -> Iterator[Note]:
    """Warnings of one stack, in a fixed order."""
    if result.first_mode_hz is not None and (first := float(result.first_mode_hz[index, 0])) > PREDICTED_HZ[0]:
        yield _note("below-first-mode", "info", f"Bands below the panel's first mode ({first:.0f} Hz) are outside the model.")
    for layer in stack.layers:
        if isinstance(layer, Layer):
            yield from (_note(*remark) for remark in family(layer.kind).remarks(layer))
    groups = result.plan.groups
    if len(groups) > 1 and len(result.heavy) == 1:
        yield _note("lining-estimate", "info", "A lining on one leaf: compared with no published wall, so ± 4 dB.")
    if len(found.mass_air_mass_hz) > 1:
        yield _note("third-leaf", "warn", "Two cavities make two resonances: below the higher one this can let more through "
                      "than two leaves of the same mass and depth.")
    if stack.leak_cm2 >= 0.01:
        ceiling = -10 * np.log10(stack.leak_cm2 / 1e4 / (stack.width_m * stack.height_m))
        yield _note("leak-ceiling", "info", f"The leak of {of(stack.leak_cm2, 'cm²')} alone holds R at or below "
                      f"{ceiling:.0f} dB, wherever it lets sound through whole.")
    if any(result.heavy[i].leaf is None for pair in result.plan.tied for i in pair):
        yield _note("limp-frame", "info", "A limp layer gives way between its fixings: the frame is taken to carry nothing "
                      "to it.")
    if any(frame.kind == "point-fixings" and frame.isolated for frame in stack.ties):
        yield _note("pad-assumed", "info", "Isolated fixings are taken as 5 µm/N each; a maker's own figure may differ.")
    if stack.temperature_c != 20 and any(isinstance(x, Layer) and family(x.kind).acts == "damping" for x in stack.layers):
        yield _note("temperature", "warn", "Damping layers are taken with their properties at 20 °C unless the shelf says how "
                      "they move with temperature.")


def _note(rule: str, severity: str, text: str) -> Note:
    return Note.model_construct(rule=rule, severity=severity, text=text)
