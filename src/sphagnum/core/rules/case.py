"""What a rule is evaluated against, and what a test of one tells."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal, NamedTuple

import numpy as np

from ..levels.bands import PREDICTED_HZ
from ..materials.model import Material
from ..materials.table import family
from ..schema import Strict
from ..stacks.model import Frame
from ..stacks.predict import Prediction
from ..surfaces.geometry import Areas
from ..surfaces.rows import StackLayerIn, SurfaceIn

Severity = Literal["danger", "warn", "info", "good"]
Operation = dict[str, Any]
"""An edit of the alternative, as the interface sends it."""


class Part(NamedTuple):
    """A layer as the rules see it, from the source's side; of a combined sheet each of its parts, under the sheet's name."""

    material: Material
    thickness_mm: float
    coverage: float
    layer: StackLayerIn | None = None
    new: bool = True
    far: bool = False
    held: str = ""
    reached: float = 1.0
    """Of what may be covered, the share it covers."""

    @property
    def name(self) -> str:
        """What it is called."""
        return self.material.name

    @property
    def acts(self) -> str:
        """What it does in a stack."""
        return self.material.acts

    def has(self, role: str) -> bool:
        """Whether it has a role."""
        return role in self.material.roles

    @property
    def soaks(self) -> bool:
        """Whether it can hold water."""
        return family(self.material.family).soaks and not self.material.limits.wet

    @property
    def fibrous(self) -> bool:
        """Whether it is a felt, fleece or wool."""
        return self.material.family == "porous" and not self.material.crushable


class Budget(NamedTuple):
    """A sum of the whole job against its limit."""

    what: str
    value: float
    limit: float | None
    unit: str


@dataclass(frozen=True)
class Case:
    """A stack on a surface of a job. ``prediction`` None where no model covers it; depth mm, kg of one surface."""

    surface: SurfaceIn
    areas: Areas
    parts: tuple[Part, ...]
    depth_mm: float
    added_kg: float
    prediction: Prediction | None
    strong_hz: tuple[float, float]
    """Band range in which this noise is strong, Hz."""
    change_db: tuple[float, ...] = ()
    """What R gains over what stands, or over its panel alone, in the 21 bands; empty where no model covers it."""
    through_db: tuple[float, ...] = ()
    """What comes through it, A-weighted, relative, in the 21 bands."""
    kind: str = "vehicle"
    temperature_c: float = 20.0
    substrate: Material | None = None
    substrate_mm: float = 0.0
    ties: tuple[Frame, ...] = ()
    wet_faces: tuple[str, ...] = ()
    """Where water could condense inside the stack."""
    leak_cm2: float = 0.0
    """What stays open on the way through it as planned."""
    takes_out: tuple[str, ...] = ()
    unsold: tuple[str, ...] = ()
    unpriced: tuple[str, ...] = ()
    moved_on: tuple[str, ...] = ()
    """Materials whose shelf has other values by now."""
    budgets: tuple[Budget, ...] = ()
    combustion: bool = False
    vented: bool = False
    """Whether a vent is drawn on any surface of the job."""
    depth_limit_mm: float | None = None
    """How deep it may be, as somebody said of it or of the job."""
    usual_depth_mm: float | None = None
    """How deep such a place usually lets a lining be, where nobody said; None where nothing tells."""
    warmer_k: float | None = None
    """How much warmer than outside it gets in the box; None where nothing tells."""
    warmer_limit_k: float | None = None
    """How much it may, None where nobody said."""

    @cached_property
    def new(self) -> tuple[Part, ...]:
        """The layers to be laid."""
        return tuple(p for p in self.parts if p.new)

    def flag(self, *names: str) -> bool:
        """Whether the surface has one of these flags."""
        return any(n in self.surface.flags for n in names)

    def zone(self, kind: str) -> bool:
        """Whether a keep-clear zone of a kind lies on it."""
        return any(z.kind == kind for z in self.surface.keep_clear)


    def at(self, values: tuple[float, ...], hz: float) -> float | None:
        """One of 21 values, at the band nearest to a frequency; None where there are none."""
        return None if not values else values[int(np.argmin(np.abs(np.log(np.array(PREDICTED_HZ) / hz))))]


class Found(NamedTuple):
    """That a rule speaks: the words its text is filled with, and the edits that mend it, where edits can."""

    words: Mapping[str, object] = {}
    mend: tuple[Operation, ...] = ()


Test = Callable[[Case], Found | None]


def named(part: Part, **more: object) -> dict[str, object]:
    """The words of a layer: its name, and the same within a sentence."""
    return {"material": part.name, "it": f"{part.name[0].lower()}{part.name[1:]}", **more}


def first(parts: tuple[Part, ...], test: Callable[[Part], bool]) -> Part | None:
    """The first layer a test holds for."""
    return next((p for p in parts if test(p)), None)


def spoken_of(part: Part | None, mend: tuple[Operation, ...] = (), **more: object) -> Found | None:
    """That a rule speaks of a layer, if there is one."""
    return None if part is None else Found(named(part, **more), mend)


def set_on(part: Part, field: str, value: object) -> tuple[Operation, ...]:
    """The edit that sets a field of a new layer."""
    return () if part.layer is None or not part.new else ({"op": "set", "at": ["layers", part.layer.id, field], "value": value},)


def take_out(part: Part) -> tuple[Operation, ...]:
    """The edit that takes a new layer out."""
    return () if part.layer is None or not part.new else ({"op": "remove", "at": ["layers"], "id": part.layer.id},)


def add_after(
    material: str, thickness_mm: float, after: Part | None, place: str = "", held: str = ""
) -> tuple[Operation, ...]:
    """The edit that lays a material over a new layer (``after`` None: first of all)."""
    known = after is not None and after.layer is not None and after.new
    anchor = after.layer.id if known and after is not None and after.layer is not None else ""
    return ({"op": "add", "at": ["layers"], "after": anchor,
             "item": {"material": material, "thickness_mm": thickness_mm, "coverage": 1.0, "place": place, "held": held}},)


def add_last(material: str, thickness_mm: float) -> tuple[Operation, ...]:
    """The edit that lays a material over all."""
    return ({"op": "add", "at": ["layers"], "after": None,
             "item": {"material": material, "thickness_mm": thickness_mm, "coverage": 1.0}},)


class Rule(Strict):
    """One rule of the trade; ``when`` names its test, ``text`` is filled with the words the test gives."""

    id: str
    when: str
    scope: Literal["stack", "surface", "job"] = "stack"
    severity: Severity
    text: str
    why: str
    mend: str
    source: str


class Spoken(Strict):
    """A rule that speaks up, filled in. ``operations`` mend it on the alternative; ``overridden`` is why somebody goes against
    it."""

    rule: str
    scope: str = "stack"
    severity: Severity
    text: str
    why: str
    mend: str
    source: str
    operations: tuple[Operation, ...] = ()
    overridden: str = ""
