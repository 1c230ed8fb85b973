"""The ``offer`` and ``report`` commands: printed, and on paper, as a page, as a table beside it. Neither hands anything over."""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any, NamedTuple, cast

from ...core.errors import BadInput
from ...core.figures.job_figures import JobFigures
from ...core.job.shelf import Shelf, shelf_charging
from ...core.job.workshop import WorkshopIn
from ...core.papers.blocks import Paper, Printed
from ...core.schema import parse
from ...core.stages.papers.asked import PlanAsked
from ...core.stages.papers.offer import MOST_PLANS, offer
from ...core.stages.papers.offer_paper import offer_paper
from ...core.stages.papers.report import Audience, report
from ...core.worded import view_in
from ..files import read_bytes, write_whole
from ..job_file import read_job
from ..order_command import day_of

CHOICE = re.compile(r"(\d{1,12}(?:/[^=,]{1,80})?)=(\d{1,12})\Z")
LONGEST_VALID = 3660


class Files(NamedTuple):
    """Where the ways of printing go; a way that is not wanted is None."""

    pdf: Path | None = None
    html: Path | None = None
    json: Path | None = None
    csv: Path | None = None


def _write(files: Files, paper: Paper, printed: str, photograph: Callable[[str], bytes | None]) -> None:
    """All of them, or none."""
    made: dict[Path, bytes] = {}
    if files.pdf is not None:
        from .pdf import pdf

        made[files.pdf] = pdf(paper, photograph)
    if files.html is not None:
        from .html import html

        made[files.html] = html(paper, photograph)
    if files.csv is not None:
        from .plain import comma_separated

        made[files.csv] = comma_separated(paper)
    if files.json is not None:
        made[files.json] = (printed + "\n").encode()
    if made:
        write_whole(made)


def run_offer(
    name: str, shelf: Shelf, plans: Sequence[str], workshop: str | None, on: str, valid_days: int | None, files: Files
) -> str:
    """``offer JOB.json``: the offer as it would be handed over on a day. BadInput naming what is wrong."""
    day = day_of(on)
    if valid_days is not None and not 0 <= valid_days <= LONGEST_VALID:
        raise BadInput(f"{valid_days} days is out of range", "--valid-days", f"give 0 to {LONGEST_VALID}")
    if workshop is not None:
        shelf = shelf_charging(shelf, _workshop(workshop))
    asked = [_asked(p) for p in plans]
    if len(asked) > MOST_PLANS:
        raise BadInput(f"{len(asked)} plans are too many", "--plan", f"give {MOST_PLANS} at most")
    found = read_job(read_bytes(name), name, shelf)
    job, doc = JobFigures(found.document, shelf), found.document
    try:
        made = offer(job, doc, asked, day, valid_days)
    except BadInput as error:
        raise error.at(name) if not error.where.startswith("--") else error from None
    units = shelf.charges.units if shelf.charges is not None else "metric"
    printed = view_in(made, units).model_dump_json()
    _write(files, view_in(offer_paper(made, job, doc, asked), units), printed, found.photographs.get)
    return printed


def run_report(name: str, shelf: Shelf, audience: str, on: str | None, files: Files) -> str:
    """``report JOB.json``: the document. BadInput naming what is wrong."""
    day = None if on is None else day_of(on)
    found = read_job(read_bytes(name), name, shelf)
    try:
        paper = report(JobFigures(found.document, shelf), found.document, day, cast(Audience, audience))
    except BadInput as error:
        raise error.at(name) from None
    units = shelf.charges.units if shelf.charges is not None else "metric"
    paper = view_in(paper, units)
    printed = Printed(sections=paper.sections).model_dump_json()
    _write(files, paper, printed, found.photographs.get)
    return printed


def _workshop(name: str) -> WorkshopIn:
    text = read_bytes(name)
    try:
        found: Any = json.loads(text)
    except (ValueError, RecursionError):
        raise BadInput("this is no JSON", name, "give an object of the workshop’s keys") from None
    try:
        return parse(WorkshopIn, found)
    except BadInput as error:
        raise error.at(name) from None


def _asked(plan: str) -> PlanAsked:
    """A plan as it is written: NAME:SURFACE[/ZONE]=ALTERNATIVE,…"""
    name, _, choices = plan.partition(":")
    chosen: dict[str, int] = {}
    for choice in (c.strip() for c in choices.split(",") if c.strip()):
        match = CHOICE.match(choice)
        if match is None:
            raise BadInput(f"'{choice}' names no alternative", "--plan", "write it as NAME:2=5,3/lower=0")
        chosen[match[1]] = int(match[2])
    if not name.strip():
        raise BadInput("a plan has no name", "--plan", "write it as NAME:2=5,3/lower=0")
    return PlanAsked(name=name.strip()[:80], chosen=chosen)
