"""The constants nobody publishes: one value per effect, fitted together over all constructions of docs/models.md."""

from __future__ import annotations

from typing import NamedTuple


class Fitted(NamedTuple):
    """One value per effect, none per case (``make fit`` finds them anew, and what leaving out a family changes)."""

    most_radiation: float = 1.39
    """Bound of the radiation efficiency of free waves: on a panel held at its edges it stays finite at f_c."""
    cavity_loss: float = 0.04
    """Loss factor of the air across an empty cavity 12 mm deep: its edges, frames and boundary layers."""
    loss_depth: float = 0.47
    """Power of the depth with which that loss grows."""
    edge_absorption: float = 0.025
    """Absorption coefficient of the edge of an empty cavity 12 mm deep."""
    edge_growth: float = 0.42
    """Power of the depth with which the edges take up more."""
    channel_compliance: float = 2.2e-6
    """Compliance of a resilient channel per metre of it, m²/N."""
    steel_compliance: float = 6.2e-7
    """Compliance of a light-steel stud per metre of it, m²/N; Davy (2010) gives 1e-6."""
    resonant_share: float = 0.11
    """Share of the free bending energy of a leaf that reaches a link, or that a link sets up in it."""
    bend_share: float = 0.66
    """Bending between links: 1 for leaves hinged at them, 1/6 for clamped ones; screwed boards lie between."""
    spring_loss: float = 0.105
    """Loss factor of links and boards acting as springs: rubbing at screws and edges."""
    plate_share: float = 0.9
    """Share of a line link that a common bottom and top plate makes of leaves on staggered studs."""
    laboratory_db: float = 72.0
    """What a laboratory's own flanking leaves at 1 kHz, dB."""
    laboratory_slope_db: float = 9.0
    """By how much that rises in an octave, dB."""


VALUES = Fitted()
