"""What is kept of a build: what a tape and an eye gave of it. Its parts and figures are worked out, never stored."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any

from pydantic import Field

from ..forms import Name, Optional, RowId, Words
from ..schema import Row, Strict
from .absorbers import AbsorbersIn
from .windows import WindowIn

Given = Annotated[AbsorbersIn | WindowIn, Field(discriminator="kind")]


def materials_in(given: Mapping[str, Any]) -> list[str]:
    """Materials that what is given of a build names, as plain data: fill, boards and facing of a frame, panes as "id@mm"."""
    frame, stands = given.get("frame") or {}, given.get("stands") or {}
    sheets = [x["material"] for x in (frame.get("side"), frame.get("facing")) if x]
    panes = [layer.partition("@")[0] for pane in stands.get("panes") or () for layer in pane]
    return [*([frame["fill"]] if frame.get("fill") else []), *sheets, *panes]


class BuildIn(Strict):
    """A thing that is built: its name, what is given of it, and whether it is part of the plan."""

    name: Name
    given: Given
    chosen: bool = True
    path_id: Annotated[RowId | None, Optional] = None
    """Of a window: the way in it is."""
    note: Words = ""


class Build(BuildIn, Row): ...
