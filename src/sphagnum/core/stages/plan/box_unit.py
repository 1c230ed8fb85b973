"""A box as one unit of the choice: joint options of its walls and openings, alike walls alike, by one balance of power."""

from __future__ import annotations

import itertools
from typing import NamedTuple

import numpy as np

from ...figures.boxes import box_of, box_paths, rest_absorbed_m2
from ...figures.job_figures import JobFigures
from ...figures.path_levels import path_rows, shaken
from ...figures.ways import cap_of, is_opening, leaks_cm2
from ...levels.bands import PREDICTED_HZ, Floats, Ints
from ...paths.enclosure import BARE_ALPHA, let_out
from ...paths.rows import Path
from ...surfaces.geometry import alike, areas
from ...surfaces.patches import Patch, patches
from .costs import price_of
from .effects import Effects, Heard, openings, weighted
from .options import How, Options, alternatives_like, options_of, spread
from .unit import MOST_OPTIONS, PACKS, Option, Unit, Wish, depth_of, key_of, laid, option_of, width_of, with_more_at

NAME = "The box"
MOST_COMBINED = 12_000
"""Joint options looked at; of each kind of wall so many are kept that there are no more."""


MOST_OWN = 200
"""Of walls that are alike, combinations of their own alternatives."""


class Part(NamedTuple):
    """A way out of the box: its path, its area, its patches by their places among all, what it may be held to, and what of it is
    open, left as it is and sealed, m²."""

    path: Path
    area_m2: float
    patches: tuple[int, ...]
    floor: float
    open_m2: tuple[float, float]


class Box:
    """The balance of a job's box for many choices of what lies on its walls at once."""

    def __init__(self, job: JobFigures) -> None:
        self.job, box, rows = job, box_of(job), path_rows(job)
        assert box is not None
        self.places = box_paths(job.doc)
        inside = [job.doc.paths[i].surface_id for i in self.places]
        self.surfaces = [s for s in job.doc.surfaces if s.id in inside]
        self.patches: tuple[Patch, ...] = tuple(p for s in self.surfaces for p in patches(s))
        self.parts = tuple(self._part(job.doc.paths[i]) for i in self.places)
        # what brings the balance to the level that was read, and to what tests say
        with np.errstate(invalid="ignore"):
            self.level_db = np.array([np.where(np.isfinite(box.now_db[k]), rows.now[i] - box.now_db[k],
                                               rows.bare_planned[i] - box.planned_db[k]) for k, i in enumerate(self.places)])
        self.now_db = np.array([rows.now[i] for i in self.places])

    def _part(self, path: Path) -> Part:
        job = self.job
        surface = next((s for s in self.surfaces if s.id == path.surface_id), None)
        left, sealed = openings(job, path) if path.allowed else (leaks_cm2(job.doc, path)[1],) * 2
        cap = cap_of(job, path).db
        area = (left / 1e4 if is_opening(path) else path.area_m2 or (
            areas(surface).gross_m2 * surface.count if surface is not None else 1.0))
        places = tuple(i for i, p in enumerate(self.patches) if surface is not None and p.id == surface.id)
        return Part(path, area, places, 0.0 if cap is None else 10 ** (-cap / 10), (left / 1e4, sealed / 1e4))

    def levels(self, found: list[Effects], ways: Ints, sealed: bool) -> Floats:
        """Levels at the listener, dB (choices, parts, 21), of choices of what lies on each patch (choices, patches)."""
        shape = (len(ways), len(self.parts), len(PREDICTED_HZ))
        leaving, close, less = np.zeros(shape), np.zeros(shape), np.zeros(shape)
        absorbed = np.zeros((len(ways), len(PREDICTED_HZ)))
        stands = np.zeros((len(ways), 1, 1))
        for k, part in enumerate(self.parts):
            open_m2 = part.open_m2[sealed]
            if is_opening(part.path):
                leaving[:, k] = open_m2
                continue
            if part.path.transmission_loss_db is not None:
                given = part.path.planned_transmission_loss_db or part.path.transmission_loss_db
                tau = np.broadcast_to(10 ** (-np.array(given) / 10), shape[::2])
                absorbed += BARE_ALPHA * part.area_m2
            else:
                tau = np.zeros(shape[::2])
                still = np.zeros(shape[::2])
                for i in part.patches:
                    patch, of, at = self.patches[i], found[i], ways[:, i]
                    tau = tau + patch.share * 10 ** ((patch.excitation_db - of.loss_db[at]) / 10)
                    absorbed += part.area_m2 * patch.share * of.inside[at]
                    close[:, k] += patch.share * of.close[at]
                    still = still + patch.share * 10 ** (-of.less_db[at] / 10)
                less[:, k] = -10 * np.log10(still)
            share = min(open_m2 / part.area_m2, 1.0)
            leaving[:, k] = np.maximum(tau * (1 - share) + share, part.floor) * part.area_m2
            stands[:, 0, 0] += part.area_m2 * (close[:, k] > 0).any(axis=-1)
            close[:, k] *= part.area_m2
        close = np.divide(close, stands, out=np.zeros_like(close), where=stands > 0)
        then = self.level_db + let_out(leaving, absorbed + rest_absorbed_m2(self.job), close)
        for k, part in enumerate(self.parts):
            if part.path.shaken_share and not all(self.patches[i].planned for i in part.patches):
                then[:, k] = shaken(self.now_db[k], then[:, k], less[:, k], part.path.shaken_share)
        return np.asarray(then)


class Group(NamedTuple):
    """Walls that are alike: their patches by their places, and what can be done to all of them, way by way of each."""

    places: tuple[int, ...]
    choices: tuple[tuple[int, ...], ...]


def unit_of_box(job: JobFigures, wish: Wish) -> Unit:
    """The box of a job with at most ``MOST_OPTIONS`` joint options and the one that stands."""
    box = Box(job)
    heard = tuple(Heard(p.path, box.now_db[k], box.now_db[k], None, openings(job, p.path)) for k, p in enumerate(box.parts))
    own = [options_of(job, p, lambda e: np.zeros((len(e.loss_db), 3)), How(wish.struck, own_only=True,
           pinned=_fixed(job, box, p, wish))) for p in box.patches]
    standing = np.array([[_own_way(job, p, o) for p, o in zip(box.patches, own, strict=True)]])
    found, groups = list(own), []
    compared, narrowed = 0, False
    alike_ = _alike(job, box, wish)
    for k, places in enumerate(alike_):
        width = wish.width(k, len(alike_))
        narrowed = narrowed or width < 1
        options, group, looked = _searched(job, box, places, found, standing, wish, compared, width)
        compared += looked
        for i, o in zip(places, options, strict=True):
            found[i] = o
        groups.append(group)
    leaky = any(p.open_m2[0] != p.open_m2[1] for p in box.parts)
    ways = _joint(job, box, found, groups, standing, wish)
    rows: list[tuple[Option, Floats]] = []
    at = 0
    of = [o.effects for o in found]
    ids = frozenset(p.path.id for p in box.parts)
    for sealed in ((False, True) if leaky else (True,)):
        levels = box.levels(of, ways, sealed)
        for n, level in enumerate(levels):
            if sealed and (ways[n] == standing[0]).all():
                at = len(rows)
            rows.append((option_of(job, box.patches, found, tuple(ways[n].tolist()), sealed if leaky else None, ids), level))
    unit = with_more_at(job, wish, NAME, heard, None, rows, at, compared)
    stays = frozenset() if wish.anew else laid(job.doc)
    return unit._replace(laid=bool(box.patches) and all(key_of(p) in stays for p in box.patches),
                         narrowed=narrowed and not wish.own_only)


def _fixed(job: JobFigures, box: Box, patch: Patch, wish: Wish) -> bool:
    stays = frozenset() if wish.anew else laid(job.doc)
    free = all(p.path.allowed for p in box.parts if p.path.surface_id == patch.id)
    return key_of(patch) in stays | wish.pinned or not free


def _own_way(job: JobFigures, patch: Patch, options: Options) -> int:
    """Which of a patch's ways stands now; its panel alone, of one that does not stand yet and has no plan."""
    chosen = job.doc.chosen(patch.id, patch.zone)
    return options.ways.index(chosen) if chosen in options.ways else len(options.ways) - 1


def _alike(job: JobFigures, box: Box, wish: Wish) -> list[tuple[int, ...]]:
    """Patches of walls that may change, those that are alike together."""
    groups: list[list[int]] = []
    for i, p in enumerate(box.patches):
        if _fixed(job, box, p, wish):
            continue
        same = next((g for g in groups if _same(box.patches[g[0]], p)), None)
        if same is None:
            groups.append([i])
        else:
            same.append(i)
    return [tuple(g) for g in groups]


def _same(a: Patch, b: Patch) -> bool:
    return (alike(a, b) and a.substrate.model_copy(update={"id": ""}) == b.substrate.model_copy(update={"id": ""})
            and (a.zone == "") == (b.zone == "") and set(a.flags) == set(b.flags) and a.depth_limit_mm == b.depth_limit_mm
            and a.planned == b.planned and len(a.present) == len(b.present) == 0)


def _searched(
    job: JobFigures, box: Box, places: tuple[int, ...], found: list[Options], standing: Ints, wish: Wish, before: int,
    width: float,
) -> tuple[list[Options], Group, int]:
    """What can be done to walls that are alike: what each has, and what a search of the shelf finds for all of them."""
    first, patch = places[0], box.patches[places[0]]

    def energies(effect: Effects) -> Floats:
        """Of the whole box with each stack on all of these walls, the others as planned."""
        ways = np.repeat(standing, len(effect.loss_db), axis=0)
        ways[:, list(places)] = np.arange(len(effect.loss_db))[:, None]
        of = [effect if i in places else o.effects for i, o in enumerate(found)]
        return np.asarray(weighted(box.levels(of, ways, True), wish.weight_db).sum(axis=1))

    is_shaken = any(p.path.shaken_share for p in box.parts if first in p.patches)
    how = How(wish.struck, is_shaken, False, wish.own_only, width_of(job) * width,
              depth_of(job, patch), lambda more: wish.tick(NAME, before + more))
    options = options_of(job, patch, energies, how)
    new = [(k, way) for k, way in enumerate(options.ways) if way is None or not way.id]
    out, ways_of = [options], [[k for k, _ in new]]
    for i in places[1:]:
        kept = found[i]
        more = [way for _, way in new if way is not None and way.layers]
        joined = alternatives_like(job, box.patches[i], kept, more, is_shaken)
        out.append(joined)
        ways_of.append([_like(joined, way) for _, way in new])
    standing_now = tuple(int(standing[0, i]) for i in places)
    own_first = (_moved(found[first], options, standing_now[0]), *standing_now[1:])
    mine = [tuple(x) for x in itertools.product(*([k for k, w in enumerate(o.ways) if w is not None and w.id] for o in out))]
    choices = tuple(dict.fromkeys([own_first, *mine[:MOST_OWN], *zip(*ways_of, strict=True)]))
    standing[0, list(places)] = own_first
    return out, Group(places, choices), options.compared


def _moved(old: Options, new: Options, k: int) -> int:
    """Where a way of some options stands among others that hold it too."""
    return next(i for i, w in enumerate(new.ways) if w == old.ways[k])


def _like(options: Options, way: object) -> int:
    """The way of a wall that is like one of another."""
    layers = getattr(way, "layers", None)
    return next(k for k, w in enumerate(options.ways) if (w is None) == (way is None) and (
        w is None or (not w.id and w.layers == layers)))


def _joint(job: JobFigures, box: Box, found: list[Options], groups: list[Group], standing: Ints, wish: Wish) -> Ints:
    """What lies on all walls together, (choices, patches): those that none beats, and what stands."""
    of = [o.effects for o in found]
    figures = [np.array([[c.kg, price_of(job.shelf, c), c.hours] for c in o.costs]) for o in found]
    each = max(4, int(MOST_COMBINED ** (1 / max(len(groups), 1))))

    def table(ways: Ints) -> Floats:
        energy = weighted(box.levels(of, ways, True), wish.weight_db)[..., 0].sum(axis=1)
        costs = sum((f[ways[:, i]] for i, f in enumerate(figures)), np.zeros((len(ways), 3)))
        barred = np.any([np.isin(ways[:, i], sorted(o.barred)) for i, o in enumerate(found)], axis=0)
        return np.column_stack([np.where(barred, np.inf, energy), costs])

    if not groups:
        return standing
    kept = []
    for g in groups:
        ways = np.repeat(standing, len(g.choices), axis=0)
        ways[:, list(g.places)] = np.array(g.choices)
        kept.append([g.choices[i] for i in sorted({0, *spread(table(ways), each)})])
    grid = np.stack(np.meshgrid(*(np.arange(len(k)) for k in kept), indexing="ij"), axis=-1).reshape(-1, len(kept))
    ways = np.repeat(standing, len(grid), axis=0)
    for n, g in enumerate(groups):
        ways[:, list(g.places)] = np.array(kept[n])[grid[:, n]]
    best = spread(table(ways), MOST_OPTIONS, PACKS)
    own = np.flatnonzero((ways == standing).all(axis=1))[:1].tolist()
    return np.asarray(ways[sorted({*best, *own})], dtype=np.int64)
