"""What Trace offers by kind of job: ways in to start from, leak spots, cures, measures at the source, telling questions."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal

from ..schema import Strict

Side = Literal["structure", "air", "neither"]


class PathTemplate(Strict):
    """A way in that jobs of a kind usually have, with typical size and build-up."""

    id: str
    kind: str
    name: str
    how: Literal["surface", "leak", "level"]
    width_mm: float = 0.0
    height_mm: float = 0.0
    count: int = 1
    substrate: str = ""
    thickness_mm: float = 0.0
    present: tuple[dict[str, Any], ...] = ()
    frame: str = "none"
    spacing_mm: float | None = None
    incident_offset_db: float = 0.0
    leak_cm2: float = 0.0
    easy: bool = False
    allowed: bool = True


class Spot(Strict):
    """Where to look and listen for leaks."""

    kind: str
    text: str


class Cure(Strict):
    """A cure of rattles: for which kinds, what to do, and the material it takes."""

    id: str
    kinds: tuple[str, ...]
    text: str
    material: str
    metres: float


class SourceMeasure(Strict):
    """A measure at the source that jobs of a kind know, with a usual effect."""

    kind: str
    name: str
    effect_db: float
    note: str
    structure_borne: bool = False


class HintQuestion(Strict):
    """A question whose answer speaks for structure-borne or for airborne noise."""

    id: str
    question: str
    yes: Side
    no: Side
    weight: int


class Start(Strict):
    """What a new job of a kind begins with: method, absorption at the listener, and names and spectra to choose from."""

    kind: str
    method: str
    absorption_m2: float
    spectrum: str
    places: tuple[str, ...]
    conditions: tuple[tuple[str, str], ...]
    """Names of conditions, each with its source spectrum."""


class Offers(Strict):
    """All of them."""

    templates: tuple[PathTemplate, ...]
    spots: tuple[Spot, ...]
    cures: tuple[Cure, ...]
    source_measures: tuple[SourceMeasure, ...]
    hints: tuple[HintQuestion, ...]
    starts: tuple[Start, ...] = ()
    caps_db: dict[str, float] = {}
    """What R of a panel in a kind of job comes to at most, since sound goes round it: judgements."""

    def start(self, kind: str) -> Start | None:
        """What a job of a kind begins with."""
        return next((s for s in self.starts if s.kind == kind), None)

    def cure(self, kind: str, name: str = "") -> Cure | None:
        """The cure of a rattle: the named one, else the first for its kind."""
        fitting = [c for c in self.cures if c.id == name] or [c for c in self.cures if kind in c.kinds]
        return fitting[0] if fitting else None


class RowToAdd(Strict):
    """A row of a collection; a reference \"#n\" means the n-th row added with it, from 0."""

    collection: str
    values: dict[str, Any]


def rows_from(templates: list[PathTemplate], standing: Mapping[str, int]) -> list[RowToAdd]:
    """The surfaces and paths that templates stand for; a way known only by its level starts as unknown.

    ``standing`` are surfaces of the job that no path goes through, number by name: they are used, not added again.
    """
    out: list[RowToAdd] = []
    for t in templates:
        path: dict[str, Any] = {"name": t.name, "easy": t.easy, "allowed": t.allowed, "incident_offset_db": t.incident_offset_db}
        if t.how == "surface" and t.name in standing:
            path["surface_id"] = standing[t.name]
        elif t.how == "surface":
            w, h = t.width_mm, t.height_mm
            path["surface_id"] = f"#{len(out)}"
            out.append(RowToAdd(collection="surfaces", values={
                "name": t.name, "count": t.count, "outline_mm": [[0, 0], [w, 0], [w, h], [0, h]],
                "substrate": {"material": t.substrate, "thickness_mm": t.thickness_mm}, "present": list(t.present),
                "frame": {"kind": t.frame, "spacing_mm": t.spacing_mm},
            }))
        elif t.how == "leak":
            path["leak_cm2"] = t.leak_cm2
        else:
            path["unknown"] = True
        out.append(RowToAdd(collection="paths", values=path))
    return out
