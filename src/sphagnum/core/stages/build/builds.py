"""The builds of a job as a screen says them: what each gives, drawn from the very parts that are cut."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ...builds.kinds import KINDS, views_of
from ...builds.model import Built
from ...builds.pads import PADS
from ...builds.rooms import RoomSurface, RoomUse
from ...builds.windows import KNOWN
from ...figures.builds import worked
from ...figures.job_figures import JobFigures, once
from ...figures.loads import build_load
from ...schema import Strict
from ...worded import of
from ...words import listed, plural
from ...working import Working, inputs

FACINGS = ("limp", "plate")
Points = tuple[tuple[float, float], ...]


class DrawnPart(Strict):
    """A part in a view, mm on the sheet, y up."""

    id: str
    name: str
    view: str
    outline_mm: Points
    holes_mm: tuple[Points, ...]


class DrawnBuild(Strict):
    """Three views beside one another, as built, in mm: the parts, what they stand in, names and dimensions where they stand."""

    parts: tuple[DrawnPart, ...]
    around: tuple[Points, ...]
    names: tuple[tuple[str, float, float], ...]
    titles: tuple[tuple[str, float, float], ...]
    measures: tuple[tuple[float, float, float, float, str], ...]
    ghosts: tuple[Points, ...]
    wide_mm: float
    high_mm: float
    letter_mm: float


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
    sheets: tuple[tuple[str, str, float], ...]
    """What walls, platforms and patches are made of: id, name, thickness in mm."""
    pads: tuple[tuple[str, str], ...]
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
    sheets = tuple((m.id, m.name, t) for m in sorted(job.shelf.materials.values(), key=lambda m: m.name)
                   if m.family == "plate" and m.stock and not m.retired and m.properties.density_kg_m3 for t in m.thicknesses_mm)
    pads = tuple((name, job.shelf.materials[name].name) for name in PADS if name in job.shelf.materials)
    chosen = [c for c in cards if c.chosen and not c.problem]
    said = f"{plural(len(chosen), 'build')} in the plan: {listed([c.name for c in chosen])}." if chosen else (
        "Nothing is built yet: absorbers where a room rings too long, remedies where a window lets too much through.")
    return BuildsView(sentence=said, cards=cards, surfaces=tuple(job.shelf.rooms.surfaces.values()),
                      uses=tuple(job.shelf.rooms.uses.values()), fills=fills,
                      facings=facings, sheets=sheets, pads=pads, remedies=KNOWN)


def _card(job: JobFigures, number: int) -> BuildCard:
    build = next(b for b in job.doc.builds if b.id == number)
    one, kind = worked(job, build), KINDS[build.given.kind]
    built = None if one.built is None else kind.choices(build.given, one.built, job.shelf.materials)
    load = build_load(job, one)
    return BuildCard(
        id=build.id, name=build.name, kind=build.given.kind, chosen=build.chosen, problem=one.problem, built=built,
        sentence=one.problem or ("" if built is None else kind.says(built)),
        drawn=_drawn(built, build.given), kg=round(load.kg, 2),
        money=round(load.money, 2), hours=round(load.hours, 2), unpriced=tuple(sorted(load.unpriced)),
        working=() if one.built is None else (WORKINGS[build.given.kind](one.built),))


def _drawn(built: Built | None, given: Any) -> DrawnBuild | None:
    if built is None or not built.parts:
        return None
    sheet = views_of(given, built.parts)
    return DrawnBuild(
        parts=tuple(DrawnPart(id=p.id, name=p.name, view=p.view, outline_mm=p.outline_mm, holes_mm=p.holes_mm)
                    for p in sheet.parts),
        around=sheet.around, names=tuple((n, x, y) for n, (x, y) in sheet.names),
        titles=tuple((n, x, y) for n, (x, y) in sheet.titles),
        measures=tuple((*m.from_mm, *m.to_mm, m.words) for m in sheet.measures),
        ghosts=sheet.ghosts, wide_mm=sheet.size_mm[0], high_mm=sheet.size_mm[1], letter_mm=sheet.letter_mm)


def _room_working(built: Built) -> Working:
    return Working(
        figure="reverberation time with absorbers",
        formula="T = 0.161·V/A; A of sides, furniture, people and air, or as read; each absorber adds its area times α less "
        "that of the wall it covers; C50 = 10·lg(e^(0.691/T) − 1)",
        inputs=inputs(target=f"{built.target_s} s", absorbers=built.count),
        source="Sabine; EN 12354-6:2003 in its simple form; α by transfer matrices and Paris' integral; DIN 18041:2016 "
        "(recalled)",
        accuracy="± 15 % (standard) computed, as the readings say where read", valid="above the first room modes")


def _window_working(_built: Built) -> Working:
    return Working(
        figure="sound through a window",
        formula="τ = τ panes + τ joints; joints as slits all round; between two leaves what leaks builds up by S over what the "
        "reveal takes up", inputs=inputs(spectrum="road noise, A-weighted"),
        source="transfer matrices; Gomperts and Kihlman 1967; ISO 717-1 spectrum No. 2; ISO 6946",
        accuracy="± 4 dB by how joints stand", valid="closed; the wall round it caps it")


def _box_working(built: Built) -> Working:
    return Working(
        figure="a box round a machine",
        formula="IL = 10·lg(1 + A/Στ·S) over walls, doors, seals and air ways, each way's part of it by its τ·S; ducts "
        "1.05·α^1.4·U/S·l; the machine's feet 20 dB under its air sound, less what pads take; Q = (ΣU·A + ρ·c·V̇)·ΔT, "
        "V̇ by buoyancy or the fan",
        inputs=inputs(inside=f"{built.inside_c} °C", air=of(built.air_m3_h or 0.0, "m³/h"), parts=len(built.parts or ())),
        source="power balance of a diffuse field; transfer matrices; Sabine 1940 and VDI 2081 (recalled); Gomperts and "
        "Kihlman 1967; Byrne et al. 1988",
        accuracy="± 4 dB; ± 30 % on the air", valid="joints sealed; above the first mode of the box")


def _platform_working(built: Built) -> Working:
    return Working(
        figure="a platform on pads",
        formula="modes of a rigid block on springs, det(K − ω²M) = 0; force into the floor (Y machine + Y floor)/(Y machine + Y "
        "floor + Y pads); endless slab 1/(8·√(B′·m″)), a span by its modes",
        inputs=inputs(modes=", ".join(f"{x:.1f} Hz" for x in built.modes_hz or ())),
        source="Cremer and Heckl, structure-borne sound; mobility in series", accuracy="± 3 dB; ± 20 % on a mode",
        valid="up and down; nothing touching beside the pads")


def _baffle_working(built: Built) -> Working:
    return Working(
        figure="openings round a loudspeaker closed",
        formula="front + rear wave through the opening, |1 − β·e^(−jkd)|; mount m_moving/m_mount",
        inputs=inputs(parts=len(built.parts or ())), source="acoustic short circuit of two opposed sources; Helmholtz opening",
        accuracy="a range, not a figure; ± 3 dB beyond it", valid="below some 300 Hz")


WORKINGS: dict[str, Callable[[Built], Working]] = {
    "absorbers": _room_working, "window": _window_working, "box": _box_working, "platform": _platform_working,
    "baffle": _baffle_working}
