"""The energy at the listener split over paths: levels, shares, ceilings, and what block-off tests say of them."""

from __future__ import annotations

import math
from typing import Annotated

import numpy as np
from pydantic import Field, model_validator

from ..errors import BadInput
from ..levels.band_forms import by_band
from ..levels.bands import PREDICTED_HZ, Floats
from ..levels.comparison import Item, group_lines, interval
from ..levels.decibels import a_weighted, energy, energy_mean
from ..schema import Level, Positive, Strict
from ..stacks.model import Stack
from ..stacks.predict import predict

Spectrum = dict[str, Level]
Curve = Annotated[tuple[Level, ...], Field(min_length=21, max_length=21)]


class Receiver(Strict):
    """Where the listener is: the absorption area of the cabin or room."""

    absorption_m2: Annotated[float, Field(gt=0, le=100_000, strict=True, allow_inf_nan=False)]


class BudgetPath(Strict):
    """One way noise takes: an area with R (given or from a stack), or a level at the listener."""

    id: Annotated[str, Field(min_length=1, max_length=200)]
    area_m2: Annotated[float, Field(gt=0, le=2500, strict=True, allow_inf_nan=False)] | None = None
    stack: Stack | None = None
    transmission_loss_db: Curve | None = None
    incident_db: Spectrum | None = None
    level_db: Spectrum | None = None
    cap_db: Level | None = None

    @model_validator(mode="after")
    def _one_source(self) -> BudgetPath:
        given = [n for n in ("stack", "transmission_loss_db", "level_db") if getattr(self, n) is not None]
        if len(given) != 1:
            raise ValueError("a path needs one of stack, transmission_loss_db or level_db; "
                             f"this one has {' and '.join(given) or 'none'}")
        if self.level_db is None and self.area_m2 is None:
            raise ValueError("area_m2 is missing; give the area in square metres")
        return self


class BlockOffTest(Strict):
    """A block-off test: readings with the path open and with it covered."""

    path: str
    open_db: tuple[Level, ...] = Field(min_length=1)
    blocked_db: tuple[Level, ...] = Field(min_length=1)
    cover_insertion_loss_db: Positive | None = None


class Paths(Strict):
    """What ``trace`` reads."""

    receiver: Receiver
    spectrum_db: Spectrum
    paths: tuple[BudgetPath, ...] = Field(min_length=1, max_length=200)
    block_off: tuple[BlockOffTest, ...] = ()


class PathShare(Strict):
    """A path at the listener. ``ceiling_db``: the reduction if it alone vanished (None: nothing else is left)."""

    id: str
    level_dba: float | None
    share: float
    ceiling_db: float | None


class MeasuredShare(Strict):
    """A path's share as a block-off test gives it; not resolved where 0 lies in the interval."""

    path: str
    level_db: float | None
    share: float
    interval: tuple[float, float]
    resolved: bool


class Budget(Strict):
    """What ``trace`` prints."""

    total_dba: float | None
    paths: tuple[PathShare, ...]
    measured: tuple[MeasuredShare, ...]


def spectrum_array(spectrum: Spectrum, where: str) -> Floats:
    """A spectrum {nominal Hz: dB} as 21 bands, silent (−inf) where missing. BadInput for other frequencies."""
    out = np.full(len(PREDICTED_HZ), -math.inf)
    for place, level in by_band(spectrum, where).items():
        out[place] = level
    return out


def listener_levels(incident_db: Floats, loss_db: Floats, area_m2: Floats, absorption_m2: float) -> Floats:
    """Level at the listener, dB: L = incident − R + 10·lg(S/A). Arrays (paths, bands), area (paths,)."""
    return np.asarray(incident_db - loss_db + 10 * np.log10(area_m2 / absorption_m2)[:, None])


def split(ids: list[str], level_dba: Floats) -> Budget:
    """Shares and ceilings of paths whose A-weighted levels at the listener are known, shape (paths,)."""
    energies = energy(level_dba)
    total = float(energies.sum())
    shares = []
    for i, name in enumerate(ids):
        part = float(energies[i]) / total if total > 0 else 0.0
        rest = float(np.delete(energies, i).sum()) / total if total > 0 else 0.0
        shares.append(PathShare(
            id=name,
            level_dba=_finite(level_dba[i]),
            share=round(part, 4),
            ceiling_db=round(-10 * math.log10(rest), 2) + 0.0 if rest > 1e-12 else None,
        ))
    return Budget(total_dba=_finite(10 * math.log10(total)) if total > 0 else None, paths=tuple(shares), measured=())


def block_off(test: BlockOffTest, repeatability_db: float) -> MeasuredShare:
    """A path's level and share from a block-off test.

    L_path = 10·lg(10^(L₀/10) − 10^(L₁/10)) − 10·lg(1 − 10^(−IL/10)); without the cover's IL the share is a lower bound.
    The interval is that of the drop L₀ − L₁ (Student's t), carried to shares and clipped to 0–1.
    """
    first, second = energy_mean(test.open_db), energy_mean(test.blocked_db)
    lines = [
        *group_lines("open", [Item(x) for x in test.open_db], repeatability_db),
        *group_lines("blocked", [Item(x) for x in test.blocked_db], repeatability_db),
    ]
    cover = test.cover_insertion_loss_db
    kept = 1 - 10 ** (-cover / 10) if cover is not None else 1.0
    def share(drop: float) -> float:
        return (1 - 10 ** (-drop / 10)) / kept
    low, high = (share(d) for d in interval(first - second, lines))
    part = share(first - second)
    return MeasuredShare(
        path=test.path,
        level_db=round(first + 10 * math.log10(part), 2) if part > 0 else None,
        share=round(min(max(part, 0.0), 1.0), 4),
        interval=(round(min(max(low, 0.0), 1.0), 4), round(min(max(high, 0.0), 1.0), 4)),
        resolved=low > 0,
    )


def trace(paths: Paths, repeatability_db: float = 0.8) -> Budget:
    """The whole budget of a paths file. Raises BadInput for unknown bands, paths and stacks that do not hold together."""
    ids = [p.id for p in paths.paths]
    if len(set(ids)) < len(ids):
        twice = next(i for i in ids if ids.count(i) > 1)
        raise BadInput(f"two paths are called '{twice}'", "paths", "give each its own id")
    common = spectrum_array(paths.spectrum_db, "spectrum_db")
    rows = [_levels(i, path, common, paths.receiver.absorption_m2) for i, path in enumerate(paths.paths)]
    for i, test in enumerate(paths.block_off):
        if test.path not in ids:
            raise BadInput(f"no path is called '{test.path}'", f"block_off[{i}].path", f"use {', '.join(ids[:6])}")
    measured = tuple(block_off(test, repeatability_db) for test in paths.block_off)
    return split(ids, np.array([a_weighted(row) for row in rows])).model_copy(update={"measured": measured})


def _levels(i: int, path: BudgetPath, common: Floats, absorption_m2: float) -> Floats:
    where = f"paths[{i}]"
    if path.level_db is not None:
        return spectrum_array(path.level_db, f"{where}.level_db")
    incident = common if path.incident_db is None else spectrum_array(path.incident_db, f"{where}.incident_db")
    if path.stack is not None:
        try:
            loss = np.array(predict(path.stack).transmission_loss_db)
        except BadInput as error:
            raise error.at(f"{where}.stack") from None
    else:
        loss = np.array(path.transmission_loss_db)
    if path.cap_db is not None:
        loss = np.minimum(loss, path.cap_db)
    return np.asarray(listener_levels(incident[None, :], loss[None, :], np.array([path.area_m2]), absorption_m2)[0])


def _finite(value: float) -> float | None:
    return round(float(value), 2) + 0.0 if math.isfinite(value) else None
