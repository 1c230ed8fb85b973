"""Cards of jobs for the board: read from their table, renewed behind the page when they are older than the job."""

from __future__ import annotations

import logging
import threading
from collections.abc import Iterable
from typing import Any, Literal, NamedTuple

from sqlalchemy import Select, func, select
from sqlalchemy.orm import Session, sessionmaker

from ..catalogue.load import MODEL_REVISION, SHELF_REVISION
from ..catalogue.load import shelf as base_shelf
from ..core.figures.job_figures import JobFigures
from ..core.job.document import Job
from ..core.job.shelf import shelf_of
from ..core.job.workshop import WorkshopDocument
from ..core.schema import parse
from ..core.stages.board.card import Card, card
from ..core.stages.board.learned import Repeats
from ..store.documents import WORKSHOP, Missing, document, revision, stored, workshop
from ..store.models import CardRow, OwnerRow
from ..work.desk import Desk
from ..work.kinds import CardInput

A_PAGE = 50
PATIENCE_S = 120.0
Order = Literal["newest", "oldest", "name"]
NAME = OwnerRow.content["name"].as_string()
log = logging.getLogger("sphagnum")


class Found(NamedTuple):
    """A job and its card; ``older`` where the card is of an earlier revision, model or shelf, None where there is none yet."""

    job: Job
    card: Card | None
    older: bool


def stamp(session: Session) -> str:
    """What a card is true for, beside its job: the model, the shipped shelf and the workshop's own."""
    return f"{MODEL_REVISION} {SHELF_REVISION} {revision(session, WORKSHOP)}"


def _sorted(order: Order) -> Select[OwnerRow, CardRow]:
    jobs = select(OwnerRow, CardRow).outerjoin(CardRow, CardRow.owner_id == OwnerRow.id).where(OwnerRow.kind == "job")
    by = {"newest": OwnerRow.id.desc(), "oldest": OwnerRow.id.asc(),
          "name": func.lower(NAME).asc()}
    return jobs.order_by(by[order], OwnerRow.id)


def page(session: Session, number: int, order: Order, find: str = "") -> tuple[list[Found], int]:
    """A page of the board from 0, and how many jobs there are in all; of those whose name holds ``find``."""
    now, asked = stamp(session), [func.lower(NAME).contains(find.lower(), autoescape=True)] if find else []
    count = session.scalar(select(func.count()).select_from(OwnerRow).where(OwnerRow.kind == "job", *asked)) or 0
    found = []
    for row, kept in session.execute(_sorted(order).where(*asked).limit(A_PAGE).offset(number * A_PAGE)):
        older = kept is None or (kept.revision, kept.stamp) != (row.revision, now)
        found.append(Found(parse(Job, stored(row)), None if kept is None else Card.model_validate(kept.card), older))
    return found, count


def repeats(session: Session) -> list[Repeats]:
    """What the cards say of every job's repeats."""
    return [Repeats.model_validate(x) for x in session.scalars(select(CardRow.card["repeats"]))]


class Renewal:
    """Renews cards behind the page, one job after another; with no desk, at once."""

    def __init__(self, store: sessionmaker[Session], desk: Desk | None) -> None:
        self._store, self._desk = store, desk
        self._wanted: dict[int, None] = {}
        self._more = threading.Condition()
        if desk is not None:
            threading.Thread(target=self._run, args=(desk,), name="cards", daemon=True).start()

    def ask(self, jobs: Iterable[int]) -> None:
        """Have the cards of jobs renewed."""
        if self._desk is None:
            for job_id in jobs:
                self._renew(job_id, None)
            return
        with self._more:
            self._wanted |= dict.fromkeys(jobs)
            self._more.notify()

    def _run(self, desk: Desk) -> None:
        while True:
            with self._more:
                self._more.wait_for(lambda: bool(self._wanted))
                job_id = next(iter(self._wanted))
            try:
                self._renew(job_id, desk)
            except Exception:  # a card that cannot be made stays as it is; the others go on
                log.exception("card of job %s", job_id)
            with self._more:
                self._wanted.pop(job_id, None)

    def _renew(self, job_id: int, desk: Desk | None) -> None:
        with self._store() as session:
            try:
                doc, own, number, now = document(session, job_id), workshop(session), revision(session, job_id), stamp(session)
            except Missing:
                return
        keep_card(self._store, job_id, number, now, made(desk, CardInput(document=doc, workshop=own)))


def made(desk: Desk | None, given: CardInput) -> Card | None:
    """A card, worked out by the desk or here."""
    if desk is None:
        return card(JobFigures(given.document, _shelf(given.workshop)))
    entry = desk.wait(desk.start("card", given).id, PATIENCE_S)
    return None if entry is None or entry.result is None else Card.model_validate_json(entry.result)


def _shelf(own: WorkshopDocument) -> Any:
    return shelf_of(base_shelf(), own)


def keep_card(store: sessionmaker[Session], job_id: int, number: int, now: str, kept: Card | None) -> None:
    """Keep a card, if the job is still there."""
    if kept is None:
        return
    with store() as session:
        session.connection(execution_options={"writing": True})
        if session.get(OwnerRow, job_id) is not None:
            session.merge(CardRow(owner_id=job_id, revision=number, stamp=now, card=kept.model_dump(mode="json")))
        session.commit()
