"""What a sample's own stack is predicted to keep back at this size, beside what was read; and what a job's sound makes of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from ..builds.model import Sheet
from ..errors import BadInput
from ..levels.bands import PREDICTED_HZ, Floats
from ..materials.family import Layer
from ..materials.model import Material, kg_per_m2, known_material, screwed, to_layers
from ..schema import Strict, parse
from ..stacks.model import Stack
from ..stacks.predict import predict
from ..worded import of
from ..words import plain
from .model import octaves_apart
from .told import over_all


class Predicted(Strict):
    """The prediction for a sample: per band of the series, over all of them, and how sure, dB; ``finding`` where what was read
    lies beyond both uncertainties."""

    level_db: tuple[float, ...]
    all: float
    within_db: float
    finding: str = ""


def layers_of(sheets: Sequence[Sheet], materials: Mapping[str, Material]) -> tuple[Layer, ...]:
    """The layers of a sample, from the source's side; boards that touch are screwed."""
    out: list[Layer] = []
    for i, s in enumerate(sheets):
        out += to_layers(known_material(s.material, materials, f"layers[{i}].material"), s.thickness_mm)
    return screwed(out)


def mass_of(sheets: Sequence[Sheet], materials: Mapping[str, Material]) -> float | None:
    """What a sample weighs, kg/m²; None without layers."""
    if not sheets or any(s.material not in materials for s in sheets):
        return None
    return round(sum(kg_per_m2(materials[s.material], s.thickness_mm) for s in sheets), 2)


def predicted(
    sheets: Sequence[Sheet], bands_hz: Sequence[float], opening_m2: float, materials: Mapping[str, Material],
    read: tuple[float, tuple[float, float]] | None
) -> Predicted | None:
    """None where there is nothing to predict, or no model covers it. ``read``: what the series gives over all bands, and its
    interval."""
    if not sheets:
        return None
    side = opening_m2**0.5
    try:
        found = predict(parse(Stack, {"width_m": side, "height_m": side, "layers": layers_of(sheets, materials),
                                      "surround": "fitted"}, "layers"))
    except BadInput:
        return None
    levels = _in_bands(np.array(found.transmission_loss_db), bands_hz)
    whole, half = float(over_all(levels, np.isfinite(levels))), float(found.expected_error_db)
    said = ""
    if read is not None:
        apart, both = read[0] - whole, float(np.hypot(half, (read[1][1] - read[1][0]) / 2))
        if abs(apart) > both:
            said = (f"{plain(abs(apart))} dB {'more' if apart > 0 else 'less'} than predicted, beyond both uncertainties "
                    f"({plain(both)} dB): look at its edge, its glue, and its properties on the shelf.")
    return Predicted(level_db=tuple(round(float(x), 1) for x in levels), all=round(whole, 1), within_db=half, finding=said)


def _in_bands(loss_db: Floats, bands_hz: Sequence[float]) -> Floats:
    """A curve of thirds at other bands: octaves as the mean of their energies where those are an octave apart."""
    hz, tau = np.log2(np.array(PREDICTED_HZ)), 10 ** (-loss_db / 10)
    offsets = (-1 / 3, 0.0, 1 / 3) if octaves_apart(bands_hz) else (0.0,)
    rows = [np.interp(np.log2(bands_hz) + x, hz, np.log(tau)) for x in offsets]
    return np.asarray(-10 * np.log10(np.mean(np.exp(rows), axis=0)))


def by_spectrum_db(difference_db: Sequence[float | None], bands_hz: Sequence[float], spectrum_db: Floats) -> float | None:
    """By how much a sample lowers a source of that spectrum (21 thirds), A-weighted by the caller, over the bands that were
    read; None where none was."""
    known = np.array([d is not None for d in difference_db])
    if not known.any():
        return None
    hz = np.log2(np.array(PREDICTED_HZ))
    level = np.interp(np.log2(bands_hz), hz, spectrum_db)[known]
    less = np.array([d for d in difference_db if d is not None])
    return round(float(10 * np.log10((10 ** (level / 10)).sum() / (10 ** ((level - less) / 10)).sum())), 1)


def dose_words(opening_m2: float, ml: float, on_m2: float, stroke_mm: float | None) -> str:
    """How much of a cartridge goes on a sample the size of the opening, where the whole goes on so many square metres."""
    share = opening_m2 / on_m2
    stroke = "" if stroke_mm is None else f", {of(share * stroke_mm, 'mm', '.0f')} of its stroke"
    return f"{100 * share:.1f} % of it: {share * ml:.0f} ml{stroke}."
