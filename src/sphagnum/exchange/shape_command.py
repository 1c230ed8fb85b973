"""The command that draws a shape from what was taken by tape; loads nothing of sheets and jobs."""

from __future__ import annotations

from ..core.errors import BadInput
from ..core.surfaces.taped import TapedShape, read_taped, taped_shape
from .files import read_bytes, read_json


def run_shape(name: str) -> TapedShape:
    """``shape SHAPE.json``."""
    taped = read_taped(read_json(read_bytes(name), name), name)
    try:
        return taped_shape(taped)
    except BadInput as error:
        raise error.at(name) from None
