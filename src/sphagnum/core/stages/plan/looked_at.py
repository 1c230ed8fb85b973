"""What of the plans a search looked at is still to be laid out, and whether more may be had than what is."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ...levels.bands import Floats
from ...planning.front import Front, Plan, merged
from .pricing import Priced, within

Known = dict[tuple[int, tuple[int, ...]], tuple[Plan, Priced]]
"""Plans that were looked at, as they were chosen and as they were priced, by the combination elsewhere and the choice."""


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
