"""What stacks do at the listener: the levels of a surface's paths with them, and the energies the search adds up."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from ...figures.boxes import close_fit, inner_face
from ...figures.cuts import is_boxed
from ...figures.job_figures import JobFigures
from ...figures.lays import MOUNTED_LOSS, Lay, mounted_loss, panel_loss, planned_lay, present_lay, rings_from_hz
from ...figures.many import Losses, losses_of
from ...figures.path_levels import Through, path_rows, shaken, through_surface
from ...figures.ways import leaks_cm2
from ...levels.bands import PREDICTED_HZ, Floats
from ...paths.rows import Path
from ...surfaces.patches import Patch, patches
from ...surfaces.rows import Alternative, Surface

TILT_DB, PIVOT_HZ = 5.0, 250.0
"""Sources that are plausible beside the one assumed: so much stronger below, or above, this frequency."""


def tilts() -> Floats:
    """What plausible sources add to the assumed one, dB, shape (3, 21): nothing, more below, more above."""
    hz = np.array(PREDICTED_HZ)
    return np.array([np.zeros(len(hz)), np.where(hz < PIVOT_HZ, TILT_DB, 0.0), np.where(hz >= PIVOT_HZ, TILT_DB, 0.0)])


class Heard(NamedTuple):
    """A path as the listener has it: its level now (21,), and how it comes through its surface."""

    path: Path
    now_db: Floats
    bare_now_db: Floats
    """As the model alone gives it."""
    through: Through | None
    open_cm2: tuple[float, float]
    """Open now, and with what was found there sealed."""


def heard(job: JobFigures, i: int) -> Heard:
    """A path of the job by its place."""
    path, rows = job.doc.paths[i], path_rows(job)
    surface = job.doc.surface(path.surface_id)
    if surface is None:
        return Heard(path, rows.now[i], rows.now[i], None, openings(job, path))
    through = through_surface(job, path, surface)
    from_patches = np.array([panel_loss(p, present_lay(job.doc, p), job.shelf)[0] for p in patches(surface)])
    open_cm2 = openings(job, path)
    bare = through.levels(together(surface, from_patches[:, None, :])[0], open_cm2[0])
    return Heard(path, rows.now[i], bare, through, open_cm2)


def openings(job: JobFigures, path: Path) -> tuple[float, float]:
    """Open area of a path now and with what was found at it sealed, cm²: what an earlier plan left open can be sealed too."""
    now, then = leaks_cm2(job.doc, path)
    if path.planned_leak_cm2 is None or then < now:
        return now, then
    return leaks_cm2(job.doc, path.model_copy(update={"planned_leak_cm2": None}))


def together(surface: Surface, losses_db: Floats) -> Floats:
    """R of a whole surface from that of its patches, dB: (patches, stacks, 21) to (stacks, 21)."""
    parts = patches(surface)
    if len(parts) == 1:
        return np.asarray(losses_db[0])
    weights = np.array([p.share * 10 ** (p.excitation_db / 10) for p in parts])
    return np.asarray(-10 * np.log10(np.einsum("p,psb->sb", weights, 10 ** (-losses_db / 10))))


class Effects(NamedTuple):
    """Of stacks on one patch: R and how much less it radiates shaken, dB (stacks, 21); of a wall of a box what its inner face
    takes up and what its close fit lets out, shares (stacks, 21); resonances of cavities, Hz (stacks, cavities; NaN: none)."""

    loss_db: Floats
    less_db: Floats
    inside: Floats
    close: Floats
    cavities_hz: Floats


def lay_of(job: JobFigures, patch: Patch, one: Alternative | None) -> Lay:
    """What lies on a patch with an alternative, as asked, or now."""
    return present_lay(job.doc, patch) if one is None else planned_lay(job.doc, patch, one)._replace(as_asked=True)


def effects(job: JobFigures, patch: Patch, ways: Sequence[Alternative | None], shaken: bool) -> Effects:
    """What alternatives do on a patch (None: as it is now), all predicted together."""
    lays = [lay_of(job, patch, one) for one in ways]
    found = losses_of(patch, lays, job.shelf)
    for i, lay in enumerate(lays):
        if lay.nothing:
            found.loss_db[i] = 0.0
    less = np.zeros_like(found.loss_db)
    if shaken:
        less = _less_shaken(job, patch, lays, found)
    inside, close = np.zeros_like(less), np.zeros_like(less)
    if is_boxed(job.doc):
        for i, lay in enumerate(lays):
            if not lay.nothing:
                inside[i] = inner_face(patch, lay, job.shelf)[0]
                close[i] = close_fit(job, float(found.mass_kg_m2[i]))
    return Effects(found.loss_db, less, inside, close, found.cavities_hz)


def _less_shaken(job: JobFigures, patch: Patch, lays: list[Lay], found: Losses) -> Floats:
    """As ``shaken_change_db``, of many at once."""
    now = present_lay(job.doc, patch)
    hung = losses_of(patch, [x.only(lambda p: job.shelf.material(p.layer.material).acts != "damping") for x in (now, *lays)],
                     job.shelf).loss_db
    change = hung[1:] - hung[0]
    before = panel_loss(patch, now, job.shelf)[1].loss_factor
    mounted = mounted_loss(job.doc, patch) or MOUNTED_LOSS
    if before is None:
        return np.asarray(change)
    rings = np.array(PREDICTED_HZ) >= rings_from_hz(patch, job.shelf)
    more = np.maximum(np.nan_to_num(found.loss_factor - np.array(before)), 1e-3 - mounted)
    return np.asarray(change + np.where(rings, 10 * np.log10(1 + more / mounted), 0.0))


def level_with(heard_: Heard, loss_db: Floats, less_db: Floats, sealed: bool) -> Floats:
    """Levels at the listener of a path, dB (stacks, 21), with stacks on its surface, what was found open sealed or not."""
    assert heard_.through is not None
    then = heard_.through.levels(loss_db, heard_.open_cm2[1 if sealed else 0])
    if heard_.through.shaken_share:
        then = shaken(heard_.bare_now_db, then, less_db, heard_.through.shaken_share)
    return np.asarray(heard_.now_db + then - heard_.bare_now_db)


def weighted(level_db: Floats, weight_db: Floats) -> Floats:
    """Energies in a quantity, over plausible sources: levels (…, 21) to (…, 3)."""
    return np.asarray(np.sum(10 ** ((level_db[..., None, :] + weight_db + tilts()) / 10), axis=-1))
