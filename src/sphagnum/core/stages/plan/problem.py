"""The choice over all units of a job as arrays: energies, costs, what is needed once, what is bought whole, what is barred."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence

import numpy as np

from ...cutting.stock import area_m2, forms_at
from ...errors import BadInput
from ...figures.job_figures import JobFigures
from ...figures.loads import beside_load
from ...figures.measures import less_measure
from ...levels.bands import Floats, Ints
from ...paths.rows import Measure
from ...planning.problem import Problem
from ...surfaces.patches import patches
from ..cut.bought import counted
from ..fit.hours import worked_hours
from .build_ways import BuildWay, less_builds
from .costs import Cost, alternative_cost, fixed_hours, pack_of
from .effects import weighted
from .model import PlansAsked
from .unit import Unit, measure_cost

KIND = "kind: "
"""What begins the name of a material among what a plan needs once."""


def problem_of(
    job: JobFigures, units: list[Unit], weight: Floats, taken: tuple[Measure, ...], builds: tuple[BuildWay, ...],
    asked: PlansAsked,
) -> Problem:
    """The choice over all units with some measures and builds taken elsewhere; what goes with any plan is a last path of one
    option.

    Each kind of material is needed once: it counts as so much money when plans are compared, and at most so many are taken.
    """
    energies, path = [], []
    for i, unit in enumerate(units):
        level = unit.level_db
        for m in taken:
            level = np.stack([less_measure(level[:, k], h.path, m) for k, h in enumerate(unit.paths)], axis=1)
        level = np.stack([less_builds(job.doc, level[:, k], h.path, builds) for k, h in enumerate(unit.paths)], axis=1)
        energies.append(weighted(level, weight)[..., 0].sum(axis=1))
        path += [i] * len(unit.options)
    options = [o for u in units for o in u.options]
    rest = _beside(job, units, {w.build.id for w in (*builds, *(w for o in options for w in o.builds))})
    for cost in (*(measure_cost(job, m) for m in taken), *(w.cost for w in builds)):
        rest = rest.plus(cost)
    costs = [*(o.cost for o in options), rest]
    needed = [(*own, *(f"{KIND}{k}" for k in kinds), *([READ_AGAIN] if cost.hours > 0 else [])) for own, kinds, cost in zip(
        (*(o.needs for o in options), ()), (*(o.kinds for o in options), ()), costs, strict=True)]
    needs = sorted({n for names in needed for n in names})
    packs = sorted({name for c in costs for name, _ in c.uses})
    sizes = [pack_of(job.shelf, name) for name in packs]
    access = {p.shares_access: fixed_hours(job, p)[1] for s in job.doc.surfaces for p in patches(s) if p.shares_access}
    # whatever is worked on, the readings are taken again after it
    access[READ_AGAIN] = worked_hours(job, job.shelf.minutes[READ_AGAIN])
    now = sum(float(weighted(h.now_db, weight)[0]) for u in units for h in u.paths)
    if not now > 0:
        raise BadInput("nothing reaches the listener by the ways listed", "paths", "look at their levels under Trace")
    is_kind = np.array([n.startswith(KIND) for n in needs], dtype=bool)
    drawn = sorted({name for c in costs for name, _ in c.draws}) if asked.stock else []
    return Problem(
        path=np.array([*path, len(units)], dtype=np.int64), energy=np.concatenate([*energies, [0.0]]),
        costs=np.array([[c.kg, c.money, c.hours] for c in costs]),
        needs=np.array([[n in names for n in needs] for names in needed], dtype=bool).reshape(len(costs), len(needs)),
        once_costs=np.array([[0.0, 0.0, access.get(n, 0.0)] for n in needs]).reshape(len(needs), 3),
        uses=np.array([[dict(c.uses).get(n, 0.0) for n in packs] for c in costs]).reshape(len(costs), len(packs)),
        pack_size=np.array([x.size for x in sizes]), pack_money=np.array([x.money for x in sizes]),
        on_hand=np.zeros(len(packs)), now=now, barred=np.array([*(o.barred for o in options), False]),
        once_money=np.where(is_kind, job.base.kind_money, 0.0), kinds=is_kind,
        most_kinds=math.inf if asked.kinds is None else max(asked.kinds, _fixed_kinds(units)),
        draws=np.array([[dict(c.draws).get(n, 0.0) for n in drawn] for c in costs]).reshape(len(costs), len(drawn)),
        drawn_most=np.array([on_hand_m2(job, n) for n in drawn]), alike=_alike(units, len(costs)))


def _alike(units: Sequence[Unit], many: int) -> Ints:
    """Per stack of a surface that has a twin before it: where both have it."""
    starts = np.cumsum([0, *(len(u.options) for u in units)])
    place = {u.surface.id: i for i, u in enumerate(units) if u.surface is not None}
    rows: list[Ints] = []
    for i, unit in enumerate(units):
        other = None if unit.twin is None else place.get(unit.twin)
        if other is None:
            continue
        for stack in {o.stack for k in (i, other) for o in units[k].options}:
            row = np.zeros(many, dtype=np.int64)
            for k, sign in ((other, 1), (i, -1)):
                row[starts[k]:starts[k + 1]] = [sign * (o.stack == stack) for o in units[k].options]
            rows.append(row)
    return np.array(rows, dtype=np.int64).reshape(len(rows), many)


def _fixed_kinds(units: Sequence[Unit]) -> int:
    """How many kinds of material any plan has, since what is laid or kept has them."""
    return len(set().union(*(frozenset.intersection(*(o.kinds for o in u.options if not o.barred)) for u in units
                             if any(not o.barred for o in u.options))))


def on_hand_m2(job: JobFigures, name: str) -> float:
    """Square metres of a material at a thickness ("id@mm") in the store and among the rests the job has taken."""
    material, _, mm = name.partition("@")
    thick = float(mm)
    forms = forms_at(job.shelf.material(material), thick)
    rests = [o for o in job.doc.offcuts_taken if o.material == material and abs(o.thickness_mm - thick) < 0.05]
    there = counted(job, material)
    return sum((there(f) or 0.0) * (area_m2(f) or 0.0) for f in forms) + sum(o.width_mm * o.length_mm / 1e6 for o in rests)


def _beside(job: JobFigures, units: list[Unit], chosen_for: Collection[int]) -> Cost:
    """What any plan has with it: pieces, goods, rattles, builds that are not ``chosen_for``, and stacks on surfaces no way leads
    through."""
    load = beside_load(job, chosen_for)
    minutes = job.shelf.minutes["cure rattles"] * sum(
        not r.done and job.shelf.offers.cure(r.kind, r.cure) is not None for r in job.doc.rattles)
    total = Cost(load.kg, load.money, worked_hours(job, minutes))
    within = {u.surface.id for u in units if u.surface is not None}
    for surface in job.doc.surfaces:
        for patch in patches(surface):
            one = job.doc.chosen(patch.id, patch.zone)
            if surface.id not in within and one is not None:
                own, access = fixed_hours(job, patch)
                total = total.plus(alternative_cost(job, patch, one)).plus(Cost(hours=own + access))
    return total


READ_AGAIN = "read again"
