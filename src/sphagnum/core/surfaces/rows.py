"""What is kept of surfaces and of the stacks that could go on them: the rows a person edits, validated."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, BeforeValidator, Field

from ..forms import (
    FormShare,
    FormThickness,
    Name,
    OptionalNumber,
    RowId,
)
from ..schema import ItemId, Row, Strict, numbered, told_apart
from ..stacks.model import Frame
from .geometry import Shape


class StackLayerIn(Strict):
    """One layer of a surface's stack, by material of the shelf."""

    id: ItemId = ""
    material: Annotated[str, Field(min_length=1, max_length=80)]
    thickness_mm: FormThickness
    coverage: FormShare = 1.0


Layers = Annotated[tuple[StackLayerIn, ...], BeforeValidator(numbered), AfterValidator(told_apart), Field(max_length=20)]


class SurfaceIn(Shape):
    """A panel of the job; ``count`` identical ones; ``present`` is what lies on its substrate now."""

    name: Name
    count: Annotated[int, Field(ge=1, le=100)] = 1
    substrate: StackLayerIn
    present: Layers = ()
    survey: Literal["", "whole", "missing", "broken", "worn", "glued"] = ""
    """What state its present treatment was found in."""
    survey_do: Literal["", "keep", "restore", "replace", "build on"] = ""
    frame: Frame = Frame()
    """What ties its two leaves together, where what lies on it makes a second leaf."""
    flags: tuple[Literal["wet", "hot", "curved", "hidden", "walked on", "overhead", "trim over it"], ...] = ()
    depth_limit_mm: OptionalNumber = None
    kg_limit: OptionalNumber = None


class AlternativeIn(Strict):
    """A stack that could go on a surface; the chosen one counts."""

    surface_id: RowId
    name: Name = "Plan A"
    layers: Layers = ()
    frame: Frame | None = None
    """How its leaves are tied, where that is not the surface's own frame."""
    chosen: bool = True
class Surface(SurfaceIn, Row): ...
class Alternative(AlternativeIn, Row): ...
