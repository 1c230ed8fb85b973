"""The offer the made-up van's work began with: handed over before it was stripped, and accepted."""

from __future__ import annotations

import io
from datetime import UTC, datetime
from typing import NamedTuple

from sqlalchemy.orm import Session, sessionmaker

from .catalogue.load import shelf
from .core.figures.goal import value_in
from .core.figures.job_figures import JobFigures
from .core.job.document import JobDocument, PromiseIn
from .core.job.shelf import shelf_charging
from .core.papers.blocks import Paper
from .core.stages.papers.asked import whole_plan
from .core.stages.papers.handed import Answered, Handed, number_words, promise_in
from .core.stages.papers.offer import offer
from .core.stages.papers.offer_paper import offer_paper
from .core.worded import view_in
from .exchange.papers.html import html
from .exchange.papers.pdf import pdf
from .store.documents import workshop as own
from .store.edits import Editor
from .store.files import FileStore
from .store.papers import take_number

MADE_ON = datetime(2026, 9, 15, 16, 30, tzinfo=UTC)
SAID = Answered(who="the baker", on="2026-09-16", words="Yes. The van stands from Friday on.")


class Offered(NamedTuple):
    """What was said, how it is printed, and what it promised."""

    handed: Handed
    paper: Paper
    promise: PromiseIn | None


def accepted(store: sessionmaker[Session], finished: JobDocument) -> Offered:
    """The offer from what was read as found."""
    with store() as session:
        workshop = own(session).workshop
    found = finished.round_in("as found")
    of = {r.id for r in finished.rounds if found is not None and r.id == found.id}
    then = finished.model_copy(update={
        "rounds": tuple(r for r in finished.rounds if r.id in of), "side_effects": (), "knocks": (),
        "readings": tuple(r for r in finished.readings if r.round_id in of),
        "remarks": tuple(r for r in finished.remarks if r.round_id in of)})
    job, number = JobFigures(then, shelf_charging(shelf(), workshop)), number_words(1, MADE_ON.date())
    made = offer(job, then, (), MADE_ON.date()).model_copy(update={"number": number})
    made, paper = view_in(made, "metric"), view_in(offer_paper(made, job, then), "metric")
    plan = made.plans[0].name
    handed = Handed(
        job=then.job.name, customer=then.job.customer, plans=(whole_plan(plan, then),), offer=made, quantity="LAeq",
        as_found=value_in(job, then.goals[0], found), answered=SAID.model_copy(update={"plan": plan}))
    return Offered(handed, paper, promise_in(handed, number, plan, "2026-09-16T09:00:00Z"))


def keep(store: sessionmaker[Session], files: FileStore, job_id: int, offered: Offered) -> None:
    """The paper under its number, accepted."""
    drawn = {"pdf": pdf(offered.paper, files.photograph), "html": html(offered.paper, files.photograph)}
    with Editor(store, "the program").begin() as session:
        row = take_number(session, job_id, "offer", offered.handed.model_dump(mode="json"))
        row.state, row.made_at = "accepted", MADE_ON
        row.files = {way: files.put(io.BytesIO(data), f".{way}") for way, data in drawn.items()}
        session.commit()
