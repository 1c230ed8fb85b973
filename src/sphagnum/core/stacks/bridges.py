"""Solid links between two leaves: studs, channels, point fixings, and what surrounds a partition.

A link moves both leaves at a line or a point; the far leaf radiates from there. Line and point impedances and radiation are
those of Cremer and Heckl, the scheme Sharp's (1978) with the compliance of the link as in Davy's (2010). At low frequencies
the same links are springs between the leaves, beside the air's.

What is fitted stands in ``materials/fitted.py``.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from ..levels.bands import Floats
from ..materials import fitted
from ..materials.elements import AIR_DENSITY, SPEED_OF_SOUND, Complexes
from .columns import FrameMake, frame_column
from .leaf import Leaf
from .model import Stack
from .single_leaf import FreeWaves

PAD_COMPLIANCE = 5e-6
"""Compliance of one isolated point fixing (rubber or clip), m/N; assumed, makers give their own."""
FITTED_SHARE = 0.06
"""Share of a line link round the edge that hands leave in a van, a hood, a ceiling: judged, not refitted."""


LABORATORY_FROM_HZ = 100.0
"""Below, a laboratory's own flanking is taken as it is there: no published rating goes lower."""


def stud_compliance(kind: str) -> float:
    """Compliance of a stud per metre of it, m²/N. Channels stand straight on a leaf, battens are taken as wood studs."""
    at = fitted.VALUES
    return {"light-steel-studs": at.steel_compliance, "channels": at.channel_compliance}.get(kind, 0.0)


def laboratory(frequency_hz: Floats) -> Floats:
    """Transmission coefficient of a laboratory's own flanking, whatever stands in its opening (fitted)."""
    at, octaves = fitted.VALUES, np.log2(np.maximum(frequency_hz, LABORATORY_FROM_HZ) / 1e3)
    return np.asarray(10 ** (-(at.laboratory_db + at.laboratory_slope_db * octaves) / 10))


class Linked(NamedTuple):
    """A leaf as a link meets it; ``gain`` is what its free waves add to the energy that passes."""

    mass: Floats  # kg/m², (stacks, 1)
    critical: Floats  # Hz, (stacks, frequencies)
    gain: Floats


def linked(leaf: Leaf, free: FreeWaves) -> Linked:
    """A leaf with its resonant gain: free over forced velocity squared of ISO 12354-1, B.1, by their radiation."""
    gain = 1 + fitted.VALUES.resonant_share * free.part / (2 * np.maximum(free.sigma, 1e-6))
    return Linked(leaf.mass, free.critical, gain)


SURROUND_CRITICAL_HZ = 2500.0
"""Critical frequency that stands for the edges of leaves and linings held in a surround, whatever they are made of."""


def by_mass(mass: Floats, frequency_hz: Floats) -> Linked:
    """An outer leaf as the surround meets it: by its mass alone, so that a limp sheet and a plate are held alike."""
    return Linked(mass, SURROUND_CRITICAL_HZ + 0 * frequency_hz, np.ones_like(frequency_hz))


def line_links(a: Linked, b: Linked, spacing_m: Floats, compliance: Floats | float, frequency_hz: Floats) -> Floats:
    """Transmission coefficient by parallel lines ``spacing_m`` apart of a compliance per length (m²/N).

    A line driven at v radiates (2/π)·ρc·λ_c·v² per length; the leaf's line impedance is 2(1+j)·m′·c_B, c_B = c₀·√(f/f_c).
    """
    omega = 2 * np.pi * frequency_hz
    near, far = (2 * (1 + 1j) * x.mass * SPEED_OF_SOUND * np.sqrt(frequency_hz / x.critical) for x in (a, b))
    # share of each leaf that moves with its lines: lines that crowd are one leaf, so at most all of it
    shares = [np.minimum(2 * SPEED_OF_SOUND / (np.pi * x.critical * spacing_m), 1.0) for x in (a, b)]
    held = np.abs(near + far + 1j * omega * compliance * near * far) ** 2
    carried = 4 * np.pi * SPEED_OF_SOUND * frequency_hz * spacing_m / held
    free = 8 * (AIR_DENSITY * SPEED_OF_SOUND / omega) ** 2 * shares[0] * shares[1]
    return np.asarray(free * carried * a.gain * b.gain)


def point_links(a: Linked, b: Linked, per_m2: Floats, compliance: Floats | float, frequency_hz: Floats) -> Floats:
    """Transmission coefficient by ``per_m2`` points of a compliance each (m/N).

    A point driven at v radiates (8/π³)·ρc·λ_c²·v²; the leaf's point impedance is 8·√(m′·D) = 8·m′·c₀²/(2π·f_c).
    """
    omega = 2 * np.pi * frequency_hz
    near, far = (8 * x.mass * SPEED_OF_SOUND**2 / (2 * np.pi * x.critical) for x in (a, b))
    ratio = np.abs(1 / (1 + far / near + 1j * omega * compliance * far)) ** 2
    free = 64 * AIR_DENSITY**2 * SPEED_OF_SOUND**4 * per_m2 / (np.pi**3 * b.critical**2 * omega**2 * a.mass**2)
    return np.asarray(free * ratio * a.gain * b.gain)


def frame_links(
    stacks: Sequence[Stack], k: int, made: FrameMake, a: Linked, b: Linked, frequency_hz: Floats, height_m: Floats
) -> Floats:
    """Transmission coefficient by the k-th frame of stacks of one make-up, shape (stacks, frequencies)."""
    if made.kind == "double-wood-studs":
        return np.zeros_like(a.gain)
    spacing = frame_column(stacks, k, "spacing_mm")
    if made.kind == "point-fixings":
        return point_links(a, b, 1 / spacing**2, PAD_COMPLIANCE if made.isolated else 0.0, frequency_hz)
    if made.kind == "staggered-wood-studs":
        share = 0.0 if made.channels else fitted.VALUES.plate_share
        return share * line_links(a, b, height_m / 2, 0.0, frequency_hz)
    if made.channels:
        spacing = frame_column(stacks, k, "resilient_channel_spacing_mm")
        return line_links(a, b, spacing, fitted.VALUES.channel_compliance, frequency_hz)
    return line_links(a, b, spacing, stud_compliance(made.kind), frequency_hz)


def frame_spring(
    stacks: Sequence[Stack], k: int, made: FrameMake, leaves: Sequence[Leaf | None]
) -> Complexes | None:
    """Stiffness per area (N/m³, a column) of the k-th frame between its leaves at low frequencies; None where nothing ties them.

    The compliances of the leaves' bending between their links (b⁴/(120·D) hinged) and of the links add.
    """
    if made.kind in ("double-wood-studs", "staggered-wood-studs"):
        return None
    spacing = frame_column(stacks, k, "spacing_mm")
    compliance: Floats = stud_compliance(made.kind) * spacing
    spans = [spacing, spacing]
    if made.channels:
        spans[1] = frame_column(stacks, k, "resilient_channel_spacing_mm")
        compliance = fitted.VALUES.channel_compliance * spans[1]
    elif made.isolated:
        compliance = PAD_COMPLIANCE * spacing**2
    for leaf, span in zip(leaves, spans, strict=True):
        if leaf is None:
            return None  # a limp layer gives way between the links
        compliance = compliance + fitted.VALUES.bend_share * span**4 / (120 * leaf.stiffness[:, :1].real)
    return np.asarray((1 + 1j * fitted.VALUES.spring_loss) / compliance)
