"""The stacks of one patch worth a thought: made from the kit, compared, and only those kept that no other beats."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from functools import cached_property, lru_cache
from typing import NamedTuple

import numpy as np

from ...errors import BadInput
from ...figures.job_figures import JobFigures
from ...figures.lays import panel_loss, planned_lay
from ...figures.loads import Load
from ...figures.many import known_ahead
from ...job.shelf import Shelf
from ...levels.bands import Bools, Floats, Ints
from ...materials.model import Material
from ...planning.problem import unbeaten_rows
from ...rules.engine import Rule, Spoken
from ...rules.layers import LOSES_DB, loses_at
from ...stacks.predict import Prediction
from ...surfaces.patches import Patch, nothing_on
from ...surfaces.rows import Alternative, StackLayerIn
from ..build.budgets import JobSums
from ..build.curves import grown, worse
from ..build.trade import loss_before, said, strong_hz
from .candidates import Kit, Lasts, Layers, alternative_of, kit_of, name_of, side_of
from .compared import EASED, ENERGIES, Compared, Tried, together
from .costs import Cost, alternative_cost, layer_cost, price_of
from .effects import Effects, effects, lay_of
from .searched import Found

MOST_DAMPINGS, MOST_LININGS, MOST_TOPPED, MOST_KEPT = 36, 160, 48, 40
LEAST_KEPT = 10
"""How many of each go on to the next step, spread over what they give and cost."""
NO_SUMS = JobSums(kg=0.0, money=0.0, bought_kg=0.0, bought_money=0.0, measures_money=0.0, hours=0.0, late=False, older=False,
                  estimated=(), unpriced=())

Energies = Callable[[Effects], Floats]
"""Energies of stacks on a patch at the listener, over plausible sources (stacks, 3)."""


AT_ONCE = 1024
"""Stacks predicted in one go, which holds what is kept of them meanwhile."""


class How(NamedTuple):
    """How a patch is searched: materials struck, whether its panel is shaken, whether it keeps what is chosen, whether only
    what the job has counts, by what share of the usual many, how deep it may be, who hears how many stacks were compared, and who
    may know what its search finds."""

    struck: frozenset[str]
    shaken: bool = False
    pinned: bool = False
    own_only: bool = False
    width: float = 1.0
    depth_mm: float = 1e9
    tick: Callable[[int], None] = lambda _: None
    known: Callable[[Callable[[], Found]], Found] = lambda search: search()


class Options(NamedTuple):
    """What could be done to a patch: alternatives (None: nothing), their effects, costs and names; how many were compared."""

    ways: tuple[Alternative | None, ...]
    effects: Effects
    costs: tuple[Cost, ...]
    names: tuple[str, ...]
    compared: int
    barred: frozenset[int] = frozenset()
    """Ways the trade warns of, which no plan proposes though the job keeps them."""
    narrowed: bool = False
    """Whether the clock let fewer stacks be compared than are worth it."""


class Seeker:
    """Looks for the stacks of one patch."""

    def __init__(self, job: JobFigures, patch: Patch, energies: Energies, how: How) -> None:
        self.job, self.patch, self.energies, self.how = job, patch, energies, how
        self.compared = self.predicted = 0
        self._usual: dict[bool, frozenset[str]] = {}
        self._cost: dict[object, Cost] = {}
        panel = patch.substrate.model_copy(update={"id": "panel"})
        self._basis = layer_cost(job, patch, (panel,), 0) if patch.planned else Cost()

    @cached_property
    def _before(self) -> Floats | None:
        """What a lining has to gain over, R (21,), where the trade warns of one that resonates; None where it does not."""
        rule = next((r.id for r in warning_rules(self.job.shelf) if r.when == "low_resonance"), None)
        try:
            return None if rule is None or rule in self._anyway(True) else loss_before(self.job, self.patch)
        except BadInput:
            return None

    def _anyway(self, by_curve: bool) -> frozenset[str]:
        """What the trade says against the patch untreated."""
        if by_curve not in self._usual:
            self._usual[by_curve] = against(self.job, self.patch, nothing_on(self.patch), by_curve=by_curve)
        return self._usual[by_curve]

    def against(self, one: Alternative, kg: float, by_curve: bool = False) -> frozenset[str]:
        """What the trade says against an alternative and not of the patch untreated, whatever is sealed beside it."""
        return against(self.job, self.patch, one, kg, by_curve) - self._anyway(by_curve) - BY_WHAT_IS_SEALED

    def cost(self, layers: Layers) -> Cost:
        """What layers add, with the panel where it does not stand yet."""
        total = self._basis
        for k, layer in enumerate(layers):
            own = (layer.material, layer.thickness_mm, layer.coverage, layer.joined, layer.tie, layer.held)
            seams = self.job.shelf.material(layer.material).goes_by == "seam"
            under = (x for x in layers[:k] if self.job.shelf.material(x.material).acts != "damping") if seams else ()
            key = (own, *((x.material, x.thickness_mm) for x in under)) if seams else own
            if key not in self._cost:
                self._cost[key] = layer_cost(self.job, self.patch, layers, k)
            total = total.plus(self._cost[key])
        return total

    def tried(self, stacks: Sequence[Layers]) -> Tried:
        """Stacks predicted, and what they are compared by; rows of no model, no price, or too heavy are infinite."""
        if not stacks:
            return self.tried([()]).at([])
        costs = [self.cost(x) for x in stacks]
        table = np.array([(c.kg, price_of(self.job.shelf, c) if c.priced else np.inf, c.hours) for c in costs])
        found = self._effects(stacks)
        return Tried(tuple(stacks), found, self._rows(found, table))

    def _effects(self, stacks: Sequence[Layers]) -> Effects:
        parts = []
        for start in range(0, len(stacks), AT_ONCE):
            some = [alternative_of(self.patch, x, numbered=False) for x in stacks[start:start + AT_ONCE]]
            parts.append(effects(self.job, self.patch, some, self.how.shaken))
        self.predicted += len(stacks)
        return Effects(*(np.concatenate(x) for x in zip(*parts, strict=True)))

    def _rows(self, found: Effects, costs: Floats) -> Floats:
        """Rows by effects and costs, (stacks, 6)."""
        limit = np.inf if self.patch.kg_limit is None else self.patch.kg_limit * self.patch.count + 1e-9
        rows = np.column_stack([np.nan_to_num(self.energies(found), nan=np.inf), costs])
        rows[~np.isfinite(rows).all(axis=1) | (rows[:, ENERGIES] > limit)] = np.inf
        return rows

    def best_of(self, stacks: Sequence[Layers], most: int) -> Tried:
        """The stacks none of the others clearly beats and that nothing speaks against, at most so many of them."""
        self._compares(len(stacks))
        known = self.tried(stacks)
        left = Compared(known.rows, np.ones(len(stacks), dtype=bool), lambda _: np.zeros((0, ENERGIES + 3)), NEARLY)
        return known.at(self.allowed(left, lambda i: stacks[i], most))

    def _compares(self, stacks: int) -> None:
        self.compared += stacks
        self.how.tick(self.compared)

    def allowed(self, left: Compared, stack: Callable[[int], Layers], most: int, by_curve: bool = False) -> list[int]:
        """Of stacks compared those that none of the others beats and that nothing speaks against, by their places, at most so
        many: what is warned of makes room.

        ``by_curve``: whether the rules are asked too that need the curve, which takes longer.
        """
        fine: set[int] = set()
        # what was asked stays, so that no more is asked than what is struck makes room for
        while not fine.issuperset(best := spread_of(left.rows, left.front(), most, fine)):
            more = [i for i in best if i not in fine]
            if by_curve:
                lays = [lay_of(self.job, self.patch, alternative_of(self.patch, stack(i), numbered=False)) for i in more]
                known_ahead(self.patch, (part for lay in lays for part in (lay, *(x for _, x in grown(self.job, lay)))),
                            self.job.shelf)
            wrong = [i for i in more
                     if self.against(alternative_of(self.patch, stack(i)), self.cost(stack(i)).kg, by_curve)]
            fine |= {*more} - {*wrong}
            if wrong:
                left.strike(wrong)
        return best

    def found(self) -> Found:
        """The stacks of the shelf that go on to the choice."""
        kit = kit_of(self.job.doc, self.patch, self.job.shelf, self.how.struck, lasts_on(self.job, self.patch), self.how.depth_mm,
                     self.how.width)
        left, stack = self.seek(kit)
        kept = self.allowed(left, stack, max(int(MOST_KEPT * self.how.width), LEAST_KEPT), by_curve=True)
        return Found(compared=self.compared, stacks=tuple(stack(i) for i in kept))

    def seek(self, kit: Kit) -> tuple[Compared, Callable[[int], Layers]]:
        """The stacks of a kit to compare, by their places: dampings, linings, and each of the best of both together, which are
        predicted only where they may be on the front."""
        w = self.how.width
        dampings = self.best_of(kit.dampings, max(int(MOST_DAMPINGS * w), 3))
        linings = self.best_of(kit.linings, max(int(MOST_LININGS * w), 10))
        tops = self.best_of(kit.tops, max(int(MOST_TOPPED * w / 3), 2)).stacks
        room = self.how.depth_mm
        closed = [x for x in linings.stacks if len(x) > 1][:MOST_TOPPED] if tops else []
        topped = [(*under, *top) for under in closed for top in tops
                  if sum(x.thickness_mm for x in (*under, *top)) <= room + 1e-9 and under[0].material != top[0].material]
        linings = linings.beside(self.best_of(topped, MOST_TOPPED))
        return self.joined(dampings, linings)

    def joined(self, dampings: Tried, linings: Tried) -> tuple[Compared, Callable[[int], Layers]]:
        """Dampings, linings, and of both together what has room: costs add up, what they do is bounded until it is asked for."""
        parts, first = dampings.beside(linings), len(dampings.stacks)
        count = len(parts.stacks)
        deep = np.array([sum(x.thickness_mm for x in stack) for stack in parts.stacks])
        grid = np.stack(np.meshgrid(np.arange(first), np.arange(first, count), indexing="ij"), axis=-1).reshape(-1, 2)
        pairs = grid[deep[grid].sum(axis=1) <= self.how.depth_mm + 1e-9]
        self._compares(len(pairs))
        wrong = self._resonates(parts.effects)
        pairs = pairs[~np.isin(pairs[:, 1], self._never(dampings, parts, np.flatnonzero(wrong[first:]) + first))]
        one, other = (Effects(*(x[pairs[:, k]] for x in parts.effects)) for k in (0, 1))
        bound = together(one, other, self.tried([()]).effects)
        basis = (self._basis.kg, price_of(self.job.shelf, self._basis), self._basis.hours)
        costs = parts.rows[pairs, ENERGIES:].sum(axis=1) - np.array(basis)

        def stack(i: int) -> Layers:
            return parts.stacks[i] if i < count else (*parts.stacks[pairs[i - count, 0]], *parts.stacks[pairs[i - count, 1]])

        def look(places: Ints) -> Floats:
            found = self._effects([stack(i) for i in places])
            return np.where(self._resonates(found)[:, None], np.inf, self._rows(found, costs[places - count]))
        rows = np.concatenate([np.where(wrong[:, None], np.inf, parts.rows), self._rows(bound, costs) * EASED])
        return Compared(rows, np.arange(len(rows)) < count, look), stack

    def _never(self, dampings: Tried, parts: Tried, linings: Ints) -> Ints:
        """Of linings warned of for their resonance those that lose much by it over the lightest and the heaviest damping too:
        weight moves it one way, so that they are warned of over any."""
        if not len(linings) or not len(dampings.stacks):
            return linings[:0]
        kg = dampings.rows[:, ENERGIES]
        ends = (dampings.stacks[int(kg.argmin())], dampings.stacks[int(kg.argmax())])
        found = self._resonates(self._effects([(*d, *parts.stacks[i]) for d in ends for i in linings]), SURELY_DB)
        return linings[found.reshape(2, -1).all(axis=0)]

    def _resonates(self, found: Effects, most_db: float = LOSES_DB) -> Bools:
        """Which stacks are warned of because their linings resonate where the noise is strong."""
        if self._before is None:
            return np.zeros(len(found.loss_db), dtype=bool)
        return loses_at(found.loss_db - self._before, found.cavities_hz, strong_hz(self.job), most_db)


SURELY_DB = -3.0
"""R that falls so far at a resonance over the lightest and the heaviest damping falls by what is warned of over those between;
where it fell by 2.5 dB, a few of 40 000 did not (made-up jobs)."""
NEARLY = np.array([0.65, 0.65, 0.65, 1.0, 1.0, 1.0])
"""A part of a stack goes on though another is up to 2 dB quieter: together with the rest of it the order may turn. Of all that
can be put together the best found so is 0.1 dB off in the mean (tests); at 1 dB it was 0.2 to 0.4."""


def spread(table: Floats, most: int, slack: Floats | float = 1.0) -> list[int]:
    """Rows none of the others beats, at most so many: the ends, and then where what is kept is farthest."""
    known = np.flatnonzero(np.isfinite(table).all(axis=1))
    return spread_of(table, known[unbeaten_rows(table[known], slack)], most)


def spread_of(table: Floats, kept: Ints, most: int, first: Collection[int] = ()) -> list[int]:
    """Of rows of a table that none beats at most so many: the ends, those that are to be ``first``, and then where what is kept
    is farthest."""
    if len(kept) <= most:
        return [int(i) for i in kept]
    seen = np.log(np.maximum(table[kept], 1e-12)) if (table[kept] >= 0).all() else table[kept]
    scaled = (seen - seen.min(axis=0)) / np.maximum(np.ptp(seen, axis=0), 1e-9)
    ends = [int(i) for i in np.argmin(table[kept], axis=0)]
    taken = list(dict.fromkeys([*ends, *np.flatnonzero(np.isin(kept, list(first))).tolist()]))[:most]
    far = np.min([np.abs(scaled - scaled[i]).sum(axis=1) for i in taken], axis=0)
    while len(taken) < most:
        taken.append(int(np.argmax(far)))
        far = np.minimum(far, np.abs(scaled - scaled[taken[-1]]).sum(axis=1))
    return sorted(int(kept[i]) for i in taken)


def options_of(job: JobFigures, patch: Patch, energies: Energies, how: How) -> Options:
    """What could be done to a patch: nothing, what the job keeps for it, and what a search of the shelf finds."""
    struck, pinned = how.struck, how.pinned
    chosen = job.doc.chosen(patch.id, patch.zone)
    own = [a for a in job.doc.alternatives if a.surface_id == patch.id and a.zone == patch.zone
           and not any(x.material in struck for x in a.layers)]
    ways: list[Alternative | None] = [chosen] if pinned else [*([] if patch.planned else [None]), *own]
    costs = [Cost() if one is None else alternative_cost(job, patch, one) for one in ways]
    names = ["as it is" if one is None else one.name for one in ways]
    seeker = Seeker(job, patch, energies, how)
    if patch.planned and not pinned:
        ways.append(alternative_of(patch, ()))
        costs.append(seeker.cost(()))
        names.append("its panel alone")
    compared = 0
    if not pinned and not how.own_only:
        found = how.known(seeker.found)
        compared = found.compared
        how.tick(compared)
        for layers in found.stacks:
            ways.append(alternative_of(patch, layers))
            costs.append(seeker.cost(layers))
            names.append(name_of(layers, job.shelf))
    barred = frozenset() if pinned else frozenset(
        k for k, one in enumerate(ways) if one is not None and one.id and seeker.against(one, costs[k].kg, by_curve=True))
    return Options(tuple(ways), effects(job, patch, ways, how.shaken), tuple(costs), tuple(names), compared, barred)


def alternatives_like(
    job: JobFigures, patch: Patch, kept: Options, more: Sequence[Alternative], shaken: bool
) -> Options:
    """The options of a patch with the stacks found for another that is like it."""
    seeker = Seeker(job, patch, lambda e: np.zeros((len(e.loss_db), 3)), How(frozenset()))
    ways = (*kept.ways, *(alternative_of(patch, one.layers) for one in more))
    return Options(ways, effects(job, patch, ways, shaken), (*kept.costs, *(seeker.cost(one.layers) for one in more)),
                   (*kept.names, *(name_of(one.layers, job.shelf) for one in more)), 0, kept.barred)


def against(
    job: JobFigures, patch: Patch, one: Alternative, kg: float = 0.0, by_curve: bool = False, as_laid: bool = False
) -> frozenset[str]:
    """The rules that warn of an alternative on a patch, or call it dangerous, whatever the rest of the job comes to; overridden
    ones too. ``by_curve``: also those that need its curve; what no model covers is warned of. ``as_laid``: by its pieces."""
    lay = planned_lay(job.doc, patch, one) if as_laid else lay_of(job, patch, one)
    depth = sum(x.thickness_mm for x in one.layers if job.shelf.material(x.material).lies)
    prediction: Prediction | None = None
    more: tuple[Spoken, ...] = ()
    if by_curve:
        try:
            prediction, more = panel_loss(patch, lay, job.shelf)[1], worse(job, patch, lay)
        except BadInput:
            return frozenset({"no-model"})
    spoken = said(job, patch, one, lay, prediction, depth, Load(kg, 0.0, 0.0), NO_SUMS, None, warning_rules(job.shelf))
    return frozenset(x.rule for x in (*more, *spoken) if x.severity in WARNS)


BY_WHAT_IS_SEALED = frozenset({"leak-caps-the-barrier"})
"""Hangs on what the whole plan seals: asked once the plan is laid."""
WARNS = ("warn", "danger")


@lru_cache(maxsize=16)
def warning_rules(shelf: Shelf) -> tuple[Rule, ...]:
    """The rules of a shelf that warn or call something dangerous."""
    return tuple(r for r in shelf.rules if r.severity in WARNS)


def lasts_on(job: JobFigures, patch: Patch) -> Lasts:
    """Tells whether a material alone may be laid on a patch; how it is held, what lies over and under it is decided later."""
    usual = against(job, patch, nothing_on(patch))

    def lasts(material: Material, mm: float) -> bool:
        layer = StackLayerIn(id="1", material=material.id, thickness_mm=mm, place=side_of(job.doc, patch), held="hangers")
        return not against(job, patch, alternative_of(patch, (layer,))) - usual - TURNS
    return lasts


TURNS = frozenset({
    "too-deep", "deeper-than-usual", "too-heavy", "ask-the-maker", "absorber-does-not-block", "barrier-hard", "seams-open",
    "boards-unsealed", "damping-off-plate", "absorber-covered", "nothing-bears-on-top", "bare-where-seen", "loose-fill-open",
    "empty-cavity", "stiff-filling", "board-over-small-gap", "foil-without-gap", "leak-caps-the-barrier"})
"""What is said of a layer alone and may fall silent with others over or under it."""
