"""What a unit of the choice is, and what its options are made of: stacks on its patches, seals, measures at its paths."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterable
from typing import NamedTuple

import numpy as np

from ...figures.job_figures import JobFigures
from ...figures.loads import measure_goods
from ...figures.measures import less_measure
from ...figures.where import room_of
from ...fitting.history import as_they_happened, histories
from ...hands import Hands, one_by_one
from ...job.document import JobDocument
from ...job.shelf import Shelf
from ...levels.bands import Floats
from ...paths.rows import Measure
from ...surfaces.patches import Patch, patches
from ...surfaces.rows import Alternative, Layers, Surface
from ..fit.hours import worked_hours
from .build_ways import BuildWay, fit_together, less_builds
from .costs import Cost, fixed_hours, goods_cost
from .effects import Heard
from .options import Options
from .searched import Searched

MOST_OPTIONS = 80
"""Of a surface in zones: so many combinations go into the search."""


PACKS = np.array([1.0, 1.0, 0.85, 1.0])
"""An option goes on though another is up to a seventh cheaper: whole packs may turn that."""
USUAL_PATCHES = 7
"""A job of more patches has fewer stacks of each looked at, so that it takes no longer."""


class Option(NamedTuple):
    """One thing done to a unit: what lies on each patch and what that is called, whether leaks are sealed, measures at its paths;
    its cost."""

    name: str
    ways: tuple[tuple[Patch, Alternative | None, str], ...]
    sealed: bool | None
    measures: tuple[Measure, ...]
    cost: Cost
    needs: tuple[str, ...]
    still: bool
    kinds: frozenset[str] = frozenset()
    """Materials that lie in its stacks."""
    stack: tuple[Layers, ...] = ()
    """What is new on each patch, whoever keeps it: twins take alike."""
    barred: bool = False
    """Whether the trade warns of it, so that no plan proposes it."""
    builds: tuple[BuildWay, ...] = ()
    """What becomes of each build that acts on its paths alone."""


class Unit(NamedTuple):
    """What is chosen for: its paths, its options, and their levels at the listener, dB (options, paths, 21)."""

    name: str
    paths: tuple[Heard, ...]
    surface: Surface | None
    options: tuple[Option, ...]
    level_db: Floats
    own: int
    """The option that stands in the plan now."""
    compared: int
    laid: bool = False
    twin: int | None = None
    """A surface before it that it is like, so that the same is laid on both."""
    narrowed: bool = False
    """Whether the clock let fewer stacks be compared than are worth it."""


class Wish(NamedTuple):
    """What holds for the search: weights of the quantity, patches pinned, materials struck, whether only the job's own
    alternatives count."""

    weight_db: Floats
    pinned: frozenset[str]
    struck: frozenset[str]
    own_only: bool = False
    anew: bool = False
    tick: Callable[[str, int], None] = lambda _name, _stacks: None
    """Hears, as it goes, how many stacks of a surface are compared."""

    width: Callable[[int, int], float] = lambda _before, _all: 1.0
    """By what share of the usual many stacks a patch is searched now, when so many of all were begun before it: less where the
    clock would end before the choice."""
    builds: tuple[tuple[BuildWay, ...], ...] = ()
    """What can be done with each build."""
    hands: Hands = one_by_one
    """Who searches patches."""
    searched: Searched | None = None
    """Where it is kept what searches found."""


def depth_of(job: JobFigures, patch: Patch) -> float:
    """How deep a new lining of a patch may be, mm."""
    room = room_of(job, patch)
    return 1e9 if room.mm is None else room.mm


def key_of(patch: Patch) -> str:
    """How a patch is named when it is pinned."""
    return f"{patch.id}:{patch.zone}" if patch.zone else f"{patch.id}"


def laid(doc: JobDocument) -> frozenset[str]:
    """Patches on which something of the plan is laid already."""
    stand = histories(as_they_happened(doc.step_events))
    begun = (r for r, h in stand.items() if r.phase in ("apply", "seal") and (h.done or h.laid))
    return frozenset(f"{r.surface_id}:{r.zone}" if r.zone else f"{r.surface_id}" for r in begun if r.surface_id is not None)


def width_of(job: JobFigures) -> float:
    """By what share of the usual many stacks a patch is searched."""
    return min(1.0, USUAL_PATCHES / max(sum(len(patches(s)) for s in job.doc.surfaces), 1))


def option_of(
    job: JobFigures, parts: tuple[Patch, ...], found: list[Options], places: tuple[int, ...], sealed: bool | None,
    path_ids: frozenset[int],
) -> Option:
    """One thing done to patches together: what lies on each, and whether what was found open at their paths is sealed."""
    cost, needs, names = Cost(), [], []
    for patch, options, k in zip(parts, found, places, strict=True):
        one = options.ways[k]
        if one is None:
            continue
        own, access = fixed_hours(job, patch)
        shared = patch.shares_access
        cost = cost.plus(options.costs[k]).plus(Cost(hours=own + (0.0 if shared else access)))
        needs += [shared] if shared and access else []
        zone = next((z.name for z in patch.whole.zones if z.id == patch.zone), "")
        several = len({p.id for p in parts}) > 1
        where = ", ".join(x for x in (patch.whole.name if several else "", zone) if x)
        names.append(f"{where}: {options.names[k]}" if where else options.names[k])
    still = all(o.ways[k] is None for o, k in zip(found, places, strict=True))
    if sealed:
        leaks = [x for x in job.doc.leaks if not x.sealed and x.path_id in path_ids]
        cost = cost.plus(Cost(hours=worked_hours(job, len(leaks) * job.shelf.minutes["seal a leak"])))
        names.append("its leaks sealed")
    ways = tuple((p, o.ways[k], o.names[k]) for p, o, k in zip(parts, found, places, strict=True))
    kinds = kinds_in(job.shelf, (one.layers for _, one, _ in ways if one is not None))
    barred = any(k in o.barred for o, k in zip(found, places, strict=True))
    return Option("; ".join(names) or "as it is", ways, sealed, (), cost, tuple(dict.fromkeys(needs)), still and not sealed,
                  kinds, tuple(() if one is None else without_ids(one.layers) for _, one, _ in ways), barred)


def kinds_in(shelf: Shelf, stacks: Iterable[Layers]) -> frozenset[str]:
    """The kinds of material that stacks lay, by id."""
    return frozenset(x.material for layers in stacks for x in layers
                     if shelf.material(x.material).lies and shelf.material(x.material).family != "air")


def without_ids(layers: Layers) -> Layers:
    """Layers as they lie, whichever rows they are: two stacks are compared by it."""
    return tuple(x.model_copy(update={"id": ""}) for x in layers)


def measures_at(job: JobFigures, paths: tuple[Heard, ...]) -> tuple[Measure, ...]:
    ids = {h.path.id for h in paths}
    return tuple(m for m in job.doc.measures if m.at == "path" and m.path_id in ids)


def with_more_at(
    job: JobFigures, wish: Wish, name: str, paths: tuple[Heard, ...], surface: Surface | None,
    rows: list[tuple[Option, Floats]], own: int, compared: int,
) -> Unit:
    """A unit with its options, each without and with the measures there are at its paths, and with what can become of the builds
    that act there."""
    at = measures_at(job, paths)
    ids = {h.path.id for h in paths}
    ways = [x for x in itertools.product(*(w for w in wish.builds if w[0].build.path_id in ids)) if fit_together(job.doc, x)]
    options: list[Option] = []
    levels: list[Floats] = []
    own_at = 0
    for i, (option, level) in enumerate(rows):
        for taken, builds in itertools.product(_every(at), ways):
            then, cost = level, option.cost
            for m in taken:
                then = np.array([less_measure(x, h.path, m) for x, h in zip(then, paths, strict=True)])
                cost = cost.plus(measure_cost(job, m))
            for w in builds:
                then = np.array([less_builds(job.doc, x, h.path, (w,)) for x, h in zip(then, paths, strict=True)])
                cost = cost.plus(w.cost)
            if i == own and {m.id for m in taken} == {m.id for m in at if m.chosen} and all(w.own for w in builds):
                own_at = len(options)
            more = [*(w.name for w in builds if w.name), *(m.name for m in taken)]
            called = "; ".join([*([] if option.still and more else [option.name]), *more])
            options.append(option._replace(name=called, measures=taken, builds=builds, cost=cost,
                                           still=option.still and not more))
            levels.append(then)
    return Unit(name, paths, surface, tuple(options), np.array(levels), own_at, compared)


def _every(measures: tuple[Measure, ...]) -> list[tuple[Measure, ...]]:
    return [taken for count in range(len(measures) + 1) for taken in itertools.combinations(measures, count)]


def measure_cost(job: JobFigures, measure: Measure) -> Cost:
    """What a measure costs and takes, as the work order has it."""
    minutes = 60 * measure.hours if measure.hours is not None else job.shelf.minutes["at the source"]
    return goods_cost(job, measure_goods(measure), 1)._replace(hours=worked_hours(job, minutes)).plus(
        Cost(money=measure.money or 0.0))
