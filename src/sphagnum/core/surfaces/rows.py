"""What is kept of surfaces and of the stacks that could go on them: the rows a person edits, validated."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Literal

from pydantic import AfterValidator, BeforeValidator, Field, model_validator
from shapely import Polygon, box

from ..forms import (
    FormLength,
    FormMillimetres,
    FormNumber,
    FormShare,
    FormThickness,
    Name,
    OptionalKg,
    OptionalMm,
    RowId,
)
from ..quantities import LENGTHS, read_quantity
from ..schema import ItemId, Row, Strict, numbered, told_apart
from ..stacks.model import Frame
from .geometry import Shape
from .openings import Opening

PLACES = ("", "panel", "far")
"""Where a layer goes that is laid beside no standing one: over all that stands, straight on the panel, on its source side."""
Held = Literal["", "self-adhesive", "tape", "spray glue", "contact glue", "staples", "screws", "isolated screws", "hangers",
               "friction", "loose"]
JoinedBy = Literal["", "compound", "adhesive"]


def _typed_frame(value: object) -> object:
    """A frame as a form sends it: its distances may be text with a unit."""
    if not isinstance(value, Mapping):
        return value
    apart = ("spacing_mm", "resilient_channel_spacing_mm")
    return {k: (read_quantity(v, LENGTHS) or None if k in apart and isinstance(v, str) else v) for k, v in value.items()}


FormFrame = Annotated[Frame, BeforeValidator(_typed_frame)]


class StackLayerIn(Strict):
    """One layer of a surface's stack, by material of the shelf."""

    id: ItemId = ""
    material: Annotated[str, Field(min_length=1, max_length=80)]
    thickness_mm: FormThickness
    coverage: FormShare = 1.0
    place: ItemId = ""
    """Where it goes: "" over all that stands, "panel" under it, "far" on the source side of the panel (the first one against
    it), or after a standing layer by its id."""
    tie: FormFrame | None = None
    """What ties the leaves on both sides of the cavity this layer stands in."""
    held: Held = ""
    """How it is held; "" as its material usually is."""
    grain: bool = False
    """Whether its pieces keep the direction of the sheet they are cut from."""
    begins: Literal["", "middle"] = ""
    """Where whole boards and sheets are laid from: a corner, or the middle, both ends trimmed alike."""
    strips: bool = False
    """Whether fields too narrow to be worth a piece are laid too."""
    joined: JoinedBy = ""
    """What lies between this board and the one under it: nothing, damping compound, or a plain elastic adhesive."""

    def __hash__(self) -> int:
        return hash((self.id, self.material, self.thickness_mm, self.coverage, self.place))


Layers = Annotated[tuple[StackLayerIn, ...], BeforeValidator(numbered), AfterValidator(told_apart), Field(max_length=40)]


class ZoneIn(Strict):
    """A part of a surface, an upright rectangle, with its own stack; ``excitation_db`` is how much louder it is there."""

    id: ItemId = ""
    name: Name
    x_mm: FormLength
    y_mm: FormLength
    width_mm: FormMillimetres
    height_mm: FormMillimetres
    excitation_db: Annotated[FormNumber, Field(ge=-40, le=40)] = 0.0
    depth_limit_mm: OptionalMm = None


Flag = Literal["wet", "hot", "curved", "hidden", "walked on", "overhead", "trim over it", "salt", "outdoors", "food", "moves",
               "fire-rated", "membrane", "loudspeaker", "sun", "structural", "seen", "slept in"]


class SurfaceIn(Shape):
    """A panel of the job; ``count`` identical ones; ``present`` is what lies on its substrate now."""

    name: Name
    count: Annotated[int, Field(ge=1, le=100)] = 1
    substrate: StackLayerIn
    present: Layers = ()
    planned: bool = False
    """Whether it does not stand yet: as found there is nothing, and its panel is part of the plan."""
    survey: Literal["", "whole", "missing", "broken", "worn", "glued"] = ""
    """What state its present treatment was found in."""
    survey_do: Literal["", "keep", "restore", "replace", "build on"] = ""
    frame: FormFrame = Frame()
    """What ties its two leaves together, where no layer of a cavity says it."""
    flags: tuple[Flag, ...] = ()
    depth_limit_mm: OptionalMm = None
    kg_limit: OptionalKg = None
    zones: Annotated[tuple[ZoneIn, ...], BeforeValidator(numbered), AfterValidator(told_apart), Field(max_length=12)] = ()
    opening: Opening | None = None
    """The hole it is reached through, where it is reached through one."""
    made_from: Annotated[str, Field(max_length=160)] = ""
    """The template it was drawn from, and when that was measured."""
    butts: Literal["", "across", "up", "both"] = ""
    """Which of its sizes stands between neighbours: its boards are shorter there by their thickness at both ends."""
    shares_access: Annotated[str, Field(max_length=80)] = ""
    """A name it shares with surfaces behind the same trim: what is stripped once is paid once."""

    @model_validator(mode="after")
    def _parted_soundly(self) -> SurfaceIn:
        outline = Polygon(self.outline_mm)
        boxes = [box(z.x_mm, z.y_mm, z.x_mm + z.width_mm, z.y_mm + z.height_mm) for z in self.zones]
        for i, (zone, area) in enumerate(zip(self.zones, boxes, strict=True)):
            part = area.intersection(outline)
            if part.area < 1000 or part.geom_type != "Polygon":
                raise ValueError(f"zones[{i}] ({zone.name}) lies outside its surface; move it onto the outline")
            other = next((self.zones[k].name for k in range(i) if boxes[k].intersection(area).area > 1), None)
            if other is not None:
                raise ValueError(f"zones[{i}] ({zone.name}) overlaps the zone {other}; move them apart")
        return self


class Override(Strict):
    """A rule somebody has looked at and goes against, with the reason."""

    id: ItemId
    """The rule."""
    reason: Annotated[str, Field(min_length=1, max_length=400)]


class AlternativeIn(Strict):
    """A stack that could go on a surface (or a zone of it); the chosen one counts. What stands stays but for ``takes_out``."""

    surface_id: RowId
    zone: ItemId = ""
    """The zone it is for, by its id; empty for the surface, or for the rest of it."""
    name: Name = "Plan A"
    layers: Layers = ()
    takes_out: tuple[ItemId, ...] = ()
    """Standing layers that come off, by their ids."""
    frame: FormFrame | None = None
    """How its leaves are tied, where that is not the surface's own frame and no layer of a cavity says it."""
    chosen: bool = True
    overrides: Annotated[tuple[Override, ...], AfterValidator(told_apart), Field(max_length=60)] = ()


class Surface(SurfaceIn, Row):
    def __hash__(self) -> int:  # what tells surfaces apart is enough: it is looked up thousands of times in a search
        return hash((self.id, self.version, self.outline_mm))


class Alternative(AlternativeIn, Row):
    def __hash__(self) -> int:
        return hash((self.id, self.version, self.surface_id, self.layers))
