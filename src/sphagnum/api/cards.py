"""Cards of jobs for the board: read from their table, renewed behind the page when they are older than the job."""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable, Iterable
from typing import Literal, NamedTuple

from pydantic import ValidationError
from sqlalchemy import Select, func, select
from sqlalchemy.orm import Session, sessionmaker

from ..catalogue.load import shelf as base_shelf
from ..catalogue.revisions import MODEL_REVISION, SHELF_REVISION
from ..core.cutting.store import StockUse, UsedBy
from ..core.errors import BadInput
from ..core.figures.job_figures import JobFigures
from ..core.job.broken import usable
from ..core.job.document import Job, JobDocument
from ..core.job.owners import OWNERS
from ..core.job.shelf import Shelf, shelf_of, with_used
from ..core.job.workshop import WorkshopDocument
from ..core.stages.board.card import Card, card
from ..core.stages.board.learned import Repeats
from ..core.stages.cut.laid_out import bought
from ..store.documents import WORKSHOP, Missing, revision, stored
from ..store.models import CardRow, OwnerRow

A_PAGE = 50
AT_ONCE = 8
"""So many jobs without a card are worked out while the board waits."""
Order = Literal["newest", "oldest", "name"]
NAME = OwnerRow.content["name"].as_string()
log = logging.getLogger("sphagnum")


class OnBoard(NamedTuple):
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


def page(session: Session, number: int, order: Order, find: str = "") -> tuple[list[OnBoard], int]:
    """A page of the board from 0, and how many jobs there are in all; of those whose name holds ``find``."""
    now, asked = stamp(session), [func.lower(NAME).contains(find.lower(), autoescape=True)] if find else []
    count = session.scalar(select(func.count()).select_from(OwnerRow).where(OwnerRow.kind == "job", *asked)) or 0
    found = []
    for row, kept in session.execute(_sorted(order).where(*asked).limit(A_PAGE).offset(number * A_PAGE)):
        older = kept is None or (kept.revision, kept.stamp) != (row.revision, now)
        found.append(OnBoard(usable(OWNERS["job"], stored(row))[0], _readable(kept), older))
    return found, count


def _readable(kept: CardRow | None) -> Card | None:
    """A card as kept; None where an earlier version of the program wrote it in another form."""
    try:
        return None if kept is None else Card.model_validate(kept.card)
    except ValidationError:
        return None


def repeats(session: Session) -> list[Repeats]:
    """What the cards say of every job's repeats."""
    found = (_readable(x) for x in session.scalars(select(CardRow)))
    return [x.repeats for x in found if x is not None]


class Renewal:
    """Renews cards behind the page, one job after another; at once where nothing is worked out behind it."""

    def __init__(
        self, store: sessionmaker[Session], read: Callable[[Session, int], tuple[JobDocument, WorkshopDocument]],
        figures: Callable[[JobDocument, Shelf], JobFigures], behind: bool,
    ) -> None:
        self._store, self._read, self._figures, self._behind = store, read, figures, behind
        self._wanted: dict[int, None] = {}
        self._used: tuple[UsedBy, ...] | None = None
        self._more = threading.Condition()
        if behind:
            threading.Thread(target=self._run, name="cards", daemon=True).start()

    def ask(self, found: Iterable[OnBoard]) -> bool:
        """Have the cards that are older than their jobs renewed; whether any was at once.

        A few jobs without any card get theirs at once, so that the first look at a board shows something.
        """
        late = [f for f in found if f.older]
        first = [f.job.id for f in late if f.card is None]
        now = [f.job.id for f in late] if not self._behind else first if len(first) <= AT_ONCE else []
        for job_id in now:
            self.renew(job_id)
        with self._more:
            self._wanted |= dict.fromkeys(f.job.id for f in late if f.job.id not in now)
            self._more.notify()
        return bool(now)

    def tick(self, job_id: int) -> None:
        """Something was ticked, or is not any more: what the job has used of the store is known when its card is renewed."""
        if not self._behind:
            return self.renew(job_id)
        with self._more:
            self._wanted[job_id] = None
            self._more.notify()

    def used(self) -> tuple[UsedBy, ...]:
        """What jobs have used of the store, thrown away ones too; the same object until that is another."""
        if self._used is None:
            self._used = self._read_used()
        return self._used

    def _note(self, job_id: int, uses: tuple[StockUse, ...]) -> None:
        """What a job has used by now, beside what the others have."""
        with self._more:
            own = tuple(UsedBy(job_id, use) for use in uses)
            if tuple(u for u in self.used() if u.job_id == job_id) != own:
                self._used = (*(u for u in self.used() if u.job_id != job_id), *own)

    def _read_used(self) -> tuple[UsedBy, ...]:
        with self._store() as session:
            kept = session.scalars(select(CardRow).where(CardRow.card["used"].as_string() != "[]").order_by(CardRow.owner_id))
            return tuple(UsedBy(row.owner_id, use) for row in kept if (made := _readable(row)) is not None for use in made.used)

    def _run(self) -> None:
        while True:
            with self._more:
                self._more.wait_for(lambda: bool(self._wanted))
                job_id = next(iter(self._wanted))
            try:
                self.renew(job_id)
            except Exception:  # a card that cannot be made stays as it is; the others go on
                log.exception("card of job %s", job_id)
            with self._more:
                self._wanted.pop(job_id, None)

    def renew(self, job_id: int) -> None:
        """Work out the card of a job and keep it; while a layout of it is under way it counts as older."""
        with self._store() as session:
            try:
                number, now = revision(session, job_id), stamp(session)  # what comes in meanwhile is made up for next time
                doc, own = self._read(session, job_id)
            except Missing:
                return
        shelf = with_used(shelf_of(base_shelf(), own), self.used())
        job = self._figures(doc, shelf)
        try:
            made = card(job)
            if bought(job).work:
                now += " in part"
        except BadInput:  # whoever opens the job is told; the board goes on
            made = card(self._figures(JobDocument(job=doc.job), shelf))
        with self._store() as session:
            session.connection(execution_options={"writing": True})
            if session.get(OwnerRow, job_id) is not None:
                session.merge(CardRow(owner_id=job_id, revision=number, stamp=now, card=made.model_dump(mode="json")))
            session.commit()
        self._note(job_id, made.used)
