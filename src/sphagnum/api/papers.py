"""Offers and reports: looked at, handed over with a number and frozen, answered; the number the next one gets."""

from __future__ import annotations

import io
from collections.abc import Mapping, Sequence
from datetime import UTC, date, datetime
from pathlib import Path
from typing import Annotated, Literal

from flask import Response, request
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from ..core.errors import BadInput
from ..core.figures.goal import value_in
from ..core.figures.job_figures import JobFigures
from ..core.forms import RowId, RowVersion
from ..core.job.document import JobDocument
from ..core.papers.blocks import Paper
from ..core.schema import DayOrNone, Strict
from ..core.stages.cut.laid_out import bought
from ..core.stages.papers.asked import AS_PLANNED, PLANNED, PlanAsked, job_of, planned, whole_plan
from ..core.stages.papers.handed import (
    Answered,
    Handed,
    PaperKind,
    PaperState,
    differences,
    number_words,
    promise_in,
    state_on,
)
from ..core.stages.papers.offer import MOST_PLANS, JobOffer, offer
from ..core.stages.papers.offer_paper import offer_paper
from ..core.stages.papers.report import Audience, report
from ..core.worded import view_in
from ..exchange.papers.plain import as_text
from ..store.documents import owner_row
from ..store.edits import Conflict, Editor, OneEdit
from ..store.models import PaperRow
from ..store.papers import confirm, counter, forget_customer, paper_row, papers_of, take_number
from ..store.tidy import named
from . import schemas as s
from .files import download, slug
from .promises import PROGRAM, keep_promise
from .shared import answer, api, editor, figures_of, files, load, reader, sends, store

Plans = Annotated[tuple[PlanAsked, ...], Field(max_length=MOST_PLANS)]
DRAWN = {"pdf": "application/pdf", "html": "text/html"}


class OfferAsked(Strict):
    """Which plans an offer holds (none: as chosen), and its day; today's where it has none."""

    plans: Plans = ()
    on: DayOrNone = ""


class OfferPage(Strict):
    """An offer as it would be handed over now; ``late``: some of it is still being laid out."""

    offer: JobOffer
    revision: int
    late: bool


class HandOver(Strict):
    """What is handed over. ``revision`` and ``seen``: the job and the offer as seen; ``version_of``: the paper it follows."""

    kind: PaperKind
    plans: Plans = ()
    on: DayOrNone = ""
    audience: Audience = "customer"
    revision: RowVersion
    seen: JobOffer | None = None
    version_of: RowId | None = None


class PaperPage(Strict):
    """A paper that was handed over, and what it is today."""

    id: int
    number: str
    job_id: int
    kind: PaperKind
    state: PaperState
    made_at: str
    paper: Handed
    files: tuple[str, ...]


class PaperPages(Strict):
    """The papers of a job, the newest first; ``next``: the number the next one gets, once that is ``confirmed``."""

    papers: tuple[PaperPage, ...]
    next: int
    confirmed: bool


class PaperPath(BaseModel):
    paper_id: RowId


class DrawnPath(PaperPath):
    way: Literal["pdf", "html"]


class ReportPath(s.JobPath):
    way: Literal["pdf", "html", "txt"]


class ReportQuery(BaseModel):
    """For whom a report is, and its day."""

    audience: Audience = Field(default="customer", alias="for")
    on: DayOrNone = ""


class OfferAnswer(Answered):
    """What was said to an offer."""

    state: Literal["accepted", "refused"]


class NextNumber(Strict):
    """The number the next paper gets."""

    next: RowId


@api.post("/jobs/<int:job_id>/offer", responses={200: OfferPage})
def look_at_offer(path: s.JobPath, body: OfferAsked) -> Response:
    """The offer as it would be handed over now; nothing is kept."""
    doc, number = _kept(path.job_id)
    made, jobs = _offered(doc, body.plans, body.on)
    return answer(OfferPage(offer=made, revision=number, late=any(bought(j).work for j in jobs)))


@api.get("/jobs/<int:job_id>/report.<string:way>", responses=sends(*DRAWN.values(), "text/plain"))
def get_report(path: ReportPath, query: ReportQuery) -> Response:
    """The report as it would be handed over now."""
    keep_promise(path.job_id, "report")
    doc, _ = _kept(path.job_id)
    paper = _report(doc, query.audience, query.on)
    name = f"{slug(doc.job.name)}-result.{path.way}"
    if path.way == "txt":
        return download(as_text(paper).encode(), "text/plain", name)
    return sheet(_drawn(paper)[path.way], path.way, name)


@api.get("/jobs/<int:job_id>/papers", responses={200: PaperPages})
def get_papers(path: s.JobPath) -> Response:
    """The papers of a job."""
    return answer(_pages(path.job_id))


@api.post("/jobs/<int:job_id>/papers", responses={201: PaperPage})
def hand_over(path: s.JobPath, body: HandOver) -> Response:
    """Give a paper its number, draw it, and freeze it. A drawing that fails voids the number. 409 where the job is another by now
    than it was seen, with what differs."""
    doc, number = _kept(path.job_id)
    made, jobs = _offered(doc, body.plans, body.on) if body.kind == "offer" else (None, [figures_of(doc)])
    if made != body.seen if made is not None and body.seen is not None else body.revision != number:
        told = differences(body.seen, made) if made is not None and body.seen is not None else ()
        raise Conflict(None, {"differs": list(told)}, " ".join(["the job has changed since it was looked at", *told]))
    if any(bought(j).work for j in jobs):
        raise BadInput("its pieces are still being laid out, so the price is an estimate", "offer", "try again in a moment")
    goal = doc.goal
    content = Handed(
        job=doc.job.name, customer=doc.job.customer, offer=made, plans=_whole(doc, body.plans) if made is not None else (),
        audience=body.audience, revision=number, quantity="" if goal is None else goal.quantity,
        as_found=None if goal is None else value_in(jobs[0], goal, doc.round_in("as found")),
        edit=request.headers.get("X-Edit", "")[:80])
    with editor().begin() as session:
        if body.version_of is not None:
            old = _page(paper_row(session, body.version_of))
            told = differences(old.paper.offer, made) if old.paper.offer and made else ()
            content = content.model_copy(update={"version_of": old.number, "differs": told})
        row = take_number(session, path.job_id, body.kind, content.model_dump(mode="json"))
        drawn_before = row.state != "drawing"
        session.commit()
        page = _page(row)
    if drawn_before:
        return answer(page, 201)
    return answer(_draw(page, doc, made, body), 201)


def _whole(doc: JobDocument, plans: Sequence[PlanAsked]) -> tuple[PlanAsked, ...]:
    """Plans with all that is planned anywhere, so that each can be taken into Build as it was offered."""
    return tuple(whole_plan(p.name, planned(doc, p)) for p in plans or (PlanAsked(name=AS_PLANNED),))


def _draw(page: PaperPage, doc: JobDocument, made: JobOffer | None, body: HandOver) -> PaperPage:
    """Draws a paper and freezes it; where that fails its number is void, with the reason."""
    try:
        if made is None:
            paper = _report(doc, body.audience, body.on)
            paper, more = paper.model_copy(update={"title": f"Report {page.number}: {paper.title}"}), {}
        else:
            made = made.model_copy(update={"number": page.number})
            paper = view_in(offer_paper(made, figures_of(doc), doc, body.plans), reader())
            more = {"offer": made.model_dump(mode="json")}
        with files().attempt() as kept:
            names = {way: kept.put(io.BytesIO(data), f".{way}") for way, data in _drawn(paper).items()}
            return _settled(page.id, "handed over", names, more)
    except Exception as error:
        why = error.sentence if isinstance(error, BadInput) else "the drawing failed"
        _settled(page.id, "void", {}, {"why": why[:300]})
        raise


def _settled(paper_id: int, state: PaperState, names: dict[str, str], more: Mapping[str, object]) -> PaperPage:
    with Editor(store(), PROGRAM).begin() as session:
        row = paper_row(session, paper_id)
        row.state, row.files, row.content = state, names, {**row.content, **more}
        session.commit()
        return _page(row)


@api.get("/papers/<int:paper_id>.<string:way>", responses=sends(*DRAWN.values()))
def get_paper(path: DrawnPath) -> Response:
    """A paper as it was handed over, byte for byte."""
    with store()() as session:
        page, names = _page(row := paper_row(session, path.paper_id)), row.files
    if path.way not in names:
        raise BadInput("this paper was not drawn", page.number, page.paper.why or "hand it over anew")
    return sheet(files().path(names[path.way]).read_bytes(), path.way, f"{page.kind}-{page.number}.{path.way}")


@api.post("/papers/<int:paper_id>/answer", responses={200: PaperPage})
def answer_offer(path: PaperPath, body: OfferAnswer) -> Response:
    """An offer was accepted, and its plan is taken into Build as what is promised; or it was refused."""
    with editor().begin() as session:  # two who answer at one instant: one does
        row = paper_row(session, path.paper_id)
        page = _page(row)
        if page.kind != "offer" or page.state not in ("handed over", "lapsed"):
            raise BadInput(f"this paper is {page.state}", page.number, "only an offer that was handed over is answered, once")
        names = [p.name for p in page.paper.plans]
        plan = body.plan or (names[0] if len(names) == 1 else "")
        if body.state == "accepted" and plan not in names:
            raise BadInput("which plan was accepted is not said", "plan", f"choose one of: {', '.join(names)}")
        steps = _into_build(session, page, plan) if body.state == "accepted" else []
        said = Answered(plan=plan if body.state == "accepted" else "", who=body.who, words=body.words,
                        on=body.on or date.today().isoformat())
        row.state, row.content = body.state, {**row.content, "answered": said.model_dump(mode="json")}
        session.commit()
        done = _page(row)
    if steps:
        editor().do(page.job_id, steps)
    if body.state == "accepted" and (promise := promise_in(done.paper, done.number, plan, _now())) is not None:
        Editor(store(), PROGRAM).create(page.job_id, "promises", [promise.model_dump(mode="json")])
    return answer(done)


def _into_build(session: Session, page: PaperPage, plan: str) -> list[OneEdit]:
    """What makes a job stand as an accepted plan has it. BadInput where something of it is there no more."""
    doc, _ = load(session, page.job_id)
    then = planned(doc, next(p for p in page.paper.plans if p.name == plan))
    edits = []
    for name, fields in PLANNED.items():
        before = {r.id: r for r in getattr(doc, name)}
        for row in getattr(then, name):
            values, old = row.model_dump(mode="json", include=set(fields)), before.get(row.id)
            was = {} if old is None else old.model_dump(mode="json", include=set(fields))
            changed = {k: v for k, v in values.items() if k not in was or was[k] != v}
            if changed:
                seen = None if old is None else (old.id, old.version)
                edits.append(OneEdit(name, seen, changed, force=old is not None))
    return edits


def _now() -> str:
    return datetime.now(UTC).isoformat(timespec="seconds")


@api.post("/papers/numbers", responses={200: NextNumber})
def confirm_numbers(body: NextNumber) -> Response:
    """Say which number the next paper gets, as after a restore."""
    with editor().begin() as session:
        confirm(session, body.next)
        session.commit()
    return answer(body)


@api.delete("/jobs/<int:job_id>/customer", responses={200: PaperPages})
def forget(path: s.JobPath) -> Response:
    """Take the customer out of a job for good: name, what they said, photographs, papers; numbers and sums stay."""
    with editor().begin() as session:
        names = forget_customer(session, owner_row(session, path.job_id))
        session.commit()
        kept = named(session)
    for name in names:
        if name not in kept:
            (files().folder / Path(name).name).unlink(missing_ok=True)
    return answer(_pages(path.job_id))


def sheet(data: bytes, way: str, name: str) -> Response:
    """A paper to keep. A page for a browser is no page of ours: it runs nothing and asks nobody."""
    response = download(data, DRAWN[way], name)
    if way == "html":
        response.headers["Content-Disposition"] = f'attachment; filename="{name}"'
        response.headers["Content-Security-Policy"] = (
            "default-src 'none'; img-src data:; media-src data:; font-src data:; style-src 'unsafe-inline'; sandbox")
    return response


def _kept(job_id: int) -> tuple[JobDocument, int]:
    with store()() as session:
        return load(session, job_id)


def _offered(doc: JobDocument, plans: tuple[PlanAsked, ...], on: str) -> tuple[JobOffer, list[JobFigures]]:
    job, day = figures_of(doc), date.fromisoformat(on) if on else date.today()
    return view_in(offer(job, doc, plans, day), reader()), [job_of(job, p) for p in plans] or [job]  # as it is read, and kept


def _report(doc: JobDocument, audience: Audience, on: str) -> Paper:
    return view_in(report(figures_of(doc), doc, date.fromisoformat(on) if on else None, audience), reader())


def _drawn(paper: Paper) -> dict[str, bytes]:
    from ..exchange.papers.html import html  # what prints is loaded when something is printed first
    from ..exchange.papers.kept import stretch
    from ..exchange.papers.pdf import pdf

    kept = files()

    def heard(name: str, from_s: float, to_s: float) -> bytes | None:
        return stretch(kept.folder / Path(name).name, from_s, to_s)
    return {"pdf": pdf(paper, kept.photograph), "html": html(paper, kept.photograph, heard)}


def _pages(job_id: int) -> PaperPages:
    with store()() as session:
        numbers = counter(session)
        found = tuple(_page(r) for r in papers_of(session, [job_id]))
        return PaperPages(papers=found, next=numbers.next, confirmed=numbers.confirmed)


def _page(row: PaperRow) -> PaperPage:
    paper = Handed.model_validate(row.content)
    state: PaperState = state_on(row.state, paper.offer, date.today())  # type: ignore[arg-type]
    return PaperPage(
        id=row.id, number=number_words(row.number, row.made_at.date()), job_id=row.job_id, paper=paper, files=tuple(row.files),
        kind="offer" if row.kind == "offer" else "report", state=state, made_at=row.made_at.isoformat(timespec="seconds"))
