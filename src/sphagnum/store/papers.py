"""Papers that were handed over: their numbers given one after another, what they said, what became of them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import date
from typing import Any, cast

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from ..core.errors import BadInput
from ..core.stages.papers.handed import Handed, PaperState, number_words, state_on
from .documents import Missing
from .models import ChangeRow, EditRow, OwnerRow, PaperNumberRow, PaperRow, PhotoRow, RemarkRow

THE_ONE = 1
HIGHEST = 9_999_999


def take_number(session: Session, job_id: int, kind: str, content: Mapping[str, Any]) -> PaperRow:
    """A paper with the next number, still to be drawn; the caller holds the write lock. One sent again by its edit's id is the
    one there is. BadInput while nobody has confirmed the numbers after a restore."""
    edit = content.get("edit")
    if edit:
        known = session.scalars(select(PaperRow).where(PaperRow.content["edit"].as_string() == edit)).first()
        if known is not None:
            return known
    numbers = counter(session)
    if not numbers.confirmed:
        raise BadInput("the data were restored, and papers handed over since then are not in them", "numbers",
                       f"say which number the next paper gets; the last one known is {numbers.next - 1}")
    row = PaperRow(number=numbers.next, job_id=job_id, kind=kind, state="drawing", content=dict(content), files={})
    numbers.next += 1
    session.add(row)
    session.flush()
    return row


def counter(session: Session) -> PaperNumberRow:
    """The number the next paper gets."""
    found = session.get(PaperNumberRow, THE_ONE)
    if found is None:
        found = PaperNumberRow(id=THE_ONE, next=1, confirmed=True)
        session.add(found)
    return found


def confirm(session: Session, number: int) -> None:
    """The next paper gets this number. BadInput for one that was given."""
    numbers = counter(session)
    if not numbers.next <= number <= HIGHEST:
        raise BadInput(f"{number} was given already, or is out of range", "next", f"give {numbers.next} or more")
    numbers.next, numbers.confirmed = number, True


def paper_row(session: Session, paper_id: int) -> PaperRow:
    """A paper. Missing where there is none."""
    row = session.get(PaperRow, paper_id)
    if row is None:
        raise Missing(f"there is no paper {paper_id}")
    return row


def papers_of(session: Session, job_ids: Iterable[int]) -> list[PaperRow]:
    """The papers of jobs, the newest first."""
    return list(session.scalars(select(PaperRow).where(PaperRow.job_id.in_(list(job_ids))).order_by(PaperRow.number.desc())))


def offers_of(session: Session, job_ids: Iterable[int], today: date) -> dict[int, str]:
    """What became of the newest offer of each job, in words."""
    out: dict[int, str] = {}
    for row in papers_of(session, job_ids):
        if row.kind == "offer" and row.state not in ("drawing", "void"):
            offer = Handed.model_validate(row.content).offer
            number, state = number_words(row.number, row.made_at.date()), state_on(cast(PaperState, row.state), offer, today)
            out.setdefault(row.job_id, f"offer {number} {state}")
    return out


def forget_customer(session: Session, job: OwnerRow) -> list[str]:
    """Takes a customer out of a job for good: name, what they said, photographs, papers' files; from what could be undone too.
    Numbers and sums of papers stay. The caller holds the write lock. The names of the files let go of."""
    job.content = {**job.content, "customer": ""}
    job.version += 1
    job.revision += 1
    gone = [r.content["file"] for r in session.scalars(select(PhotoRow).where(PhotoRow.owner_id == job.id))]
    for table in (PhotoRow, RemarkRow):
        session.execute(delete(table).where(table.owner_id == job.id))
    edits = select(EditRow.id).where(EditRow.owner_id == job.id)
    told = ("jobs", "photos", "remarks")
    session.execute(delete(ChangeRow).where(ChangeRow.edit_id.in_(edits), ChangeRow.collection.in_(told)))
    for row in session.scalars(select(PaperRow).where(PaperRow.job_id == job.id)):
        gone += row.files.values()
        offer, answered = row.content.get("offer"), row.content.get("answered")
        row.files, row.content = {}, {
            **row.content, "customer": "", "why": "the customer was taken out",
            "offer": offer and {**offer, "heard": ""}, "answered": answered and {**answered, "who": "", "words": ""}}
    return gone
