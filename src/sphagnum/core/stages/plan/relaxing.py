"""Which limit alone would have to give, and how far, for a goal that is out of reach: by plans as they are once taken."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ...levels.bands import Floats
from ...planning.front import ONLY, Plan, plan_of
from ...planning.problem import RESOURCES, Problem, energy_for
from ...planning.search import Solver
from .pricing import Priced

TRIES = 5
SECONDS = 3.0
"""For each limit, at most."""
A_LITTLE_DB = 0.02


def relaxed(
    problem: Problem, limits: Floats, wanted_db: float, lean_db: float, price: Callable[[Plan], Priced], seconds: float = SECONDS
) -> tuple[tuple[str, float], ...]:
    """Per limit that alone would have to give, what the plan of the least of it takes that is enough once taken.

    ``lean_db``: by how much less than computed is to be expected to begin with; what a plan falls short by is asked for besides.
    """
    out = []
    for resource in np.flatnonzero(np.isfinite(limits)).tolist():
        held, lean = limits.copy(), lean_db
        held[resource] = np.inf
        solver = Solver(problem, seconds)
        for _ in range(TRIES):
            found = solver.least(ONLY[resource], held, energy_for(problem, wanted_db + lean))
            if found.choice is None:
                break
            one = price(plan_of(problem, found.choice))
            short = wanted_db - one.plan.reduction_db
            if short <= 0:
                if one.plan.costs[resource] > limits[resource]:
                    out.append((RESOURCES[resource], one.plan.costs[resource]))
                break
            lean += short + A_LITTLE_DB
    return tuple(out)
