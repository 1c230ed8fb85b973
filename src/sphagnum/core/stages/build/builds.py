"""The builds of a job as a screen says them: what each gives, drawn from the very parts that are cut."""

from __future__ import annotations

import numpy as np

from ...builds.absorbers import AbsorbersIn
from ...builds.drawing import three_views
from ...builds.model import Built
from ...builds.rooms import SPEECH, RoomSurface, RoomUse
from ...builds.windows import KNOWN
from ...figures.builds import worked
from ...figures.job_figures import JobFigures, once
from ...figures.loads import build_load
from ...schema import Strict
from ...words import listed, plain, plural
from ...working import Working, inputs

FACINGS = ("limp", "plate")
Points = tuple[tuple[float, float], ...]


class DrawnPart(Strict):
    """A part in a view, mm on the sheet, y up."""

    id: str
    name: str
    view: str
    outline_mm: Points


class DrawnBuild(Strict):
    """Three views beside one another, as built, in mm: the parts, what they stand in, names and dimensions where they stand."""

    parts: tuple[DrawnPart, ...]
    around: tuple[Points, ...]
    names: tuple[tuple[str, float, float], ...]
    titles: tuple[tuple[str, float, float], ...]
    measures: tuple[tuple[float, float, float, float, str], ...]
    wide_mm: float
    high_mm: float


class BuildCard(Strict):
    """A build worked out: its sentence, figures and drawing; ``problem`` where it cannot be."""

    id: int
    name: str
    kind: str
    chosen: bool
    sentence: str
    problem: str
    built: Built | None
    drawn: DrawnBuild | None
    kg: float
    money: float
    hours: float
    unpriced: tuple[str, ...]
    working: tuple[Working, ...]


class BuildsView(Strict):
    """All builds of a job, and what can be said of one."""

    sentence: str
    cards: tuple[BuildCard, ...]
    surfaces: tuple[RoomSurface, ...]
    uses: tuple[RoomUse, ...]
    fills: tuple[tuple[str, str], ...]
    """Open materials: id and name."""
    facings: tuple[tuple[str, str, float], ...]
    """Sheets that make an absorber one of low notes: id, name, thickness in mm, thinnest form first."""
    remedies: tuple[str, ...]


@once
def builds_view(job: JobFigures) -> BuildsView:
    """The whole view."""
    cards = tuple(_card(job, b.id) for b in job.doc.builds)
    fills = tuple(sorted(((m.id, m.name) for m in job.shelf.materials.values()
                          if m.family == "porous" and not m.retired), key=lambda x: x[1]))
    facings = tuple(sorted(((m.id, m.name, min(m.thicknesses_mm)) for m in job.shelf.materials.values()
                            if m.family in FACINGS and not m.retired and m.properties.density_kg_m3 and m.thicknesses_mm),
                           key=lambda x: x[1]))
    chosen = [c for c in cards if c.chosen and not c.problem]
    said = f"{plural(len(chosen), 'build')} in the plan: {listed([c.name for c in chosen])}." if chosen else (
        "Nothing is built yet: absorbers where a room rings too long, remedies where a window lets too much through.")
    return BuildsView(sentence=said, cards=cards, surfaces=tuple(job.shelf.rooms.surfaces.values()),
                      uses=tuple(job.shelf.rooms.uses.values()), fills=fills, facings=facings, remedies=KNOWN)


def _card(job: JobFigures, number: int) -> BuildCard:
    build = next(b for b in job.doc.builds if b.id == number)
    one = worked(job, build)
    load = build_load(job, one)
    return BuildCard(
        id=build.id, name=build.name, kind=build.given.kind, chosen=build.chosen, problem=one.problem, built=one.built,
        sentence=one.problem or _sentence(one.built), drawn=_drawn(one.built, build.given), kg=round(load.kg, 2),
        money=round(load.money, 2), hours=round(load.hours, 2), unpriced=tuple(sorted(load.unpriced)),
        working=() if one.built is None else (_working(one.built),))


def _sentence(built: Built | None) -> str:
    if built is None:
        return ""
    if built.reverberation_s is not None:
        now, then = np.mean(list(built.reverberation_s.values())[SPEECH], axis=0)
        return f"{plural(built.count or 0, 'absorber')} bring the room from {now:.2f} to {then:.2f} s."
    if built.change_dba is None:
        return "Nothing is to be done to it yet: pick remedies."
    return f"Together they take {plain(-built.change_dba)} dB(A) off road noise through it."


def _drawn(built: Built | None, given: object) -> DrawnBuild | None:
    if built is None or not built.parts:
        return None
    whole = (given.room_mm[0], given.room_mm[1], given.room_mm[2]) if isinstance(given, AbsorbersIn) else None
    sheet = three_views(built.parts, whole)
    return DrawnBuild(
        parts=tuple(DrawnPart(id=p.id, name=p.name, view=p.view, outline_mm=p.outline_mm) for p in sheet.parts),
        around=sheet.around, names=tuple((n, x, y) for n, (x, y) in sheet.names),
        titles=tuple((n, x, y) for n, (x, y) in sheet.titles),
        measures=tuple((*m.from_mm, *m.to_mm, m.words) for m in sheet.measures),
        wide_mm=sheet.size_mm[0], high_mm=sheet.size_mm[1])


def _working(built: Built) -> Working:
    if built.reverberation_s is not None:
        return Working(
            figure="reverberation time with absorbers",
            formula="T = 0.161·V/A; A of sides, furniture, people and air, or as read; each absorber adds its area times α less "
            "that of the wall it covers; C50 = 10·lg(e^(0.691/T) − 1)",
            inputs=inputs(target=f"{built.target_s} s", absorbers=built.count),
            source="Sabine; EN 12354-6:2003 in its simple form; α by transfer matrices and Paris' integral; DIN 18041:2016 "
            "(recalled)",
            accuracy="± 15 % (standard) computed, as the readings say where read", valid="above the first room modes")
    return Working(
        figure="sound through a window",
        formula="τ = τ panes + τ joints; joints as slits all round; between two leaves what leaks builds up by S over what the "
        "reveal takes up", inputs=inputs(spectrum="road noise, A-weighted"),
        source="transfer matrices; Gomperts and Kihlman 1967; ISO 717-1 spectrum No. 2; ISO 6946",
        accuracy="± 4 dB by how joints stand", valid="closed; the wall round it caps it")
