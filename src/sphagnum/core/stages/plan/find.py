"""The search over all units of a job together: for each combination of measures elsewhere one exact choice, merged to a front."""

from __future__ import annotations

import itertools
import time
from collections.abc import Callable, Iterator, Sequence
from functools import partial
from typing import Any, NamedTuple

import numpy as np

from ...cutting.model import CutInput, CutResult
from ...errors import BadInput
from ...figures.boxes import box_of, box_paths
from ...figures.job_figures import JobFigures
from ...figures.outlook import QUANTITY
from ...hands import Hands, one_by_one
from ...levels.bands import Floats
from ...paths.rows import Measure
from ...planning.front import Front, Plan, least_instead, merged, plan_of, search
from ...planning.plan import weights_db
from ...planning.problem import MONEY
from ...report import Report, silent
from ..build.warmth import warmth
from ..cut.laid_out import asked_of
from .build_ways import BuildWay, builds_begun, builds_of, everywhere, fit_together
from .looked_at import Known, more_may_be_had, to_lay_out, worth_laying
from .model import PlansAsked, PlansFound
from .pricing import DRAFT_S, Drafts, Elsewhere, Priced, Trade, drafted, local, priced, within
from .problem import problem_of
from .relaxing import relaxed
from .say import Search, found_plans
from .searched import Searched
from .sought import Sought, deeper, goal_of, learned_db, left_out, limits_of, target_db
from .unit import Unit, Wish, key_of, laid
from .units import units_of

MOST_ELSEWHERE = 4
"""Measures at the source or the listener that are tried in every combination; further ones stay as they are chosen."""
MOST_TRIED = 32
"""Combinations of measures and builds, each one problem of its own."""
SHOW_EVERY_S = 8.0
"""How often a search under way is worked out into plans to look at."""
SHARE_OF_CLOCK, LEAST_WIDTH = 0.55, 0.15
"""Of the seconds: what stacks may take, on a slow machine with fewer of them; the rest is for choosing and laying out."""
USUAL_S, FIRST = 0.7, 2
"""What the stacks of a patch take, or as long as the first answer took, until so many were begun: a judgement."""
TELLING_S = 0.7
"""What putting a search into words takes of its clock."""
SHARE_OF_STACKS = 0.75
"""Of the search's progress: the rest is choosing among them."""


def find_plans(
    job: JobFigures, asked: PlansAsked, report: Report = silent, hands: Hands = one_by_one, searched: Searched | None = None
) -> PlansFound:
    """The best plans over all surfaces, leaks and measures of a job within its limits.

    The job's own alternatives are the first answer; then every surface is searched, and what is chosen is exact over what was
    found. ``hands`` search patches and lay plans out, beside one another if they can; what is ``searched`` already is not
    searched again. Raises BadInput where there is no goal that adds up, no way that may be treated, or nothing on the shelf; Stop
    from ``report``.
    """
    start = time.monotonic()
    end = start + asked.seconds - min(TELLING_S, asked.seconds / 8)
    if box_paths(job.doc):
        box_of(job)  # says where it cannot be reckoned with
    weight = weights_db(QUANTITY[goal_of(job).quantity])
    struck, kept = left_out(job, asked), frozenset(asked.pinned) | (frozenset() if asked.anew else builds_begun(job))
    wish = Wish(weight, frozenset(asked.pinned), struck, own_only=True, anew=asked.anew, searched=searched,
                builds=builds_of(job, weight, struck, kept, True))
    own = list(units_of(job, wish))
    if not own:
        raise BadInput("no way in has a level yet", "paths", "list the ways in under Trace, and set the goal")
    stays = frozenset() if asked.anew else laid(job.doc)
    sought = Sought(job, asked, weight, learned_db(job, wish), Trade(job, wish.pinned | stays), Drafts(), hands, _alone(wish))
    first = _answer(sought, own, min(3.0, asked.seconds / 6), lay_out=False)
    report(0.04, "from what the job has: looking further", lambda: first)
    wish = wish._replace(own_only=False, builds=builds_of(job, weight, struck, kept, False))
    units: list[Unit] = []

    def share() -> float:
        return 0.04 + (SHARE_OF_STACKS - 0.04) * len(units) / len(own)

    wanted, done = [one.data for one in asked_of(job).values()], list[Iterator[Any]]()

    def beside(works: Sequence[Callable[[bool], Any]]) -> Iterator[Any]:
        """What is laid out of the job as it stands is drafted after them, by who is free first: each takes little time."""
        done.append(hands([*works, *(lambda _, data=data: drafted(data) for data in wanted)]))
        return done[0]

    def tick(name: str, stacks: int) -> None:
        before = sum(u.compared for u in units)
        report(share(), f"{name}: {before + stacks} stacks compared")
    began = shown = time.monotonic()
    usual_s = max(USUAL_S, began - start)

    widths: list[float] = []

    def width(before: int, every: int) -> float:
        now = time.monotonic()
        each = (now - began) / (before - 0.5) if before >= FIRST else usual_s  # the last of those begun are at it still
        left = start + SHARE_OF_CLOCK * asked.seconds - DRAFT_S * len(wanted) / 2 - now  # mostly by two
        of = sum(widths) / len(widths) if widths and before >= FIRST else 1.0  # what each took, it took at so much of its width
        widths.append(float(np.clip(of * left / (each * (every - before)), LEAST_WIDTH, 1.0)))
        return widths[-1]
    for unit in units_of(job, wish._replace(tick=tick, width=width, hands=beside)):
        units.append(unit)
        mixed = [*units, *own[len(units):]]
        if time.monotonic() - shown > SHOW_EVERY_S:
            report(share(), f"{unit.name} done", partial(_answer, sought, mixed, 1.0, lay_out=False))
            shown = time.monotonic()
    sought.drafts.kept.update(zip(wanted, done[0], strict=True))
    sought = sought._replace(builds=_alone(wish))
    found = _answer(sought, units, max(end - time.monotonic(), 2.0), report)
    if found.reached:
        return found
    words = deeper(sought, wish, found, lambda there, some: _answer(there, some, 1.0, lay_out=False))
    return found.model_copy(update={"deeper": words})


STEPS, STEPS_FEW, SHORT_S = 8, 3, 6.0
"""Along each of kg, money and hours plans are looked for at so many steps: at few in the first round, so that something laid out
is seen soon, and where the clock leaves less than so many seconds."""
FIRST_LAID = 3
"""Of the first round's, so many are laid out whatever the clock says, and seen as soon as they are; of the others those that it
leaves time for."""
ROUNDS = 3
"""How often a search goes on after its plans were laid out."""
GRACE_S = 0.5
"""A plan may be there so long after the clock ended."""
LATE = 3
"""How many plans are laid out beyond the clock, where none that is laid out is enough."""
SHARE_OF_SEARCH = 0.4
"""Of the seconds that are left for choosing: the rest is for laying plans out."""
LEAST_SEARCH_S = 2.0
"""Choosing takes at least so long, whatever the stacks have left of the clock: a front of one plan is none to pick from."""
SHARE_OF_ROUND = 0.6
"""Of those, how many a round lays plans out for before it is seen whether another is needed."""
NEAR_LIMIT = 0.95
"""A plan so near its limit leaves nothing worth another round."""


class _Aim(NamedTuple):
    """What a round of the search goes by: how much of the estimated money is money to pay, and how much less than computed is to
    be expected of a plan, dB."""

    paid: float
    lean_db: float


def _answer(
    sought: Sought, units: list[Unit], seconds: float, report: Report = silent, lay_out: bool = True
) -> PlansFound:
    job, weight, learned = sought.job, sought.weight_db, sought.learned_db
    limits, (target, asked, found) = limits_of(job), target_db(job)
    # what came out louder than predicted so far has to be made up for
    wanted = None if asked is None else max(asked + learned, 0.0)
    every = [m for m in job.doc.measures if m.at != "path"]
    elsewhere, stay = every[:MOST_ELSEWHERE], tuple(m for m in every[MOST_ELSEWHERE:] if m.chosen)
    tried = [Elsewhere((*taken, *stay), builds, problem_of(job, units, weight, (*taken, *stay), builds, sought.asked))
             for n in range(len(elsewhere) + 1) for taken in itertools.combinations(elsewhere, n)
             for builds in itertools.product(*_few(sought.builds, 2**len(elsewhere)))
             if fit_together(job.doc, builds, {m.id for m in (*taken, *stay)})]
    tried = _cool(job, tried, every)
    end = time.monotonic() + seconds
    layouts = sought.drafts if lay_out else None
    own_at, own_plan = _own(units, tried, every)
    own = priced(job, units, own_plan, own_at, tried[own_at], layouts)

    took = 0.0

    def in_time() -> bool:
        """Whether a plan laid out from now on is likely there soon after the clock ends: it takes what the last took."""
        return time.monotonic() + took < end + GRACE_S

    def price(at: int, plan: Plan, until: float = np.inf) -> Priced:
        """A plan laid out, if no clock is given or it is in time and the clock is not past ``until``."""
        nonlocal took
        begun = time.monotonic()
        out = layouts if until == np.inf or (begun < until and in_time()) else None
        one = priced(job, units, plan, at, tried[at], out, sought.trade, sought.asked.stock)
        took = took if out is None else time.monotonic() - begun
        return one

    def enough(one: Priced) -> bool:
        return within(one, limits) and (wanted is None or one.plan.reduction_db >= wanted - 1e-9)
    aim = _Aim(_paid([(own_plan, own)]), 0.0 if own.ahead is None else own.ahead.lean_db)
    known: Known = {
        (own_at, own_plan.choice): (own_plan, own._replace(warned=sought.trade.warned(job)))}
    seen: list[bool] = []

    def told(front: Front, aim: _Aim, final: bool) -> PlansFound:
        """The plans that are laid out by now."""
        seen.append(final)
        kept = [x for _, x in known.values() if within(x, limits) and not (lay_out and x.estimated)]
        whole = front._replace(proven=front.proven and not (lay_out and more_may_be_had(known, limits)))
        return _told(Search(job, units, weight, tried, whole, (), (own_at, own_plan), None, limits, (found, target, wanted),
                            learned), kept, own, aim, final)
    rounds = ROUNDS if lay_out else 1
    for n in range(rounds):
        if n and time.monotonic() + took > end and any(within(x, limits) for _, x in known.values()):
            break
        left = max(end - time.monotonic(), 0.2)
        held = limits.copy()
        held[MONEY] = limits[MONEY] / aim.paid
        front, of = _searched(tried, held, None if wanted is None else wanted + aim.lean_db,
                              max(left * SHARE_OF_SEARCH, LEAST_SEARCH_S / (n + 1) if lay_out else 0.0),
                              STEPS_FEW if n == 0 or left < SHORT_S else STEPS, _part(report, n, rounds))
        instead = least_instead(tried[own_at].problem, own_plan, held, max(end - time.monotonic(), 0.5))
        asked_for = [*worth_laying(front, of, None if wanted is None else wanted + aim.lean_db),
                     *([(own_at, instead)] if instead is not None else [])]
        until = time.monotonic() + max((end - time.monotonic()) * SHARE_OF_ROUND, 1.0)
        new = {(at, plan.choice): partial(price, at, plan, until if n or k >= FIRST_LAID else np.inf)
               for k, (at, plan) in enumerate(asked_for) if (at, plan.choice) not in known}
        plans = {(at, plan.choice): plan for at, plan in asked_for}
        for k, (key, one) in enumerate(zip(new, _kept(sought, [*new.values()]), strict=True), start=1):
            known[key] = plans[key], one
            report(SHARE_OF_STACKS + (1 - SHARE_OF_STACKS) * (n + 0.9) / rounds, "plans laid into the job and laid out",
                   partial(told, front, aim, False) if lay_out and k >= FIRST_LAID and not seen else None)
        aim, before = _aim_of(list(known.values()), aim), aim
        tried = _barred(tried, units, known)
        kept = [x for _, x in known.values() if within(x, limits)]
        if (n or end - time.monotonic() < SHORT_S) and _settled(
                kept, [x for _, x in known.values()], limits, wanted, front, before, aim):
            break
    if layouts is not None:
        _lay_out_the_rest(sought, known, price, in_time, enough, limits)
    reached = wanted is None or any(enough(x) and not (lay_out and x.estimated) for _, x in known.values())
    relax: tuple[tuple[str, float], ...] = ()
    if lay_out and wanted is not None and not reached and front.most_reduction_db - aim.lean_db >= wanted:
        relax = relaxed(tried[own_at].problem, limits, wanted, aim.lean_db,
                        lambda plan: price(own_at, plan))
    return told(front._replace(relax=relax), aim, True)


def _cool(job: JobFigures, tried: list[Elsewhere], every: Sequence[Measure]) -> list[Elsewhere]:
    """The combinations of measures with which what stands in a box keeps cool enough, and the one that stands; all of them where
    none does, or nothing tells."""
    if not any(m.air_m3_h for m in every):
        return tried
    standing = {m.id for m in every if m.chosen}

    def cool(one: Elsewhere) -> bool:
        taken = {m.id for m in one.measures}
        rows = tuple(m.model_copy(update={"chosen": m.id in taken}) if m.at != "path" else m for m in job.doc.measures)
        warm = warmth(job.of(job.doc.model_copy(update={"measures": rows})))
        return warm is None or not warm.cooks
    kept = [x for x in tried if cool(x)]
    return [x for x in tried if x in kept or {m.id for m in x.measures} == standing] if kept else tried


def _alone(wish: Wish) -> tuple[tuple[BuildWay, ...], ...]:
    """Of builds that act on all that is heard, what can be done with each."""
    return tuple(ways for ways in wish.builds if everywhere(ways[0].build))


def _few(groups: Sequence[tuple[BuildWay, ...]], beside: int) -> list[list[BuildWay]]:
    """So many ways of each build that with what is combined ``beside`` no more than ``MOST_TRIED`` problems are put; its own and
    being left out are always among them."""
    each = max(2, int((MOST_TRIED / beside) ** (1 / max(len(groups), 1))))
    def kept(ways: tuple[BuildWay, ...]) -> list[BuildWay]:
        always = [k for k, w in enumerate(ways) if w.own or w.built is None]
        spread = [round(k * (len(ways) - 1) / (each - 1)) for k in range(each)]
        return [ways[k] for k in [*dict.fromkeys([*always, *spread])][:max(each, len(always))]]
    return [kept(ways) for ways in groups]


def _barred(
    tried: list[Elsewhere], units: Sequence[Unit], known: Known
) -> list[Elsewhere]:
    """The problems with the options barred that Build warned of once they were laid."""
    wrong: set[int] = set()
    for plan, one in known.values():
        start = 0
        for unit, k in zip(units, local(units, plan), strict=True):
            ways = {key_of(p): w for p, w, _ in unit.options[k].ways if key_of(p) in one.warned}
            if ways:
                wrong |= {start + n for n, o in enumerate(unit.options)
                          if any(ways.get(key_of(p)) == w and w is not None for p, w, _ in o.ways)}
            start += len(unit.options)
    if not wrong:
        return tried
    also = np.isin(np.arange(len(tried[0].problem.path)), sorted(wrong))
    return [x._replace(problem=x.problem._replace(barred=x.problem.barred | also)) for x in tried]


def _kept(sought: Sought, works: Sequence[Callable[[], Priced]]) -> Iterator[Priced]:
    """Plans priced by whoever is free; what was drafted for them is kept."""
    drafts = sought.drafts.kept

    def done(work: Callable[[], Priced], here: bool) -> tuple[Priced, dict[CutInput, CutResult]]:
        before = {*drafts}
        one = work()
        return one, {} if here else {k: v for k, v in drafts.items() if k not in before}
    for one, more in sought.hands([partial(done, w) for w in works]):
        drafts.update(more)
        yield one


def _lay_out_the_rest(
    sought: Sought, known: Known, lay: Callable[[int, Plan], Priced], in_time: Callable[[], bool],
    enough: Callable[[Priced], bool], limits: Floats,
) -> None:
    """Lays out what is still estimated until the clock ends; what is beaten by other plans even so is not worth it. While none
    that is laid out is enough, a few that are by their estimate are laid out whatever the clock says."""
    rest = [(key, *known[key]) for key in to_lay_out(known, limits)]

    def if_in_time(plan: Plan, one: Priced) -> Priced:
        return lay(one.at, plan) if in_time() else one
    for (key, plan, _), one in zip(rest, _kept(sought, [partial(if_in_time, p, x) for _, p, x in rest]), strict=True):
        known[key] = plan, one
    late = [x for x in rest if known[x[0]][1].estimated and enough(x[2])]
    for key, plan, one in late[:LATE]:
        if not any(enough(x) and not x.estimated for _, x in known.values()):
            known[key] = plan, lay(one.at, plan)


def _part(report: Report, n: int, rounds: int) -> Report:
    def told(part: float, words: str, _so_far: object = None) -> None:
        report(SHARE_OF_STACKS + (1 - SHARE_OF_STACKS) * (n + 0.8 * part) / rounds, words)
    return told


def _searched(
    tried: list[Elsewhere], limits: Floats, wanted: float | None, seconds: float, steps: int, report: Report
) -> tuple[Front, tuple[int, ...]]:
    """The front over all combinations of measures elsewhere, by what was estimated; and which combination each plan is of."""
    end, fronts = time.monotonic() + seconds, list[Front]()
    for i, one in enumerate(tried):
        share = max(end - time.monotonic(), 0.2) / (len(tried) - i)

        def told(part: float, words: str, _so_far: object = None, i: int = i) -> None:
            report((i + part) / len(tried), words)
        fronts.append(search(one.problem, limits, wanted, share, told, steps))
    front, of, _ = merged(fronts, wanted, (0, None))
    return front, of


def _paid(known: Sequence[tuple[Plan, Priced]]) -> float:
    """Money to pay over money estimated, of plans that were laid out; 1 where none was."""
    pairs = [(x.plan.costs[MONEY], plan.costs[MONEY]) for plan, x in known if not x.estimated and plan.costs[MONEY] > 1.0]
    return float(np.clip(np.median([a / b for a, b in pairs]), 0.5, 1.5)) if pairs else 1.0


def _aim_of(known: Sequence[tuple[Plan, Priced]], aim: _Aim) -> _Aim:
    leans = [plan.reduction_db - x.plan.reduction_db for plan, x in known if x.ahead is not None]
    return _Aim(_paid(known), float(np.quantile(leans, 0.75)) if leans else aim.lean_db)


def _settled(
    kept: Sequence[Priced], every: Sequence[Priced], limits: Floats, wanted: float | None, front: Front, before: _Aim, aim: _Aim
) -> bool:
    """Whether another round would find nothing better: the goal is reached or cannot be, and no limit was missed by much."""
    reached = wanted is None or any(x.plan.reduction_db >= wanted - 1e-9 for x in kept)
    hopeless = wanted is not None and front.most_reduction_db - aim.lean_db < wanted
    if not np.isfinite(limits[MONEY]):
        return reached or hopeless or abs(aim.lean_db - before.lean_db) < 0.05
    spent = max((x.plan.costs[MONEY] for x in kept), default=0.0)
    dropped = any(x.plan.costs[MONEY] > limits[MONEY] for x in every)
    if any(x.warned or x.short for x in every) and not kept:
        return False
    money_is_right = abs(aim.paid / before.paid - 1) < 1 - NEAR_LIMIT or (spent >= NEAR_LIMIT * limits[MONEY] and not dropped)
    return money_is_right and (reached or hopeless)


def _told(s: Search, kept: list[Priced], own: Priced, aim: _Aim, final: bool) -> PlansFound:
    """The plans that keep to the limits as one front, by the figures they have once taken."""
    wanted = s.goal[2]
    most = max([s.front.most_reduction_db - aim.lean_db, *(x.plan.reduction_db for x in kept)])
    base = s.front._replace(plans=tuple(x.plan for x in kept), most_reduction_db=most)
    front, _, _ = merged([base], wanted, (0, None))
    by_plan = {id(x.plan): x for x in kept}
    shown = [by_plan[id(x)] for x in front.plans]
    enough = [i for i, x in enumerate(shown) if wanted is not None and x.plan.reduction_db >= wanted - 1e-9]
    if enough:  # of those that are enough, what is cheapest with what each further kind counts
        front = front._replace(cheapest=min(enough, key=lambda i: (
            shown[i].plan.costs[MONEY] + s.job.base.kind_money * shown[i].kinds, -shown[i].plan.reduction_db)))
    s = s._replace(front=front, of=tuple(x.at for x in shown), instead=_instead(shown, own), paid=aim.paid)
    return found_plans(s, shown, own, final)


def _instead(shown: Sequence[Priced], own: Priced) -> int | None:
    """The best plan that takes no more of anything than the one that stands, and gives at least as much."""
    fits = [i for i, x in enumerate(shown) if x.plan.reduction_db >= own.plan.reduction_db - 5e-4
            and all(a <= b + 5e-3 for a, b in zip(x.plan.costs, own.plan.costs, strict=True))]
    return max(fits, key=lambda i: shown[i].plan.reduction_db, default=None)


def _own(units: list[Unit], tried: Sequence[Elsewhere], elsewhere: list[Measure]) -> tuple[int, Plan]:
    """The plan as it stands, and which combination of measures elsewhere it has."""
    chosen = {m.id for m in elsewhere if m.chosen}
    at = next(i for i, x in enumerate(tried) if {m.id for m in x.measures} == chosen and all(w.own for w in x.builds))
    starts = np.cumsum([0, *(len(u.options) for u in units)])
    choice = tuple(int(starts[i]) + u.own for i, u in enumerate(units))
    return at, plan_of(tried[at].problem, (*choice, int(starts[-1])))
