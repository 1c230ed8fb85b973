"""What a search for a plan would begin with, before anybody asks for it: the stacks of every patch, compared and kept."""

from __future__ import annotations

import time

from ...figures.boxes import box_paths
from ...figures.job_figures import JobFigures
from ...figures.outlook import QUANTITY
from ...hands import Hands, one_by_one
from ...planning.plan import weights_db
from ...report import Report, silent
from ...schema import Strict
from .model import PlansAsked
from .searched import Searched
from .sought import goal_of, left_out
from .unit import Wish
from .units import units_of


class Ahead(Strict):
    """How many stacks were compared; a box is searched as a whole, and not ahead."""

    compared: int


def search_ahead(
    job: JobFigures, asked: PlansAsked, searched: Searched, report: Report = silent, hands: Hands = one_by_one
) -> Ahead:
    """Search every patch of a job as a search for a plan would, all of the shelf, until its seconds are over; what is found is
    kept patch by patch. Raises BadInput where no plan can be searched for; Stop from ``report``."""
    if box_paths(job.doc):
        return Ahead(compared=0)
    end, compared = time.monotonic() + asked.seconds, 0

    def tick(name: str, stacks: int) -> None:
        report(0.0, f"{name}: {compared + stacks} stacks compared")
    wish = Wish(weights_db(QUANTITY[goal_of(job).quantity]), frozenset(asked.pinned), left_out(job, asked), anew=asked.anew,
                searched=searched, tick=tick, hands=hands)
    for unit in units_of(job, wish):
        compared += unit.compared
        if time.monotonic() > end:
            break
    return Ahead(compared=compared)
