"""What a stack does per band: the noise through it before and after, its loss, what it absorbs, and which model rules where."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from ...errors import BadInput
from ...figures.boxes import face_absorption
from ...figures.job_figures import JobFigures
from ...figures.lays import Lay, Placed, panel_loss, present_lay, stack_of, surface_loss
from ...figures.outlook import outlook
from ...figures.path_levels import change_db, path_rows
from ...figures.sources import source_of
from ...levels.bands import PREDICTED_A_DB, PREDICTED_HZ, Floats
from ...rules.engine import Spoken
from ...schema import Strict
from ...stacks.known import predict_cached
from ...stacks.model import Frame
from ...stacks.predict import Prediction
from ...surfaces.patches import Patch
from ...surfaces.rows import Alternative
from ...words import listed

RULES_DB = 3.0
"""What the loss must rise by without something for that to rule a band."""


class Curves(Strict):
    """Per band: level through the surface at the listener now, after, and its change (dB), R now and after (dB), what its face
    absorbs of what falls on it (0–1, None where it is no open face), and what rules R there, in a word."""

    frequency_hz: tuple[float, ...]
    now_db: tuple[float, ...]
    after_db: tuple[float, ...]
    change_db: tuple[float, ...]
    loss_now_db: tuple[float, ...]
    loss_after_db: tuple[float, ...]
    source_db: tuple[float, ...]
    absorbed: tuple[float, ...] | None
    ruled_by: tuple[str, ...]
    error_db: float


def curves(job: JobFigures, patch: Patch, lay: Lay, now: Floats, after: Floats, prediction: Prediction) -> Curves:
    """The curves of a patch with a lay; levels are of the whole surface where it is a path, else of the patch."""
    levels = levels_through(job, patch, lay)
    source = source_of(job).levels
    return Curves(
        frequency_hz=PREDICTED_HZ, now_db=_r(levels[0]), after_db=_r(levels[1]), change_db=_r(levels[1] - levels[0]),
        loss_now_db=_r(now), loss_after_db=_r(after), source_db=_r(source), absorbed=_absorbed(job, lay),
        ruled_by=ruled_by(job, patch, lay, after, prediction), error_db=prediction.expected_error_db,
    )


def levels_through(job: JobFigures, patch: Patch, lay: Lay) -> tuple[Floats, Floats]:
    """Levels through a surface at the listener per band, dB: now, and with a lay on one of its patches."""
    index = next((i for i, p in enumerate(job.doc.paths) if p.surface_id == patch.id), None)
    if index is not None and np.isfinite(before := path_rows(job).now[index]).all():
        return before, before + change_db(job, job.doc.paths[index], lay, patch.zone)
    source = source_of(job).levels
    return (source - surface_loss(job.doc, patch.whole, job.shelf, False),
            source - surface_loss(job.doc, patch.whole, job.shelf, True, (patch.zone, lay)))


def at_ear_db(job: JobFigures, patch: Patch, one: Alternative) -> float | None:
    """Change at the listener to expect of the whole plan with an alternative on a patch, dB; None without a budget held to what
    was read."""
    kept = {a.id for a in job.doc.alternatives}
    rows = [a.model_copy(update={"chosen": a.id == one.id}) if (a.surface_id, a.zone) == (patch.id, patch.zone) else a
            for a in (*job.doc.alternatives, *(() if one.id in kept else (one,)))]
    then = job.doc.model_copy(update={"alternatives": tuple(rows)})
    ahead = outlook(job if one.chosen and one.id in kept else job.of(then))
    return None if ahead is None or ahead.level_db is None else ahead.change_db


def a_total(levels: Floats) -> float:
    """A-weighted total of band levels, dB(A)."""
    return 10 * math.log10(float(np.sum(10 ** ((levels + PREDICTED_A_DB) / 10))))


def through_change(found: Curves) -> float:
    """A-weighted change of the level through a surface, dB (negative is less)."""
    return a_total(np.array(found.after_db)) - a_total(np.array(found.now_db))


def ruled_by(job: JobFigures, patch: Patch, lay: Lay, after: Floats, prediction: Prediction) -> tuple[str, ...]:
    """What rules R in each band: gaps, a bridge, a resonance, coincidence, what lies below the first mode, else mass."""
    if lay.nothing:
        return ("nothing stands",) * len(PREDICTED_HZ)
    hz = np.array(PREDICTED_HZ)
    stack = stack_of(patch, lay, job.shelf)
    whole = np.array(predict_cached(stack).transmission_loss_db)
    loose = whole
    if stack.ties:
        untied = stack.model_copy(update={"frames": (), "frame": Frame()})
        loose = np.array(predict_cached(untied).transmission_loss_db)
    out = np.full(len(hz), "mass", dtype=object)
    for f in prediction.resonances.critical_hz:
        if f is not None:
            out[np.abs(np.log2(hz / f)) < 0.5] = "coincidence"
    for f in prediction.resonances.mass_air_mass_hz:
        out[np.abs(np.log2(hz / f)) < 0.5] = "resonance"
    first = next((n for n in prediction.notes if n.rule == "below-first-mode"), None)
    if first is not None:
        mode = float(first.text.split("(")[1].split(" ")[0])
        out[hz < mode] = "first mode"
    out[loose - whole >= RULES_DB] = "bridge"
    out[whole - after >= RULES_DB] = "gaps"
    return tuple(str(x) for x in out)


def _absorbed(job: JobFigures, lay: Lay) -> tuple[float, ...] | None:
    """Diffuse absorption of the open face on the listener's side, 0–1; None where the last layer is no absorber."""
    face = face_absorption(lay, job.shelf)
    return None if face is None else tuple(round(float(a), 3) for a in face)


def _r(values: Floats) -> tuple[float, ...]:
    return tuple(round(float(v), 2) + 0.0 for v in values)


LEAST_WORSE_DB = 0.05


def worse(job: JobFigures, patch: Patch, lay: Lay) -> tuple[Spoken, ...]:
    """New layers by which less is gained at the ear than without them, each against what lies under it."""
    out, gained = [], 0.0
    try:
        start = present_lay(job.doc, patch)
        gained = _gain(job, patch, lay._replace(placed=tuple(p for p in lay.placed if not p.new), nothing=start.nothing))
    except BadInput:
        gained = 0.0
    for one, part in grown(job, lay):
        try:
            gain = _gain(job, patch, part)
            prediction = panel_loss(patch, part, job.shelf)[1]
        except BadInput:
            continue
        if gain < gained - LEAST_WORSE_DB:
            out.append(_spoken_worse(job.shelf.material(one.layer.material).name, gained - gain, prediction))
        gained = gain
    return tuple(out)


def grown(job: JobFigures, lay: Lay) -> Iterator[tuple[Placed, Lay]]:
    """Each new layer of a lay that sound meets, and the lay with no new layer beyond it."""
    for n, one in enumerate(lay.placed):
        if one.new and job.shelf.material(one.layer.material).acts not in ("line", "thing"):
            yield one, lay._replace(placed=tuple(p for k, p in enumerate(lay.placed) if not p.new or k <= n))


def _gain(job: JobFigures, patch: Patch, lay: Lay) -> float:
    now, then = levels_through(job, patch, lay)
    return a_total(now) - a_total(then)


def _spoken_worse(name: str, lost_db: float, prediction: Prediction) -> Spoken:
    resonances = prediction.resonances.mass_air_mass_hz
    why = f"With it the lining resonates at {listed([f'{f:.0f} Hz' for f in resonances])}, where this noise is strong." if (
        resonances) else "Its weight moves what is under it to where this noise is strong."
    mend = "A softer or deeper decoupler, or a heavier barrier, brings the resonance down; or leave this layer out" if (
        resonances) else "Leave it out, or put it elsewhere"
    text = f"{name} takes {lost_db:.1f} dB of the gain away again."
    return Spoken(rule="layer-makes-worse", severity="warn", text=text, why=why, mend=mend, source="computed for this surface")
