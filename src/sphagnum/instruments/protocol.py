"""What every instrument offers: who it is, how it is set, and levels as they come."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple, Protocol

from ..core.schema import Strict


class Identity(Strict):
    """An instrument as it names itself."""

    name: str
    kind: str
    serial: str
    calibrated: bool


class Sample(NamedTuple):
    """One step of STEP_S: level F-weighted at its end, energy mean A and C, overload, bands (dB, 33, or none)."""

    time_s: float
    fast_dba: float
    mean_dba: float
    mean_dbc: float
    overload: bool
    bands_db: tuple[float, ...] = ()


class LostInstrument(ConnectionError):
    """The instrument does not answer any more; what came before it stands."""


class Instrument(Protocol):
    """A source of live levels. ``samples`` ends with LostInstrument when the link breaks, and may be called again."""

    def identify(self) -> Identity:
        """Who it is."""
        ...

    def settings(self) -> dict[str, str]:
        """How it is set: weighting, range, step."""
        ...

    def samples(self) -> Iterator[Sample]:
        """Levels as they come, one every STEP_S."""
        ...

    def close(self) -> None:
        """Let go of it."""
        ...
