"""What of the plans a search looks at is worth laying out, what is still to be, and whether more may be had than what is."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ...levels.bands import Floats
from ...planning.front import Front, Plan, merged
from ...planning.problem import MONEY
from .pricing import Priced, within

Known = dict[tuple[int, tuple[int, ...]], tuple[Plan, Priced]]
"""Plans that were looked at, as they were chosen and as they were priced, by the combination elsewhere and the choice."""

MOST_SHOWN = 20
"""Plans that are laid out and shown, spread over the front."""
CHEAPEST = 5
"""Of the plans that are enough by their estimate, so many of the cheapest are laid out first."""


def worth_laying(front: Front, of: tuple[int, ...], wanted: float | None) -> list[tuple[int, Plan]]:
    """The plans of a front that are worth laying out: the cheapest that are enough, for nobody knows yet which is cheapest laid
    out, its ends, their neighbours, the rest spread over it; those that are asked for most first."""
    if not front.plans:
        return []
    last = len(front.plans) - 1
    enough = [i for i, x in enumerate(front.plans) if wanted is not None and x.reduction_db >= wanted - 1e-9]
    cheap = sorted(enough, key=lambda i: front.plans[i].costs[MONEY])[:CHEAPEST]
    first = [*cheap[:1], *([] if front.best is None else [front.best]), *cheap[1:], 0]
    near = [i for k in first[:2] for i in (k + 1, k + 2, k - 1) if 0 <= i <= last]
    spread = [round(k * last / (MOST_SHOWN - 1)) for k in range(MOST_SHOWN)]
    return [(of[i], front.plans[i]) for i in list(dict.fromkeys([*first, *near, *spread]))[:MOST_SHOWN]]


def to_lay_out(known: Known, limits: Floats) -> list[tuple[int, tuple[int, ...]]]:
    """Those still estimated that none that keeps to the limits beats even so: they are worth laying out."""
    front, _, _ = merged([_front_of([x for _, x in known.values() if x.estimated or within(x, limits)])], None, (0, None))
    shown = {id(x) for x in front.plans}
    return [key for key, (_, one) in known.items() if one.estimated and id(one.plan) in shown]


def more_may_be_had(known: Known, limits: Floats) -> bool:
    """Whether more may be had than what is laid out: something is left to lay out, or what was quieter than all that keeps to the
    limits turned out not to, and nobody has looked for what comes next."""
    every = [x for _, x in known.values()]
    most = max((x.plan.reduction_db for x in every if within(x, limits)), default=-np.inf)
    return bool(to_lay_out(known, limits)) or any(x.plan.reduction_db > most for x in every if not x.estimated)


def _front_of(plans: Sequence[Priced]) -> Front:
    most = max((x.plan.reduction_db for x in plans), default=0.0)
    return Front(tuple(x.plan for x in plans), None, None, most, True, 0.0, (), True, 0.0)
