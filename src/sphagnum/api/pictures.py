"""Photographs: made small, turned upright, freed of what the camera wrote into them, and kept by content."""

from __future__ import annotations

import io
from threading import Lock
from typing import Literal

from flask import Response, send_file
from flask_openapi3 import FileStorage
from PIL import Image, ImageOps
from pydantic import BaseModel, Field

from ..core.errors import BadInput, refusing
from ..core.forms import RowId
from ..store.documents import WORKSHOP
from ..store.edits import OneEdit
from . import schemas as s
from .shared import answer, api, editor, files, own_workshop, sends

LARGEST = 1600
MOST_PIXELS = 40_000_000
_one = Lock()  # large pictures are opened one at a time


class PhotoUpload(BaseModel):
    file: FileStorage
    position_id: RowId | None = None
    surface_id: RowId | None = None
    round_id: RowId | None = None
    rattle_id: RowId | None = None
    fixing_id: RowId | None = None
    step: str = Field(default="", max_length=160)
    when: Literal["", "before", "after"] = ""
    caption: str = Field(default="", max_length=200)


class PictureName(BaseModel):
    name: str = Field(pattern=r"^[0-9a-f]{64}\.jpg$")


@api.post("/jobs/<int:job_id>/photographs", responses={201: s.Rows})
def add_photo(path: s.JobPath, form: PhotoUpload) -> Response:
    """Keep a photograph of a place, a surface, a rattle, a fixing or a step."""
    picture = cleaned(form.file.read(), form.file.filename or "photograph")
    with files().attempt() as kept:
        values = {"file": kept.put(io.BytesIO(picture), ".jpg"), **form.model_dump(exclude={"file"})}
        left = editor().do(path.job_id, [OneEdit("photos", values=values)])
    return answer(s.Rows(rows=left.rows, revision=left.revision), 201)


def cleaned(data: bytes, name: str) -> bytes:
    """A JPEG of at most LARGEST pixels a side, upright, without metadata. BadInput for what is no picture."""
    with refusing("this is no picture that can be read", name, "give JPEG, PNG or WebP"):
        with Image.open(io.BytesIO(data), formats=("JPEG", "PNG", "WEBP")) as picture:
            if picture.width * picture.height > MOST_PIXELS:
                raise BadInput("the picture is too large", name, "take a smaller one")
            with _one:
                picture.draft("RGB", (2 * LARGEST, 2 * LARGEST))
                picture.thumbnail((2 * LARGEST, 2 * LARGEST))
                upright = ImageOps.exif_transpose(picture).convert("RGB")
        upright.thumbnail((LARGEST, LARGEST))
        out = io.BytesIO()
        upright.save(out, "JPEG", quality=85)
    return out.getvalue()


class MarkUpload(BaseModel):
    file: FileStorage


MOST_MARK = 2 * 2**20
MARK_PX = 800


@api.post("/workshop/mark", responses={200: s.Rows})
def put_mark(form: MarkUpload) -> Response:
    """The workshop's mark on its papers: made small, written anew, and kept in place of the one there was."""
    data, name = form.file.read(MOST_MARK + 1), form.file.filename or "mark"
    if len(data) > MOST_MARK:
        raise BadInput("the mark is larger than 2 MB", name, "save it smaller, as PNG")
    with files().attempt() as kept:
        mark = kept.put(io.BytesIO(_as_mark(data, name)), ".png")
        own = own_workshop().workshop
        left = editor().do(WORKSHOP, [OneEdit("workshops", (own.id, own.version), {"mark": mark})])
    return answer(s.Rows(rows=left.rows, revision=left.revision))


def _as_mark(data: bytes, name: str) -> bytes:
    """A PNG of at most MARK_PX pixels a side. BadInput for what is no picture of dots: a drawing could hold more than one."""
    with refusing("this is no picture a mark can be made of", name, "give PNG, JPEG or WebP"):
        with Image.open(io.BytesIO(data), formats=("JPEG", "PNG", "WEBP")) as picture:
            if picture.width * picture.height > MOST_PIXELS:
                raise BadInput("the picture is too large", name, "give a smaller one")
            small = ImageOps.exif_transpose(picture).convert("RGBA")
        small.thumbnail((MARK_PX, MARK_PX))
        on = Image.new("RGB", small.size, "white")
        on.paste(small, mask=small.getchannel("A"))
        out = io.BytesIO()
        on.save(out, "PNG", optimize=True)
    return out.getvalue()


@api.get("/pictures/<string:name>", responses=sends("image/jpeg"))
def get_picture(path: PictureName) -> Response:
    """A photograph."""
    return send_file(files().path(path.name), mimetype="image/jpeg", max_age=365 * 24 * 3600)
