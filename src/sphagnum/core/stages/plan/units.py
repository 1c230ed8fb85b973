"""What a plan chooses for: surfaces with their ways in, openings, given levels; each with its options as levels and costs."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator
from functools import partial

import numpy as np

from ...figures.boxes import box_paths
from ...figures.job_figures import JobFigures
from ...figures.path_levels import path_rows
from ...levels.bands import Floats
from ...surfaces.geometry import alike
from ...surfaces.patches import patches
from ...surfaces.rows import Surface
from ...worded import of
from ..fit.hours import worked_hours
from .box_unit import unit_of_box
from .costs import Cost, price_of
from .effects import Effects, Heard, heard, level_with, together, weighted
from .options import How, Options, alternatives_like, options_of, spread
from .searched import begun_with, keeping, known
from .unit import (
    MOST_OPTIONS,
    PACKS,
    Option,
    Unit,
    Wish,
    depth_of,
    key_of,
    laid,
    option_of,
    width_of,
    with_more_at,
    without_ids,
)

LEAST_CM2 = 1e-6
"""What stays open of a leak that is sealed."""


def units_of(job: JobFigures, wish: Wish) -> Iterator[Unit]:
    """The units of a job in order of its paths, one by one as they are worked out; ways whose level is unknown are left out."""
    rows = path_rows(job)
    boxed = frozenset(box_paths(job.doc))
    if boxed and not any(rows.problems[i] for i in boxed):
        yield unit_of_box(job, wish)
    known = [i for i, p in enumerate(job.doc.paths) if not (p.unknown or rows.problems[i] or i in boxed)]
    ids = dict.fromkeys(p.surface_id for i in known if (p := job.doc.paths[i]).surface_id is not None)
    surfaces = [s for k in ids for s in job.doc.surfaces if s.id == k]
    twins: dict[int, int | None] = {}
    for surface in surfaces:
        twins[surface.id] = next((k for k in twins if _twins(job, k, surface, wish)), None)
    to_search = [(s, i) for s in surfaces if twins[s.id] is None for i in range(len(patches(s)))]
    hangs_on = "" if wish.searched is None or wish.own_only else begun_with(job, wish.struck, wish.weight_db)
    searched = wish.hands([partial(_options, job, s, i, wish, (k, len(to_search)), hangs_on=hangs_on)
                           for k, (s, i) in enumerate(to_search)])
    seen: dict[int, list[Options]] = {}
    for i in known:
        path = job.doc.paths[i]
        if path.surface_id is None:
            yield _opening(job, heard(job, i), wish)
        elif path.surface_id not in seen:
            surface, twin = next(s for s in surfaces if s.id == path.surface_id), twins[path.surface_id]
            count = len(patches(surface))
            seen[surface.id] = [
                next(searched) if twin is None else _options(job, surface, k, wish, (0, 1), True, twin=seen[twin][k])
                for k in range(count)]
            yield _surface(job, surface, _heard(job, surface), wish, seen[surface.id])._replace(twin=twin)


def _heard(job: JobFigures, surface: Surface) -> tuple[Heard, ...]:
    return tuple(heard(job, k) for k, p in enumerate(job.doc.paths) if p.surface_id == surface.id)


def _opening(job: JobFigures, one: Heard, wish: Wish) -> Unit:
    """A way through no surface of the job: left as it is, or as it is planned."""
    known = path_rows(job)
    at = next(i for i, p in enumerate(job.doc.paths) if p.id == one.path.id)
    planned = known.now[at] if not one.path.allowed else known.bare_planned[at]
    now, then = one.open_cm2
    if one.path.allowed and then < now and np.array_equal(planned, known.now[at]):
        # an earlier plan left it open
        planned = known.now[at] + 10 * math.log10(max(then, LEAST_CM2) / now)
    leaks = [x for x in job.doc.leaks if x.path_id == one.path.id]
    done = bool(leaks) and all(x.sealed for x in leaks)
    hours = worked_hours(job, sum(job.shelf.minutes["seal a leak"] for x in leaks if not x.sealed))
    ways = [(False, known.now[at], Cost()), (True, planned, Cost(hours=hours))]
    if np.array_equal(planned, known.now[at]):
        ways = ways[:1]
    elif done or not hours:
        ways = ways[1:]  # what costs nothing is not left undone
    rows = [(Option("as it is" if not sealed else _then(one), (), sealed, (), cost, (), not sealed), level[None, :])
            for sealed, level, cost in ways]
    return with_more_at(job, wish, one.path.name, (one,), None, rows, len(ways) - 1, 0)


def _then(one: Heard) -> str:
    left = one.open_cm2[1]
    return "as planned" if one.open_cm2[0] == left else f"{of(left, 'cm²')} left open" if left else "sealed"


LIKE_DB = 1.0
"""Twins are as loud outside, to within so much."""


def _twins(job: JobFigures, first: int, surface: Surface, wish: Wish) -> bool:
    """Whether a surface is like one before it, or its mirror: what is laid left is laid right. Both may change."""
    one = next(s for s in job.doc.surfaces if s.id == first)
    fixed = wish.pinned | (frozenset() if wish.anew else laid(job.doc))
    loud = [[p for p in job.doc.paths if p.surface_id == s.id] for s in (one, surface)]
    same = (alike(one, surface) and one.count == surface.count and not one.zones and not surface.zones
            and without_ids((one.substrate, *one.present)) == without_ids((surface.substrate, *surface.present))
            and set(one.flags) == set(surface.flags) and one.depth_limit_mm == surface.depth_limit_mm
            and one.kg_limit == surface.kg_limit and one.planned == surface.planned and one.survey_do == surface.survey_do)
    return same and len(loud[0]) == len(loud[1]) == 1 and all(p.allowed for [p] in loud) and not (
        {f"{first}", f"{surface.id}"} & fixed) and abs(
        loud[0][0].incident_offset_db - loud[1][0].incident_offset_db) <= LIKE_DB


def _options(
    job: JobFigures, surface: Surface, place: int, wish: Wish, begun: tuple[int, int], here: bool, *, hangs_on: str = "",
    twin: Options | None = None,
) -> Options:
    """What can be done on a patch of a surface, by its place; on a twin what was found for the other. ``begun``: how many of
    all patches were begun before it; ``here``: in the process that tells how far it is; ``hangs_on``: what its search hangs on
    beside that, where it may be known."""
    patch, paths = patches(surface)[place], _heard(job, surface)
    fixed = wish.pinned | (frozenset() if wish.anew else laid(job.doc))
    shaken = any(h.through is not None and h.through.shaken_share for h in paths)

    def energies(effect: Effects) -> Floats:
        return sum((weighted(level_with(h, effect.loss_db, effect.less_db, True), wish.weight_db) for h in paths), np.zeros(3))

    def tick(stacks: int) -> None:
        if here:
            wish.tick(surface.name, stacks)
    own_only = wish.own_only or twin is not None
    width = 1.0 if own_only else wish.width(*begun)
    pinned = key_of(patch) in fixed or not all(h.path.allowed for h in paths)
    how = How(wish.struck, shaken, pinned, own_only, width_of(job) * width, depth_of(job, patch), tick)
    before = None
    if wish.searched is not None and hangs_on:
        key = f"{hangs_on[:40]}-{surface.id}-{place}"
        before = known(wish.searched, key)
        if before is not None:
            how = how._replace(known=lambda _: before)
        elif width == 1:  # what the clock narrowed is not worth keeping
            how = how._replace(known=partial(keeping, wish.searched, key))
    own = options_of(job, patch, energies, how)._replace(
        narrowed=width < 1 and before is None and not (how.pinned or how.own_only))
    more = [] if twin is None else [x for x in twin.ways if x is not None and not x.id and x.layers]
    return alternatives_like(job, patch, own, more, shaken) if more else own


def _surface(job: JobFigures, surface: Surface, paths: tuple[Heard, ...], wish: Wish, found: list[Options]) -> Unit:
    parts = patches(surface)
    stays = frozenset() if wish.anew else laid(job.doc)
    chosen = tuple(job.doc.chosen(p.id, p.zone) for p in parts)
    combos = _combos(job, surface, paths, found, wish)
    leaky = any(h.open_cm2[0] != h.open_cm2[1] for h in paths)
    rows: list[tuple[Option, Floats]] = []
    own = 0
    for places in combos:
        for sealed in ((False, True) if leaky else (True,)):
            option = option_of(job, parts, found, places, sealed if leaky else None, frozenset(h.path.id for h in paths))
            level = np.array([level_with(h, *_as_one(surface, found, [places]), sealed)[0] for h in paths])
            if tuple(o.ways[k] for o, k in zip(found, places, strict=True)) == chosen and sealed:
                own = len(rows)
            rows.append((option, level))
    unit = with_more_at(job, wish, surface.name, paths, surface, rows, own, sum(o.compared for o in found))
    return unit._replace(laid=all(key_of(p) in stays for p in parts), narrowed=any(o.narrowed for o in found))


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
    barred = np.any([np.isin(places[:, p], sorted(o.barred)) for p, o in enumerate(found)], axis=0)
    energy = np.where(barred, np.inf, energy)
    kept = set(spread(np.column_stack([energy, sums[0], money, sums[1]]), MOST_OPTIONS, PACKS))
    kept_by_job = [{k for k, one in enumerate(o.ways) if one is None or one.id} for o in found]
    always = {i for i, c in enumerate(every) if all(k in mine for k, mine in zip(c, kept_by_job, strict=True))}
    return [every[i] for i in sorted(kept | always)]


