"""What a plan chooses for: surfaces with their ways in, openings, given levels; each with its options as levels and costs."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterator
from functools import partial
from typing import NamedTuple

import numpy as np

from ...figures.job_figures import JobFigures
from ...figures.measures import less_measure
from ...figures.path_levels import path_rows
from ...job.document import JobDocument
from ...levels.bands import Floats
from ...paths.rows import Measure
from ...surfaces.patches import Patch, patches
from ...surfaces.rows import Alternative, Surface
from .costs import Cost, fixed_hours, price_of
from .effects import Effects, Heard, heard, level_with, together, weighted
from .options import How, Options, options_of, spread

MOST_OPTIONS = 80
"""Of a surface in zones: so many combinations go into the search."""


PACKS = np.array([1.0, 1.0, 0.85, 1.0])
"""An option goes on though another is up to a seventh cheaper: whole packs may turn that."""
LEAST_CM2 = 1e-6
"""What stays open of a leak that is sealed."""
USUAL_PATCHES = 7
"""A job of more patches has fewer stacks of each looked at, so that it takes no longer."""


class Option(NamedTuple):
    """One thing done to a unit: what lies on each patch, whether leaks are sealed, measures at its paths; its cost and error."""

    name: str
    ways: tuple[tuple[Patch, Alternative | None], ...]
    sealed: bool | None
    measures: tuple[Measure, ...]
    cost: Cost
    needs: tuple[str, ...]
    error_db: float
    still: bool


class Unit(NamedTuple):
    """What is chosen for: its paths, its options, and their levels at the listener, dB (options, paths, 21)."""

    name: str
    paths: tuple[Heard, ...]
    surface: Surface | None
    options: tuple[Option, ...]
    level_db: Floats
    own: int
    """The option that stands in the plan now."""
    predicted: int
    laid: bool = False


class Wish(NamedTuple):
    """What holds for the search: weights of the quantity, patches pinned, materials struck, whether only the job's own
    alternatives count."""

    weight_db: Floats
    pinned: frozenset[str]
    struck: frozenset[str]
    own_only: bool = False
    anew: bool = False
    tick: Callable[[str, int], None] = lambda _name, _stacks: None
    """Hears, as it goes, how many stacks of a surface are predicted."""


def key_of(patch: Patch) -> str:
    """How a patch is named when it is pinned."""
    return f"{patch.id}:{patch.zone}" if patch.zone else f"{patch.id}"


def laid(doc: JobDocument) -> frozenset[str]:
    """Patches on which something of the plan is laid already."""
    last: dict[tuple[int | None, str, str], str] = {}
    for event in doc.step_events:
        if event.phase in ("apply", "seal") and event.what in ("done", "undone") and event.surface_id is not None:
            last[(event.surface_id, event.zone, event.layer)] = event.what
    return frozenset(f"{s}:{z}" if z else f"{s}" for (s, z, _), what in last.items() if what == "done")


def units_of(job: JobFigures, wish: Wish) -> Iterator[Unit]:
    """The units of a job in order of its paths, one by one as they are worked out; ways whose level is unknown are left out."""
    rows = path_rows(job)
    seen: set[int] = set()
    for i, path in enumerate(job.doc.paths):
        if path.unknown or rows.problems[i] or path.surface_id in seen:
            continue
        if path.surface_id is None:
            yield _opening(job, heard(job, i))
        else:
            seen.add(path.surface_id)
            mine = tuple(heard(job, k) for k, p in enumerate(job.doc.paths) if p.surface_id == path.surface_id)
            yield _surface(job, next(s for s in job.doc.surfaces if s.id == path.surface_id), mine, wish)


def _measures_at(job: JobFigures, paths: tuple[Heard, ...]) -> tuple[Measure, ...]:
    ids = {h.path.id for h in paths}
    return tuple(m for m in job.doc.measures if m.at == "path" and m.path_id in ids)


def _opening(job: JobFigures, one: Heard) -> Unit:
    """A way through no surface of the job: left as it is, or as it is planned."""
    rows = path_rows(job)
    at = next(i for i, p in enumerate(job.doc.paths) if p.id == one.path.id)
    planned = rows.now[at] if not one.path.allowed else _planned_bare(job, at)
    now, then = one.open_cm2
    if one.path.allowed and then < now and np.array_equal(planned, rows.now[at]):
        # an earlier plan left it open
        planned = rows.now[at] + 10 * math.log10(max(then, LEAST_CM2) / now)
    leaks = [x for x in job.doc.leaks if x.path_id == one.path.id]
    done = bool(leaks) and all(x.sealed for x in leaks)
    hours = sum(job.shelf.minutes["seal a leak"] * job.shelf.pace for x in leaks if not x.sealed) / 60
    ways = [(False, rows.now[at], Cost()), (True, planned, Cost(hours=hours))]
    if np.array_equal(planned, rows.now[at]):
        ways = ways[:1]
    elif done or not hours:
        ways = ways[1:]  # what costs nothing is not left undone
    return _with_measures(job, one.path.name, (one,), None, [
        (Option("as it is" if not sealed else _then(one), (), sealed, (), cost, (),
                0.0, not sealed), level[None, :]) for sealed, level, cost in ways], len(ways) - 1, 0)


def _then(one: Heard) -> str:
    left = one.open_cm2[1]
    return "as planned" if one.open_cm2[0] == left else f"{left:g} cm² left open" if left else "sealed"


def _planned_bare(job: JobFigures, at: int) -> Floats:
    """The planned level of a way without what measures take off it."""
    bare = job.of(job.doc.model_copy(update={"measures": ()})) if job.doc.measures else job
    found: Floats = path_rows(bare).planned[at]
    return found


def _surface(job: JobFigures, surface: Surface, paths: tuple[Heard, ...], wish: Wish) -> Unit:
    parts = patches(surface)
    stays = frozenset() if wish.anew else laid(job.doc)
    fixed = stays | wish.pinned
    free = all(h.path.allowed for h in paths)
    shaken = any(h.through is not None and h.through.shaken_share for h in paths)
    width = min(1.0, USUAL_PATCHES / max(sum(len(patches(s)) for s in job.doc.surfaces), 1))
    found: list[Options] = []
    for patch in parts:
        def energies(effect: Effects, patch: Patch = patch) -> Floats:
            return sum((weighted(level_with(h, effect.loss_db, effect.less_db, True), wish.weight_db) for h in paths),
                       np.zeros(3))
        tick = partial(_told, wish, surface.name, sum(o.predicted for o in found))
        kept = key_of(patch) in fixed or not free
        found.append(options_of(job, patch, energies, How(wish.struck, shaken, kept, wish.own_only, width, tick)))
    chosen = tuple(job.doc.chosen(p.id, p.zone) for p in parts)
    combos = _combos(job, surface, paths, found, wish)
    leaky = any(h.open_cm2[0] != h.open_cm2[1] for h in paths)
    rows: list[tuple[Option, Floats]] = []
    own = 0
    for places in combos:
        for sealed in ((False, True) if leaky else (True,)):
            option = _option(job, parts, found, places, sealed if leaky else None)
            level = np.array([level_with(h, *_as_one(surface, found, [places]), sealed)[0] for h in paths])
            if tuple(o.ways[k] for o, k in zip(found, places, strict=True)) == chosen and sealed:
                own = len(rows)
            rows.append((option, level))
    unit = _with_measures(job, surface.name, paths, surface, rows, own, sum(o.predicted for o in found))
    return unit._replace(laid=all(key_of(p) in stays for p in parts))


def _told(wish: Wish, name: str, before: int, more: int) -> None:
    wish.tick(name, before + more)


def _as_one(surface: Surface, found: list[Options], combos: list[tuple[int, ...]]) -> tuple[Floats, Floats]:
    """R and shaken change of a whole surface for combinations of what lies on its patches, dB (combinations, 21)."""
    places = np.array(combos)
    losses = np.array([o.effects.loss_db[places[:, p]] for p, o in enumerate(found)])
    less = np.array([part.share * 10 ** (-o.effects.less_db[places[:, p]] / 10)
                     for p, (o, part) in enumerate(zip(found, patches(surface), strict=True))])
    return together(surface, losses), np.asarray(-10 * np.log10(less.sum(axis=0)))


def _combos(
    job: JobFigures, surface: Surface, paths: tuple[Heard, ...], found: list[Options], wish: Wish,
) -> list[tuple[int, ...]]:
    """What lies on each patch together: those combinations that none beats, and the job's own."""
    every = list(itertools.product(*(range(len(o.ways)) for o in found)))
    loss, less = _as_one(surface, found, every)
    energy = sum((weighted(level_with(h, loss, less, True), wish.weight_db)[:, 0] for h in paths), np.zeros(len(every)))
    price = [np.array([price_of(job.shelf, c) for c in o.costs]) for o in found]
    places = np.array(every)
    sums = [sum(np.array([getattr(c, name) for c in o.costs])[places[:, p]] for p, o in enumerate(found))
            for name in ("kg", "hours")]
    money = sum(price[p][places[:, p]] for p in range(len(found)))
    kept = set(spread(np.column_stack([energy, sums[0], money, sums[1]]), MOST_OPTIONS, PACKS))
    kept_by_job = [{k for k, one in enumerate(o.ways) if one is None or one.id} for o in found]
    always = {i for i, c in enumerate(every) if all(k in mine for k, mine in zip(c, kept_by_job, strict=True))}
    return [every[i] for i in sorted(kept | always)]


def _option(
    job: JobFigures, parts: tuple[Patch, ...], found: list[Options], places: tuple[int, ...], sealed: bool | None
) -> Option:
    cost, needs, names, error = Cost(), [], [], 0.0
    for patch, options, k in zip(parts, found, places, strict=True):
        one = options.ways[k]
        if one is None:
            continue
        own, access = fixed_hours(job, patch)
        shared = patch.shares_access
        cost = cost.plus(options.costs[k]).plus(Cost(hours=own + (0.0 if shared else access)))
        needs += [shared] if shared and access else []
        zone = next((z.name for z in patch.whole.zones if z.id == patch.zone), "")
        names.append(f"{zone}: {options.names[k]}" if zone else options.names[k])
        error = max(error, float(options.effects.error_db[k]))
    still = all(o.ways[k] is None for o, k in zip(found, places, strict=True))
    if sealed:
        leaks = [x for x in job.doc.leaks if not x.sealed and x.path_id in {
            p.id for p in job.doc.paths if p.surface_id == parts[0].id}]
        cost = cost.plus(Cost(hours=len(leaks) * job.shelf.minutes["seal a leak"] * job.shelf.pace / 60))
        names.append("its leaks sealed")
    return Option("; ".join(names) or "as it is", tuple((p, o.ways[k]) for p, o, k in zip(parts, found, places, strict=True)),
                  sealed, (), cost, tuple(dict.fromkeys(needs)), error, still and not sealed)


def _with_measures(
    job: JobFigures, name: str, paths: tuple[Heard, ...], surface: Surface | None, rows: list[tuple[Option, Floats]], own: int,
    predicted: int,
) -> Unit:
    """A unit with its options, each without and with the measures there are at its paths."""
    at = _measures_at(job, paths)
    options: list[Option] = []
    levels: list[Floats] = []
    own_at = 0
    for i, (option, level) in enumerate(rows):
        for count in range(len(at) + 1):
            for taken in itertools.combinations(at, count):
                then = level
                for m in taken:
                    then = np.array([less_measure(x, h.path, m) for x, h in zip(then, paths, strict=True)])
                cost = option.cost
                for m in taken:
                    cost = cost.plus(measure_cost(job, m))
                if i == own and {m.id for m in taken} == {m.id for m in at if m.chosen}:
                    own_at = len(options)
                called = "; ".join([*([] if option.still and taken else [option.name]), *(m.name for m in taken)])
                options.append(option._replace(name=called, measures=taken, cost=cost, still=option.still and not taken))
                levels.append(then)
    return Unit(name, paths, surface, tuple(options), np.array(levels), own_at, predicted)


def measure_cost(job: JobFigures, measure: Measure) -> Cost:
    """What a measure costs and takes, as the work order has it."""
    minutes = 60 * measure.hours if measure.hours is not None else job.shelf.minutes["at the source"]
    return Cost(0.0, measure.money or 0.0, minutes * job.shelf.pace / 60)
