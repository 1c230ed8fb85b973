"""What is kept of a build: what a tape and an eye gave of it. Its parts and figures are worked out, never stored."""

from __future__ import annotations

from typing import Annotated

from ..forms import Name, Optional, RowId, Words
from ..schema import Row, Strict
from .kinds import Given


class BuildIn(Strict):
    """A thing that is built: its name, what is given of it, and whether it is part of the plan."""

    name: Name
    given: Given
    chosen: bool = True
    path_id: Annotated[RowId | None, Optional] = None
    """The way in it is, or acts on."""
    note: Words = ""


class Build(BuildIn, Row): ...
