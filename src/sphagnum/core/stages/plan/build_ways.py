"""What can be done with the builds of a job: as they are given, left out, and of a box others round the same machine."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from typing import NamedTuple

import numpy as np

from ...builds.box_given import BoxIn
from ...builds.kinds import KINDS
from ...builds.rows import Build
from ...cutting.stock import area_m2, forms_at
from ...figures.builds import Worked, counted_twice, goods_of_build, less_built, parts_of, steps_of, takes_off, worked
from ...figures.job_figures import JobFigures
from ...figures.path_levels import path_rows
from ...fitting.history import as_they_happened, histories
from ...job.document import JobDocument
from ...levels.bands import Floats
from ...materials.model import sold_mm
from ...paths.rows import Path
from ..fit.hours import worked_hours
from .box_variants import box_variants
from .costs import WASTE, Cost, goods_cost
from .effects import weighted

MOST_WAYS = 10
"""Of one build, so many go into the search beside those it has."""


class BuildWay(NamedTuple):
    """One thing done with a build: as it then is (``built`` None: left out), what of it is new in words, and its cost."""

    build: Build
    built: Worked | None
    words: str
    cost: Cost
    own: bool
    """Whether it is what the plan has now."""

    @property
    def name(self) -> str:
        """What it is called among the options of a plan; nothing where it is left out."""
        if self.built is None:
            return ""
        return f"{self.build.name}: {self.words}" if self.words else self.build.name


def key_of_build(build_id: int) -> str:
    """How a build is named when it is pinned."""
    return f"build {build_id}"


def builds_begun(job: JobFigures) -> frozenset[str]:
    """Keys of the builds of which something is done already."""
    stand = histories(as_they_happened(job.doc.step_events))
    return frozenset(key_of_build(r.build_id) for r, h in stand.items() if r.build_id is not None and (h.done or h.laid))


def builds_of(
    job: JobFigures, weight_db: Floats, struck: frozenset[str], kept: frozenset[str], own_only: bool
) -> tuple[tuple[BuildWay, ...], ...]:
    """What can be done with each build that takes something off what is heard, or would. ``kept``: keys of those that stay as
    they are planned."""
    found = (_ways(job, b, weight_db, struck, own_only, key_of_build(b.id) in kept) for b in job.doc.builds)
    return tuple(ways for ways in found if any(w.built is not None for w in ways))


def _ways(
    job: JobFigures, build: Build, weight_db: Floats, struck: frozenset[str], own_only: bool, stays: bool
) -> tuple[BuildWay, ...]:
    one = worked(job, build)
    stands = one.built is not None and not one.built.refused
    mine = [BuildWay(build, one, "", cost_of(job, one), build.chosen)] if stands else []
    out = BuildWay(build, None, "", Cost(), not (stands and build.chosen))
    ways = [*mine, out]
    if stays:
        ways = [w for w in ways if w.own]
    elif not own_only and isinstance(build.given, BoxIn):
        ways += _others(job, build, build.given, weight_db, struck)
    return tuple(w for w in ways if w.built is None or any(takes_off(w.built, p) for p in job.doc.paths))


def _others(
    job: JobFigures, build: Build, given: BoxIn, weight_db: Floats, struck: frozenset[str]
) -> list[BuildWay]:
    rows = path_rows(job)
    at = [i for i, p in enumerate(job.doc.paths) if build.path_id in (None, p.id) and np.isfinite(rows.bare_planned[i]).all()]
    if not at:
        return []
    heard = rows.bare_planned[at]

    def weigh(effects: Floats) -> Floats:
        return np.asarray(weighted(heard - effects[:, None, :], weight_db)[..., 0].sum(axis=1))
    found = box_variants(given, job.shelf.materials, lambda m: not m.retired and m.id not in struck, weigh, MOST_WAYS)
    out = []
    for v in found:
        row = build.model_copy(update={"given": v.given, "chosen": True})
        one = Worked(row, v.built)
        out.append(BuildWay(row, one, v.words, cost_of(job, one), False))
    return out


def cost_of(job: JobFigures, one: Worked) -> Cost:
    """What a build adds: sheets by whole packs as far as they share them, goods, the minutes of its steps."""
    total = Cost(hours=worked_hours(job, sum(s.minutes for s in steps_of(one))))
    for part in parts_of(one):
        material, (along, across, thickness) = job.shelf.material(part.material), part.flat_mm
        sold = sold_mm(material, thickness)
        opened = along * across / 1e6 * WASTE
        key = f"{material.id}@{sold:g}"
        priced = any(f.price is not None and area_m2(f) for f in forms_at(material, sold))
        uses = ((key, opened),) if priced else ()
        total = total.plus(Cost(kg=part.kg, uses=uses, draws=((key, opened),), priced=priced))
    goods = goods_cost(job, goods_of_build(one), 1)
    remedies = () if one.built is None else one.built.remedies or ()
    return total.plus(goods._replace(hours=0.0)).plus(Cost(money=sum(r.money or 0.0 for r in remedies)))


def less_builds(doc: JobDocument, level_db: Floats, path: Path, ways: Iterable[BuildWay]) -> Floats:
    """Levels of one path, dB, any shape of bands last, less what ways of builds take off."""
    for way in ways:
        level_db = level_db if way.built is None else less_built(doc, level_db, path, way.built)
    return level_db


def fit_together(doc: JobDocument, ways: Sequence[BuildWay], measures: Collection[int] | None = None) -> bool:
    """Whether nothing is counted twice with ways of builds, and with the measures elsewhere of these numbers (None: whichever are
    chosen). What the plan has now always is."""
    if all(w.own for w in ways):
        return True
    then = {w.build.id: w.build.model_copy(update={"chosen": w.built is not None}) for w in ways}
    doc = doc.model_copy(update={
        "builds": tuple(then.get(b.id, b) for b in doc.builds),
        "measures": tuple(m if measures is None or m.at == "path" else m.model_copy(update={"chosen": m.id in measures})
                          for m in doc.measures)})
    return all(counted_twice(doc, b) is None for b in then.values())


def everywhere(build: Build) -> bool:
    """Whether it takes its effect off all that is heard."""
    return build.path_id is None and KINDS[build.given.kind].everywhere
