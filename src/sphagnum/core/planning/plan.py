"""``plan``: options of paths to their energies at the listener, and the search over all paths together."""

from __future__ import annotations

import math

import numpy as np

from ..errors import BadInput
from ..levels.bands import PREDICTED_A_DB, PREDICTED_HZ, Floats
from ..levels.decibels import a_weighted, energy
from ..levels.weighting import weighting_db
from ..paths.budget import listener_levels, spectrum_array
from ..report import Report, silent
from ..stacks.model import Stack
from ..stacks.predict import AtStack, predict_many
from ..worded import in_mm
from .front import DIGITS, Plan, search
from .model import PlanInput, PlanOption, PlanPath, PlanPoint, PlanResult, Relaxed
from .problem import RESOURCES, Problem
from .why import Named, why

LOW_HZ = (31.5, 160.0)
"""The low band of a job; what is predicted of it begins at 50 Hz."""
STILL = "left as it is"


def weights_db(quantity: str) -> Floats:
    """What a quantity adds to each of the 21 bands, dB: the weighting, or nothing in the low band and −inf elsewhere."""
    bands = np.array(PREDICTED_HZ)
    if quantity == "low":
        return np.where((bands >= LOW_HZ[0]) & (bands <= LOW_HZ[1]), 0.0, -math.inf)
    return np.array(PREDICTED_A_DB) if quantity == "dBA" else np.round(weighting_db(bands, "C"), 1)


def plan(data: PlanInput, report: Report = silent) -> PlanResult:
    """The plans of a file; stacks are resolved. Raises BadInput naming the path or option, and Stop from ``report``.

    Energies at the listener add over paths, so that one option per path within limits is a multiple-choice knapsack
    (Sinha and Zoltners 1979), solved by integer programming.
    """
    _told_apart(data)
    fitting = [_fitting(i, path) for i, path in enumerate(data.paths)]
    levels = _levels(data, fitting)
    weight = weights_db(data.quantity)
    weighted = [energy(level + weight).sum(axis=1) for level in levels]
    now = float(sum(w[0] for w in weighted))
    if not now > 0:
        raise BadInput(f"there is nothing to reduce in {data.quantity}", "spectrum_db", "give levels in its bands")
    # what must be treated has no option of leaving it
    taken = [(i, k) for i, path in enumerate(data.paths) for k in range(len(levels[i])) if k > 0 or not path.must]
    problem = _problem(data, fitting, taken, np.array([weighted[i][k] for i, k in taken]), now)
    names = Named(
        tuple(path.id for path in data.paths), tuple(fitting[i][k - 1].id if k else STILL for i, k in taken),
        tuple(next((n for n, (j, k) in enumerate(taken) if j == i and k == 0), -1) for i in range(len(data.paths))),
        tuple(float(w[0]) for w in weighted))
    limits = np.array([math.inf if (x := getattr(data.limits, r)) is None else x for r in RESOURCES])
    front = search(problem, limits, data.target_reduction_db, data.seconds, report)
    total = energy([a_weighted(level[0]) for level in levels]).sum()
    return PlanResult(
        now_dba=round(10 * math.log10(total), 2) if total > 0 else None,
        most_reduction_db=round(front.most_reduction_db, DIGITS), best=front.best, cheapest=front.cheapest,
        reached=front.reached, short_by_db=round(front.short_by_db, DIGITS),
        pareto=tuple(_point(problem, x, names) for x in front.plans),
        relax=tuple(Relaxed(limit=name, to=to) for name, to in front.relax if name in RESOURCES),
        proven=front.proven, gap_db=round(front.gap_db, DIGITS))


def _point(p: Problem, found: Plan, names: Named) -> PlanPoint:
    kg, money, hours = (round(c, DIGITS) + 0.0 for c in found.costs)
    choice = {names.paths[i]: names.options[c] for i, c in enumerate(found.choice) if c != names.still[i]}
    return PlanPoint(reduction_db=round(found.reduction_db, DIGITS) + 0.0, added_kg=kg, money=money, hours=hours, choice=choice,
                     why=why(p, found, names))


def _told_apart(data: PlanInput) -> None:
    ids = [x.id for x in data.paths]
    twice = next((x for x in ids if ids.count(x) > 1), None)
    if twice is not None:
        raise BadInput(f"two paths are called '{twice}'", "paths", "give each its own id")
    for i, path in enumerate(data.paths):
        seen = set[str]()
        for k, option in enumerate(path.options):
            where = f"paths[{i}].options[{k}]"
            if option.id in seen:
                raise BadInput(f"two options of '{path.id}' are called '{option.id}'", where, "give each its own id")
            seen.add(option.id)
            for name in option.needs:
                if name not in data.once:
                    raise BadInput(f"'{name}' is needed but not in once", f"{where}.needs", "say under once what it costs")
            for name in option.uses:
                if name not in data.packs:
                    raise BadInput(f"'{name}' is used but not in packs", f"{where}.uses", "say under packs how it is bought")
            if option.level_db is None and path.area_m2 is None:
                raise BadInput(f"the path '{path.id}' has no area_m2, which a stack or a loss needs", where, "add the area")


def _fitting(i: int, path: PlanPath) -> tuple[PlanOption, ...]:
    """The options there is room for."""
    room = math.inf if path.depth_limit_mm is None else path.depth_limit_mm
    kept = tuple(x for x in path.options if x.depth_mm <= room + 1e-9)
    if path.must and not kept:
        least = min((x.depth_mm for x in path.options), default=None)
        what = "has no options" if least is None else f"has no option within {in_mm(room)}; the thinnest takes {in_mm(least)}"
        raise BadInput(f"'{path.id}' must be treated, but {what}", f"paths[{i}]", "add an option or leave must out")
    return kept


def _ways(path: PlanPath, fitting: tuple[PlanOption, ...]) -> list[PlanPath | PlanOption]:
    return [path, *fitting]


def _levels(data: PlanInput, fitting: list[tuple[PlanOption, ...]]) -> list[Floats]:
    """Per path the levels at the listener, dB, of leaving it and of each option, shape (1 + options, 21)."""
    losses = _predicted(data, fitting)
    common = spectrum_array(data.spectrum_db, "spectrum_db")
    out = []
    for i, path in enumerate(data.paths):
        where = f"paths[{i}]"
        incident = common if path.incident_db is None else spectrum_array(path.incident_db, f"{where}.incident_db")
        rows = []
        for k, one in enumerate(_ways(path, fitting[i])):
            if one.level_db is not None:
                rows.append(spectrum_array(one.level_db, f"{where}.level_db" if k == 0 else f"{where}, option '{one.id}'"))
                continue
            loss = losses[i, k] if one.transmission_loss_db is None else np.array(one.transmission_loss_db)
            if path.cap_db is not None:
                loss = np.minimum(loss, path.cap_db)
            area = np.array([path.area_m2])
            rows.append(listener_levels(incident[None, :], loss[None, :], area, data.receiver.absorption_m2)[0])
        out.append(np.array(rows))
    return out


def _predicted(data: PlanInput, fitting: list[tuple[PlanOption, ...]]) -> dict[tuple[int, int], Floats]:
    """R of every stack by path and place, all predicted together."""
    places: list[tuple[int, int]] = []
    stacks: list[Stack] = []
    for i, path in enumerate(data.paths):
        for k, one in enumerate(_ways(path, fitting[i])):
            if one.stack is not None:
                places.append((i, k))
                stacks.append(one.stack)
    try:
        return {at: np.array(x.transmission_loss_db) for at, x in zip(places, predict_many(stacks), strict=True)}
    except AtStack as error:
        i, k = places[error.index]
        raise error.at(f"paths[{i}].stack" if k == 0 else f"paths[{i}], option '{fitting[i][k - 1].id}'") from None


def _problem(data: PlanInput, fitting: list[tuple[PlanOption, ...]], taken: list[tuple[int, int]], energy_: Floats, now: float,
             ) -> Problem:
    free = PlanOption.model_construct(id=STILL)
    options = [fitting[i][k - 1] if k else free for i, k in taken]
    return Problem(
        path=np.array([i for i, _ in taken], dtype=np.int64), energy=energy_,
        costs=np.array([[x.added_kg, x.money, x.hours] for x in options]),
        needs=np.array([[n in x.needs for n in data.once] for x in options], dtype=bool).reshape(len(options), len(data.once)),
        once_costs=np.array([[x.added_kg, x.money, x.hours] for x in data.once.values()]).reshape(len(data.once), 3),
        uses=np.array([[x.uses.get(n, 0.0) for n in data.packs] for x in options]).reshape(len(options), len(data.packs)),
        pack_size=np.array([x.size for x in data.packs.values()]), pack_money=np.array([x.money for x in data.packs.values()]),
        on_hand=np.array([x.on_hand for x in data.packs.values()]), now=now)
