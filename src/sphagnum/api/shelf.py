"""The Shelf's own routes: a material looked at before it is kept, lists in and out, and what jobs take from it."""

from __future__ import annotations

from typing import Annotated

from flask import Response, make_response
from flask_openapi3 import FileStorage
from pydantic import BaseModel, BeforeValidator

from ..catalogue.load import shelf as shipped
from ..core.errors import BadInput
from ..core.job.operations import setting
from ..core.job.shelf_changes import plain, said_changes
from ..core.materials.model import Material, composed
from ..core.materials.quick import QuickForm, quick_material
from ..core.materials.usual import doubts
from ..core.schema import parse
from ..core.stages.shelf.view import ShelfOffers, card, offers
from ..exchange.shelf_commands import steps_for, take_in, told
from ..exchange.shelf_file import read_shelf, write_shelf
from ..store.documents import WORKSHOP, document
from ..store.edits import OneEdit
from . import schemas as s
from .shared import answer, api, editor, load, own_workshop, sends, shelf, store

Ticked = Annotated[bool, BeforeValidator(lambda v: str(v).lower() in ("true", "1", "on", "yes"))]


class ShelfUpload(BaseModel):
    """A list of materials; ``dry_run`` changes nothing; ``match`` finds them by the supplier's order numbers."""

    file: FileStorage
    dry_run: Ticked = True
    match: Ticked = False


@api.post("/shelf/look", responses={200: s.MaterialLooked})
def look_at_material(body: s.MaterialAsked) -> Response:
    """What a typed material would be, and what should be asked about it; nothing is kept."""
    typed = parse(Material, body.material)
    whole = composed({**shelf().materials, typed.id: typed}, [typed.id])[typed.id]
    return answer(s.MaterialLooked(card=card(whole, shipped(), own_workshop().workshop.currency), doubts=doubts(whole)))


@api.post("/shelf/quick", responses={200: s.MaterialLooked})
def quick_look(body: QuickForm) -> Response:
    """What a material would be by what a fitter knows of it, and what should be asked about it; nothing is kept."""
    made = quick_material(body, shelf().materials.values())
    return answer(s.MaterialLooked(card=card(made, shipped(), own_workshop().workshop.currency), doubts=doubts(made)))


@api.get("/shelf.csv", responses=sends("text/csv"))
def get_shelf_csv() -> Response:
    """All materials as a table."""
    return _file(write_shelf(list(shelf().materials.values()), True), "text/csv", "shelf.csv")


@api.get("/shelf.json", responses=sends("application/json"))
def get_shelf_json() -> Response:
    """All materials as they are kept."""
    return _file(write_shelf(list(shelf().materials.values()), False), "application/json", "shelf.json")


def _file(data: bytes, kind: str, name: str) -> Response:
    response = make_response(data)
    response.mimetype = kind
    response.headers["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


@api.post("/shelf/import", responses={200: s.ShelfImport})
def import_shelf(form: ShelfUpload) -> Response:
    """Materials from a file: what would change, or, when it is no dry run, changed as one edit."""
    now = shelf().materials
    found = read_shelf(form.file.read(), form.file.filename or "file", now, form.match)
    if not form.dry_run:
        take_in(store(), editor(), found)
    changes = tuple(s.ShelfChange(id=m.id, name=m.name, added=False, changes=said_changes(now[m.id], m)) if m.id in now
                    else s.ShelfChange(id=m.id, name=m.name, added=True, changes=()) for m in (*found.added, *found.changed))
    return answer(s.ShelfImport(**told(found).model_dump(), materials=changes))


@api.get("/jobs/<int:job_id>/shelf", responses={200: ShelfOffers})
def get_offers(path: s.JobPath) -> Response:
    """What the shelf has by now for the materials a job was planned with."""
    with store()() as session:
        return answer(offers(load(session, path.job_id)[0], shelf()))


@api.post("/jobs/<int:job_id>/shelf", responses={200: s.Rows})
def take_from_shelf(path: s.JobPath, body: s.TakeShelf) -> Response:
    """Take the shelf's values for materials of a job, as one edit of the job; put others onto the shelf, as one of the shelf."""
    now = shelf().materials
    with store()() as session:
        copies = {c.material.id: c for c in document(session, path.job_id).material_copies}
    wrong = next((m for m in (*body.materials, *body.onto_shelf) if m not in copies), None)
    if wrong is not None:
        raise BadInput(f"the job has no material '{wrong[:60]}'", "materials", "choose from those it has")
    gone = next((m for m in body.materials if m not in now), None)
    if gone is not None:
        raise BadInput(f"'{copies[gone].material.name}' is not on this shelf", "materials", "put it onto the shelf instead")
    if body.onto_shelf and body.materials:
        raise BadInput("both ways at once", "materials", "take from the shelf, or put onto it")
    if body.onto_shelf:
        new = [copies[m].material for m in body.onto_shelf]
        with store()() as session:
            steps = steps_for(session, new)
        editor().together(WORKSHOP, steps)
    edits = [OneEdit("material_copies", (copies[m].id, copies[m].version), operations=setting({"material": plain(now[m])}))
             for m in body.materials]
    return answer(s.Rows(rows=editor().together(path.job_id, edits) if edits else ()))
