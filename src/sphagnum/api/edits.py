"""Writing: jobs and their rows, one mechanism for every collection; undo."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from flask import Response
from sqlalchemy import select

from ..core.errors import BadInput
from ..core.figures.sources import levels_in
from ..core.job.document import COLLECTIONS, JobIn
from ..core.job.owners import ITSELF
from ..core.levels.rows import QUANTITIES
from ..core.levels.typed import read_entries
from ..core.levels.typed_bands import level_in, look_like_bands, read_bands, thirds_of
from ..core.paths.offers import rows_from
from ..core.stages.trace.view import trace_view
from ..store.documents import TRASHED, Missing, document
from ..store.edits import OneEdit
from ..store.models import OwnerRow
from ..store.tidy import KEPT_DAYS
from ..store.undo import redo, undo
from . import schemas as s
from .captures import captures
from .promises import keep_promise
from .shared import answer, api, editor, job_figures, own_workshop, renewal, shelf, store


def _known(collection: str) -> str:
    if collection not in COLLECTIONS:
        raise Missing(f"there is no collection '{collection[:40]}'")
    return collection


@api.post("/jobs", responses={201: s.Created})
def create_job(body: JobIn) -> Response:
    """A new job; what is left out is what jobs of its kind begin with."""
    start = shelf().offers.start(body.kind)
    own = own_workshop().workshop
    usual = {"currency": own.currency, **({"workshop": own.name} if own.name else {}), **(
        {} if start is None else {"method": start.method, "absorption_m2": start.absorption_m2})}
    given = {k: v for k, v in body.model_dump(mode="json").items() if k in body.model_fields_set or k not in usual}
    return answer(s.Created(id=editor().create_job({**usual, **given})), 201)


@api.patch("/jobs/<int:job_id>", responses={200: s.Rows})
def change_job(path: s.JobPath, body: s.Edit) -> Response:
    """Change fields of the job itself."""
    return done(path.job_id, s.Step(collection="jobs", row=path.job_id, version=body.version, values=body.changes,
                                     operations=body.operations, force=body.force))


@api.delete("/jobs/<int:job_id>", responses={200: s.Rows})
def delete_job(path: s.JobPath, query: s.RevisionQuery) -> Response:
    """Put a job and all it holds into the trash; after 30 days it goes for good."""
    editor().trash_job(path.job_id, query.revision)
    captures().close_of(path.job_id)
    return answer(s.Rows(rows=()))


@api.get("/trash", responses={200: s.Trash})
def get_trash() -> Response:
    """The jobs that were thrown away and can still be brought back."""
    with store()() as session:
        rows = session.scalars(select(OwnerRow).where(OwnerRow.kind == TRASHED).order_by(OwnerRow.trashed_at.desc())).all()
    return answer(s.Trash(jobs=tuple(
        s.Trashed(id=r.id, name=r.content["name"], until=f"{r.trashed_at + timedelta(days=KEPT_DAYS):%Y-%m-%d}")
        for r in rows if r.trashed_at is not None)))


@api.post("/trash/<int:job_id>/restore", responses={200: s.Rows})
def bring_back(path: s.JobPath) -> Response:
    """Bring a job back from the trash."""
    editor().from_trash(path.job_id, bring_back=True)
    return answer(s.Rows(rows=()))


@api.delete("/trash/<int:job_id>", responses={200: s.Rows})
def let_go(path: s.JobPath) -> Response:
    """Let a trashed job go for good."""
    editor().from_trash(path.job_id, bring_back=False)
    return answer(s.Rows(rows=()))


@api.post("/jobs/<int:job_id>/undo", responses={200: s.Undone})
def undo_one(path: s.JobPath, query: s.TakeBack) -> Response:
    """Take back the asking browser's newest edit that stands."""
    what = undo(editor(), path.job_id, query.skip, query.force)
    renewal().tick(path.job_id)
    return answer(s.Undone(what=what))


@api.post("/jobs/<int:job_id>/redo", responses={200: s.Undone})
def redo_one(path: s.JobPath, query: s.TakeBack) -> Response:
    """Bring back what the asking browser took back last."""
    what = redo(editor(), path.job_id, query.skip, query.force)
    renewal().tick(path.job_id)
    return answer(s.Undone(what=what))


@api.post("/jobs/<int:job_id>/edits", responses={200: s.Rows})
def edit_job(path: s.JobPath, body: s.Steps) -> Response:
    """Several steps as one edit, undone as one; X-Edit names it, so that it counts once however often it is sent."""
    return done(path.job_id, *body.steps)


def done(owner_id: int, *steps: s.Step, status: int = 200) -> Response:
    """Steps done as one edit of a job or of the workshop, answered by the rows they left. What happens to the order is stamped as
    it comes in, keeps the promise of its first tick, and has what it used of the store reckoned anew."""
    now = datetime.now(UTC).isoformat(timespec="seconds")
    edits = []
    for step in steps:
        if {"id", "version"} & step.values.keys() or any(o.at[0] in ("id", "version") for o in step.operations):
            raise BadInput("a row's number and version are not edited", "changes", "leave id and version out")
        fresh = step.collection == "step_events" and step.row is None
        itself = step.collection in ITSELF
        if itself and step.remove:
            raise BadInput("a job is not removed by an edit", "steps", "delete the job itself")
        row = owner_id if itself else step.row
        values = {**step.values, "received_at": now} if fresh else step.values
        edits.append(OneEdit(step.collection, None if row is None else (row, step.version), values, step.operations,
                             step.remove, step.force))
    left = editor().do(owner_id, edits)
    if any(step.collection == "step_events" and step.values.get("what") == "done" for step in steps):
        keep_promise(owner_id, "first step")
    if any(step.collection == "step_events" for step in steps):
        renewal().tick(owner_id)
    return answer(s.Rows(rows=left.rows, revision=left.revision), status)


@api.post("/jobs/<int:job_id>/typed-readings", responses={201: s.Rows})
def type_readings(path: s.JobPath, body: s.TypedReadings) -> Response:
    """Readings as typed: '74,8; 74.6', 'between 62 and 66', or in bands: '63: 84, 125: 86'."""
    with store()() as session:
        doc = document(session, path.job_id)
    asked = doc.goal.quantity if doc.goal else "LAeq"
    common = {**body.model_dump(exclude={"text", "weighting", "repeats"}),
              "quantity": "LAeq" if QUANTITIES[asked].between_rooms else asked,
              "taken_at": datetime.now(UTC).isoformat(timespec="seconds")}
    typed = read_bands(body.text, body.weighting)
    if typed is not None:
        bands = thirds_of(typed, levels_in(shelf(), next((c for c in doc.conditions if c.id == body.condition_id), None)))
        level = round(level_in(common["quantity"], bands), 2)
        rows = [{**common, "level_db": level, "source": "spectrum", "bands_db": bands}]
        return answer(s.Rows(rows=editor().create(path.job_id, "readings", rows)), 201)
    entries = read_entries(body.text)
    singles = [e.level_db for e in entries if e.level_db is not None]
    if not body.repeats and len(singles) == len(entries) and look_like_bands(singles):
        apart = max(singles) - min(singles)
        raise BadInput(f"these {len(singles)} levels lie {apart:.0f} dB apart: repeats, or bands?", "repeats",
                       "say which; bands are typed with their frequencies, such as 63: 84, 125: 86")
    rows = [
        {**common, **entry._asdict(), "source": "typed" if entry.level_db is not None else "range"}
        for entry in entries
    ]
    return answer(s.Rows(rows=editor().create(path.job_id, "readings", rows)), 201)


@api.post("/bands", responses={200: s.BandsFound})
def find_bands(body: s.BandsAsked) -> Response:
    """The levels in bands that a text holds, as somebody pastes it or a file has it; nothing is kept."""
    typed = read_bands(body.text)
    return answer(s.BandsFound() if typed is None else s.BandsFound(
        frequency_hz=tuple(typed.level_db), level_db=tuple(typed.level_db.values()),
        octaves=typed.octaves, a_weighted=typed.a_weighted))


@api.post("/jobs/<int:job_id>/trace-templates", responses={201: s.Rows})
def add_templates(path: s.JobPath, body: s.TemplateChoice) -> Response:
    """Add usual ways in with their surfaces, as one edit."""
    known = {t.id: t for t in shelf().offers.templates}
    wrong = next((t for t in body.templates if t not in known), None)
    if wrong is not None:
        raise BadInput(f"there is no template '{wrong}'", "templates", "choose from those offered")
    with store()() as session:
        doc = document(session, path.job_id)
    gone_through = {p.surface_id for p in doc.paths}
    rows = rows_from(shelf().offers, [known[t] for t in body.templates],
                     {x.name: x.id for x in doc.surfaces if x.id not in gone_through})
    return answer(s.Rows(rows=editor().together(path.job_id, [OneEdit(r.collection, values=r.values) for r in rows])), 201)


@api.post("/jobs/<int:job_id>/trace-plan", responses={200: s.Rows})
def send_plan(path: s.JobPath) -> Response:
    """Hand the ranked plan to Build: each path gets its place in the order and how much less is wanted through it."""
    with store()() as session:
        doc = document(session, path.job_id)
    ranking = trace_view(job_figures(path.job_id)).ranking
    if ranking is None or not ranking.wishes:
        raise BadInput("there is no plan to send", "trace", "set a goal in dB(A), read it as found and list the paths")
    wanted = {w.path_id: (i, w.depth_db) for i, w in enumerate(ranking.wishes, start=1)}
    edits = [
        OneEdit("paths", (p.id, p.version), {"order": wanted[p.id][0] if p.id in wanted else None,
                                             "wanted_db": wanted[p.id][1] if p.id in wanted else None})
        for p in doc.paths if p.id in wanted or p.order is not None
    ]
    return answer(s.Rows(rows=editor().together(path.job_id, edits)))


@api.post("/jobs/<int:job_id>/<collection>", responses={201: s.Rows})
def create_rows(path: s.CollectionPath, body: s.NewRows) -> Response:
    """Add rows to a collection of a job, as one edit."""
    name = _known(path.collection)
    return done(path.job_id, *(s.Step(collection=name, values=row) for row in body.rows), status=201)


@api.patch("/jobs/<int:job_id>/<collection>/<int:row_id>", responses={200: s.Rows})
def change_row(path: s.RowPath, body: s.Edit) -> Response:
    """Change fields of a row, or what is inside them."""
    return done(path.job_id, s.Step(collection=path.collection, row=path.row_id, version=body.version, values=body.changes,
                                     operations=body.operations, force=body.force))


@api.delete("/jobs/<int:job_id>/<collection>/<int:row_id>", responses={200: s.Rows})
def remove_row(path: s.RowPath, query: s.VersionQuery) -> Response:
    """Remove a row and what depends on it."""
    return done(path.job_id, s.Step(collection=_known(path.collection), row=path.row_id, version=query.version, remove=True))
