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
    where: str = ""
    """Where it lies to the source, by id; its words give how much louder it is there."""
    flags: tuple[str, ...] = ()
    incident_offset_db: float = 0.0
    leak_cm2: float = 0.0
    easy: bool = False
    allowed: bool = True


class Where(Strict):
    """Where a way in lies to the source: in words, by how much louder it is there than on the mean of all ways, how deep a lining
    usually may be, what such a panel usually is, and where the figures are from."""

    kind: str
    id: str
    words: str
    louder_db: float
    depth_mm: float | None = None
    flags: tuple[str, ...] = ()
    source: str


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
    where: tuple[Where, ...] = ()
    usual_depth_mm: dict[str, float] = {}
    """How deep a lining may usually be where nothing else tells, by kind of job: judgements."""
    caps_db: dict[str, float] = {}
    """What R of a panel in a kind of job comes to at most, since sound goes round it: judgements."""

    def start(self, kind: str) -> Start | None:
        """What a job of a kind begins with."""
        return next((s for s in self.starts if s.kind == kind), None)

    def where_in(self, kind: str, id: str) -> Where | None:
        """Where a way in lies, by its id, in a kind of job."""
        return next((w for w in self.where if w.kind == kind and w.id == id), None)

    def cure(self, kind: str, name: str = "") -> Cure | None:
        """The cure of a rattle: the named one, else the first for its kind."""
        fitting = [c for c in self.cures if c.id == name] or [c for c in self.cures if kind in c.kinds]
        return fitting[0] if fitting else None


class RowToAdd(Strict):
    """A row of a collection; a reference \"#n\" means the n-th row added with it, from 0."""

    collection: str
    values: dict[str, Any]


USUAL_SIZE = "usual size, not measured"
"""What a surface of a preset says it is made from, until somebody measures it."""


def rows_from(offers: Offers, templates: list[PathTemplate], standing: Mapping[str, int]) -> list[RowToAdd]:
    """The surfaces and paths that templates stand for; a way known only by its level starts as unknown.

    ``standing`` are surfaces of the job that no path goes through, number by name: they are used, not added again.
    """
    out: list[RowToAdd] = []
    for t in templates:
        found = offers.where_in(t.kind, t.where)
        path: dict[str, Any] = {"name": t.name, "easy": t.easy, "allowed": t.allowed, "where": t.where,
                                "incident_offset_db": t.incident_offset_db if found is None else found.louder_db}
        if t.how == "surface" and t.name in standing:
            path["surface_id"] = standing[t.name]
        elif t.how == "surface":
            w, h = t.width_mm, t.height_mm
            path["surface_id"] = f"#{len(out)}"
            out.append(RowToAdd(collection="surfaces", values={
                "name": t.name, "count": t.count, "outline_mm": [[0, 0], [w, 0], [w, h], [0, h]],
                "substrate": {"material": t.substrate, "thickness_mm": t.thickness_mm}, "present": list(t.present),
                "frame": {"kind": t.frame, "spacing_mm": t.spacing_mm}, "flags": list(t.flags), "made_from": USUAL_SIZE,
            }))
        elif t.how == "leak":
            path["leak_cm2"] = t.leak_cm2
        else:
            path["unknown"] = True
        out.append(RowToAdd(collection="paths", values=path))
    return out
