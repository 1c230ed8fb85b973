"""A job's card on the board, and what the workshop learns from the job, in one: all that a list of jobs needs of each."""

from __future__ import annotations

from ...cutting.store import StockUse
from ...figures.job_figures import JobFigures
from ...schema import Strict
from ..fit.used import stock_used
from .learned import Repeats, repeats_of
from .overview import Overview, overview


class Card(Strict):
    """A job at a glance."""

    overview: Overview
    repeats: Repeats
    used: tuple[StockUse, ...] = ()
    """What standing ticks have used of the store."""


def card(job: JobFigures) -> Card:
    """The card of a job."""
    return Card(overview=overview(job), repeats=repeats_of(job.doc), used=stock_used(job))
