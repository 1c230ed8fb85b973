"""Trace: the budget of a job's paths, scaled to the reading, now and as planned."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from ..errors import BadInput
from ..job import BlockOff as BlockOffRow
from ..job import JobDocument, Path
from ..levels.bands import PREDICTED_A_DB, PREDICTED_HZ, Floats
from ..levels.board import goal_words, repeatability, value_in
from ..levels.decibels import a_weighted, energy
from ..materials.shelf import Shelf
from ..schema import Strict
from ..surfaces.geometry import areas
from ..surfaces.present import planned_lay, present_lay, transmission
from ..words import in_a_row, percent, signed
from ..working import Working, inputs
from .budget import BlockOff, block_off, listener_levels, split


class PathView(Strict):
    """One path at the listener now and as planned; ``problem`` says why a figure is unknown."""

    id: int
    name: str
    easy: bool
    level_dba: float | None
    share: float
    ceiling_db: float | None
    planned_level_dba: float | None
    pulled_db: float
    problem: str


class BlockOffView(Strict):
    """A block-off test in figures and words."""

    id: int
    path_id: int
    level_db: float | None
    share: float
    interval: tuple[float, float]
    resolved: bool
    words: str


class TraceView(Strict):
    """The budget: shares now, ceilings, total now, as planned and with gates pulled."""

    sentence: str
    detail: str
    condition: str
    source: str
    total_dba: float | None
    planned_dba: float | None
    pulled_dba: float | None
    calibrated: bool
    unscaled_dba: float | None
    paths: tuple[PathView, ...]
    block_offs: tuple[BlockOffView, ...]
    advice: tuple[str, ...]
    working: tuple[Working, ...]


class Rows(NamedTuple):
    """Band levels at the listener per path, shape (paths, 21), dB, now and planned; NaN rows are unknown."""

    now: Floats
    planned: Floats
    problems: list[str]
    offset_db: float
    calibrated: bool


def source_levels(doc: JobDocument, shelf: Shelf) -> tuple[Floats, str, str]:
    """Incident spectrum of the headline condition, dB per band, its condition's name and its source's name."""
    goal = doc.goal
    condition = next((c for c in doc.conditions if goal and c.id == goal.condition_id), None)
    condition = condition or (doc.conditions[0] if doc.conditions else None)
    if condition is not None and condition.spectrum_db is not None:
        return np.array(condition.spectrum_db), condition.name, "spectrum as typed"
    spectrum = shelf.spectra.get(condition.spectrum if condition else "pink", shelf.spectra["pink"])
    return spectrum.levels(), condition.name if condition else "", spectrum.name


def path_rows(doc: JobDocument, shelf: Shelf) -> Rows:
    """Levels of every path, scaled so that their sum is the level as found where that was read."""
    incident, _, _ = source_levels(doc, shelf)
    now, planned, problems = [], [], []
    for path in doc.paths:
        try:
            a, b = _path_levels(doc, shelf, path, incident)
            problem = ""
        except BadInput as error:
            a = b = np.full(len(PREDICTED_HZ), math.nan)
            problem = error.sentence
        now.append(a)
        planned.append(b)
        problems.append(problem)
    shape = (len(doc.paths), len(PREDICTED_HZ))
    rows = np.array(now).reshape(shape), np.array(planned).reshape(shape)
    given = np.array([p.level_dba is not None for p in doc.paths], dtype=bool)
    offset = _offset(doc, shelf, rows[0], given)
    if offset is not None:
        for row in rows:
            row[~given] += offset
    return Rows(*rows, problems, offset or 0.0, offset is not None)


def _path_levels(doc: JobDocument, shelf: Shelf, path: Path, incident: Floats) -> tuple[Floats, Floats]:
    source = incident + path.incident_offset_db
    absorption = doc.job.absorption_m2
    if path.level_dba is not None:
        after = path.level_dba if path.planned_level_dba is None else path.planned_level_dba
        return _at_low_bands(path.level_dba), _at_low_bands(after)
    if path.transmission_loss_db is not None:
        curves = [np.array(path.transmission_loss_db), np.array(path.planned_transmission_loss_db or
                                                                path.transmission_loss_db)]
        area = path.area_m2 or 1.0
    elif path.surface_id is not None:
        surface = next(s for s in doc.surfaces if s.id == path.surface_id)
        area = path.area_m2 or areas(surface).gross_m2 * surface.count
        curves = [transmission(surface, lay, shelf)[0] for lay in (present_lay(doc, surface), planned_lay(doc, surface))]
    else:
        before, after = _leaks(path)
        return _leak(source, before, absorption), _leak(source, after, absorption)
    out = []
    for curve, leak_cm2 in zip(curves, _leaks(path), strict=True):
        open_share = min(leak_cm2 / 1e4 / area, 1.0)
        tau = 10 ** (-curve / 10) * (1 - open_share) + open_share
        loss = -10 * np.log10(np.maximum(tau, 10 ** (-path.cap_db / 10) if path.cap_db is not None else 0.0))
        out.append(listener_levels(source[None, :], loss[None, :], np.array([area]), absorption)[0])
    return out[0], out[1]


def _leaks(path: Path) -> tuple[float, float]:
    return path.leak_cm2, path.leak_cm2 if path.planned_leak_cm2 is None else path.planned_leak_cm2


def _leak(source: Floats, cm2: float, absorption: float) -> Floats:
    if cm2 == 0:
        return np.full(source.shape, -math.inf)
    return np.asarray(source + 10 * math.log10(cm2 / 1e4 / absorption))


def _at_low_bands(level_dba: float) -> Floats:
    """A level known only as dB(A), put into the 125 Hz band so that it weighs what it is."""
    out = np.full(len(PREDICTED_HZ), -math.inf)
    out[PREDICTED_HZ.index(125.0)] = level_dba - PREDICTED_A_DB[PREDICTED_HZ.index(125.0)]
    return out


def _offset(doc: JobDocument, shelf: Shelf, now: Floats, given: np.typing.NDArray[np.bool_]) -> float | None:
    """dB to add to all airborne paths so that the whole meets the level as found; None where that is not possible."""
    goal = doc.goal
    if goal is None or goal.quantity != "LAeq" or not len(now):
        return None
    found = value_in(doc, shelf, goal, doc.round_in("as found"))
    known = ~np.isnan(now).any(axis=1)
    airborne, fixed = now[known & ~given], now[known & given]
    if found is None or not airborne.size:
        return None
    rest = 10 ** (found / 10) - (float(np.sum(energy([a_weighted(r) for r in fixed]))) if fixed.size else 0.0)
    total = a_weighted(airborne)
    return 10 * math.log10(rest) - total if rest > 0 and math.isfinite(total) else None


def a_levels(rows: Floats) -> Floats:
    """A-weighted level per path; −inf where unknown, so that unknown paths add nothing."""
    return np.array([a_weighted(r) if not np.isnan(r).any() else -math.inf for r in rows])


def predicted_at_ear(doc: JobDocument, shelf: Shelf) -> float | None:
    """Level at the listener the chosen plan predicts, dB(A); None without a calibrated budget or without a plan."""
    if doc.goal is None or doc.goal.quantity != "LAeq" or not doc.paths:
        return None
    rows = path_rows(doc, shelf)
    if not rows.calibrated or any(rows.problems) or np.array_equal(rows.now, rows.planned):
        return None
    return split(["" for _ in doc.paths], a_levels(rows.planned)).total_dba


def trace_view(doc: JobDocument, shelf: Shelf, pulls: dict[int, float] | None = None) -> TraceView:
    """The whole stage; ``pulls`` are dB taken off paths to try what closing them gives."""
    pulls = pulls or {}
    rows = path_rows(doc, shelf)
    now, planned = a_levels(rows.now), a_levels(rows.planned)
    budget = split([str(p.id) for p in doc.paths], now)
    pulled = now - np.array([pulls.get(p.id, 0.0) for p in doc.paths])
    planned_total = split(["" for _ in doc.paths], planned).total_dba if len(planned) else None
    views = tuple(
        PathView(id=p.id, name=p.name, easy=p.easy, level_dba=s.level_dba, share=s.share, ceiling_db=s.ceiling_db,
                 planned_level_dba=round(float(planned[i]), 2) if math.isfinite(planned[i]) else None,
                 pulled_db=pulls.get(p.id, 0.0), problem=rows.problems[i])
        for i, (p, s) in enumerate(zip(doc.paths, budget.paths, strict=True))
    )
    ordered = tuple(sorted(views, key=lambda v: -v.share))
    _, condition, source = source_levels(doc, shelf)
    return TraceView(
        sentence=_sentence(ordered),
        detail=_detail(ordered),
        condition=condition, source=source,
        total_dba=budget.total_dba, planned_dba=planned_total,
        pulled_dba=split(["" for _ in doc.paths], pulled).total_dba if pulls else None,
        calibrated=rows.calibrated,
        unscaled_dba=None if budget.total_dba is None else round(budget.total_dba - rows.offset_db, 2),
        paths=ordered,
        block_offs=tuple(block_off_view(doc, shelf, t) for t in doc.block_offs),
        advice=_advice(doc, ordered, budget.total_dba),
        working=_working(doc, rows, ordered, source),
    )


def leading(paths: tuple[PathView, ...]) -> tuple[PathView, ...]:
    """The fewest loudest paths that carry at least half of the energy, three at most."""
    out: list[PathView] = []
    for path in paths[:3]:
        out.append(path)
        if sum(p.share for p in out) >= 0.5:
            break
    return tuple(out)


def _sentence(paths: tuple[PathView, ...]) -> str:
    if not paths:
        return "List the ways the noise can take; then the loud one shows."
    lead = leading(paths)
    share = sum(p.share for p in lead)
    if share == 0:
        return "No path has a figure yet: give each a surface, an opening or a level."
    several = len(lead) > 1 or lead[0].name.endswith("s")
    carry = "carry" if several else "carries"
    return f"{in_a_row([p.name for p in lead])} {carry} {percent(share)} of what the listener hears."


def _detail(paths: tuple[PathView, ...]) -> str:
    easy = next((p for p in paths if p.easy and p.ceiling_db is not None), None)
    if easy is None or easy in leading(paths):
        return "Pull a gate down to see what closing that path would give."
    return (f"{easy.name}, the easy part, can give {easy.ceiling_db:.1f} dB at most. "
            "Pull a gate down to try it.")


def _advice(doc: JobDocument, paths: tuple[PathView, ...], total: float | None) -> tuple[str, ...]:
    """What loudest paths, each ten decibels down, would give against the goal."""
    goal = doc.goal
    if total is None or goal is None or goal.aim != "change by" or goal.quantity != "LAeq":
        return ()
    for count in range(1, len(paths) + 1):
        gain = total - 10 * math.log10(sum(10 ** (((p.level_dba or -200) - (10 if i < count else 0)) / 10)
                                           for i, p in enumerate(paths)))
        if gain >= goal.value:
            names = in_a_row([p.name for p in paths[:count]])
            return (f"{names}: {signed(-gain)} dB if each loses 10. The goal is {goal_words(doc)}",)
    return (f"All paths 10 dB down give less than the goal of {goal.value:g} dB: it is out of reach this way.",)


def block_off_view(doc: JobDocument, shelf: Shelf, row: BlockOffRow) -> BlockOffView:
    """A block-off test of the job, in words."""
    name = next((p.name for p in doc.paths if p.id == row.path_id), "?")
    test = BlockOff(path=name, open_db=row.open_db, blocked_db=row.blocked_db,
                    cover_insertion_loss_db=row.cover_insertion_loss_db)
    got = block_off(test, repeatability(doc, shelf))
    span = f"{100 * got.interval[0]:.0f} to {100 * got.interval[1]:.0f} %"
    bound = "at least " if row.cover_insertion_loss_db is None else ""
    words = (f"carries {bound}{percent(got.share)} ({span}). Resolved." if got.resolved else
             f"not resolved: the drop is inside the scatter ({span}). Repeat it, or use a heavier cover.")
    return BlockOffView(id=row.id, path_id=row.path_id, level_db=got.level_db, share=got.share, interval=got.interval,
                        resolved=got.resolved, words=words)


def _working(doc: JobDocument, rows: Rows, paths: tuple[PathView, ...], source: str) -> tuple[Working, ...]:
    scale = f"{signed(rows.offset_db)} dB on every airborne path, to meet the level as found" if rows.calibrated else (
        "not scaled: no reading as found")
    return tuple(
        Working(
            figure=f"{p.name}: {p.level_dba} dB(A), {percent(p.share)}",
            formula="L = incident − R + 10·lg(S/A), A-weighted and summed over 21 bands; share of the energy",
            inputs=inputs(source_spectrum=source, absorption=f"{doc.job.absorption_m2:g} m²", scaled=scale,
                          easy_to_reach="yes" if p.easy else "no"),
            source="diffuse field on both sides; A weighting of IEC 61672-1",
            accuracy="shares of planning quality: ± 3 dB per path until a block-off test",
        )
        for p in paths if p.level_dba is not None
    )
