"""Fit: the work order that follows from the plan, in the right sequence, with hazards, holds and times."""

from __future__ import annotations

from ..job import JobDocument, StackLayerIn, Step, Surface
from ..materials.model import Material
from ..materials.shelf import Shelf
from ..schema import Strict
from ..surfaces.geometry import Areas, areas
from ..words import listed, plural

PHASES = ("strip", "log fixings", "clean", "cure rattles", "dry-fit", "apply", "seal", "check function", "refit", "read again")

# Minutes per square metre (strip, clean, dry-fit, refit) or per surface (log, check): house figures, open to learning.
MINUTES = {"strip": 8.0, "log fixings": 3.0, "clean": 10.0, "cure rattles": 6.0, "dry-fit": 6.0,
           "check function": 5.0, "refit": 10.0,
           "read again": 20.0}

FLAG_HAZARD = {"hot": "hot"}
ZONE_HAZARD = {"airbag seam": "airbag", "hot part": "hot", "moving part": "moving", "module": "battery"}
KIND_HAZARD = {"enclosure": "machine-heat", "room": "old-building"}


class StepView(Strict):
    """A step of the order and what happened to it; ``hold``: do not go on before this is checked."""

    key: str
    phase: str
    surface: str
    what: str
    text: str
    hazards: tuple[str, ...]
    hold: str
    minutes: float
    wait_minutes: float
    done: bool
    taken_minutes: float | None
    note: str
    row_id: int | None
    version: int | None


class FitView(Strict):
    """The whole order, the step that is next, and where it stands."""

    sentence: str
    detail: str
    steps: tuple[StepView, ...]
    next_key: str | None
    done: int
    minutes_left: float


def order(doc: JobDocument, shelf: Shelf) -> FitView:
    """The work order from the chosen alternatives, phase by phase over all surfaces, ticks merged by key."""
    ticks = {s.key: s for s in doc.steps}
    treated = [(s, a.layers) for s in doc.surfaces if (a := doc.chosen(s.id)) and a.layers]
    steps: list[StepView] = []
    for phase in PHASES:
        if phase == "read again":
            if treated:
                steps.append(_step(ticks, "job:read again", phase, "", "Take the same readings again, like for like.",
                                   [shelf.hazards["noise"]], "", MINUTES[phase]))
            continue
        if phase == "cure rattles":
            steps += _rattles(doc, shelf, ticks)
            continue
        for surface, layers in treated:
            steps += _of_surface(doc, shelf, ticks, phase, surface, layers)
    done = sum(1 for s in steps if s.done)
    following = next((s for s in steps if not s.done), None)
    left = sum(s.minutes + s.wait_minutes for s in steps if not s.done)
    return FitView(
        sentence=_sentence(steps, done, following), detail=_detail(steps, left), steps=tuple(steps),
        next_key=following.key if following else None, done=done, minutes_left=round(left),
    )


OLD = {"keep": "this stays", "restore": "this is put right", "replace": "this comes out", "build on": "this stays under the new"}


def _rattles(doc: JobDocument, shelf: Shelf, ticks: dict[str, Step]) -> list[StepView]:
    """One step per rattle not cured yet, while the place is open."""
    out = []
    for rattle in doc.rattles:
        cure = shelf.offers.cure(rattle.kind, rattle.cure)
        if rattle.done or cure is None:
            continue
        at = f", {rattle.frequency_hz:.0f} Hz" if rattle.frequency_hz else ""
        surface = next((s.name for s in doc.surfaces if s.id == rattle.surface_id), "")
        out.append(_step(ticks, f"rattle {rattle.id}", "cure rattles", surface,
                         f"{rattle.kind.capitalize()} at {_low(rattle.place)}{at}: {_low(cure.text)}", [],
                         "Knock or sweep again: it must be still.", MINUTES["cure rattles"],
                         what=f"Rattle: {_low(rattle.place)}"))
    return out


def _of_surface(
    doc: JobDocument, shelf: Shelf, ticks: dict[str, Step], phase: str, surface: Surface,
    layers: tuple[StackLayerIn, ...],
) -> list[StepView]:
    size, n = areas(surface), surface.count
    zone_hazards = [ZONE_HAZARD[z.kind] for z in surface.keep_clear if z.kind in ZONE_HAZARD]
    flag_hazards = [FLAG_HAZARD[f] for f in surface.flags if f in FLAG_HAZARD]
    common = [shelf.hazards[h] for h in dict.fromkeys([*zone_hazards, *flag_hazards])]
    key, area = f"surface {surface.id}:{phase}", size.gross_m2 * n
    zones = sorted({str(z.kind) for z in surface.keep_clear})
    if phase in ("apply", "seal"):
        return _layers(shelf, ticks, phase, surface, layers, size)
    if phase == "strip":
        if "trim over it" not in surface.flags and not surface.present:
            return []
        old = [shelf.material(x.material).name.lower() for x in surface.present]
        text = f"Take the trim off the {_low(surface.name)}" if "trim over it" in surface.flags else (
            f"Uncover the {_low(surface.name)}")
        text += f"; {OLD.get(surface.survey_do, 'what lies there')}: {listed(old)}." if old else "."
        kind = [shelf.hazards[KIND_HAZARD[doc.job.kind]]] if doc.job.kind in KIND_HAZARD else []
        return [_step(ticks, key, phase, surface.name, text, common + kind, "", MINUTES[phase] * area)]
    if phase == "log fixings":
        text = f"Log and bag the fixings of the {_low(surface.name)}: kind, place, count."
        return [_step(ticks, key, phase, surface.name, text, [], "", MINUTES[phase] * n)]
    if phase == "clean":
        text = f"Clean and degrease {area:.1f} m² of the {_low(surface.name)}; let it dry."
        hold = "Bare, dry and free of wax: wipe with a white cloth."
        return [_step(ticks, key, phase, surface.name, text, common, hold, MINUTES[phase] * area)]
    if phase == "dry-fit":
        kept = f" Keep {listed([f'{z}s' for z in zones])} clear." if zones else ""
        text = f"Lay every piece of the {_low(surface.name)} dry, and mark it.{kept}"
        return [_step(ticks, key, phase, surface.name, text, common, "", MINUTES[phase] * area)]
    if phase == "check function":
        text = f"Check before closing the {_low(surface.name)}: {_checks(zones)}."
        hold = "Nothing is refitted before this works."
        return [_step(ticks, key, phase, surface.name, text, common, hold, MINUTES[phase] * n)]
    if "trim over it" not in surface.flags:
        return []
    text = f"Refit the trim of the {_low(surface.name)} with its own fixings; nothing pinched, nothing loose."
    return [_step(ticks, key, phase, surface.name, text, common, "", MINUTES[phase] * area)]


CHECKS = {"drain": "drains run", "vent": "vents breathe", "moving part": "moving parts travel freely",
          "module": "modules and warning lights work", "sealing face": "seals close all round",
          "fixing": "every fixing hole is open", "cable run": "cables lie free"}


def _checks(zones: list[str]) -> str:
    return listed([CHECKS[z] for z in zones if z in CHECKS]) or "locks, latches and lights work"


def _layers(
    shelf: Shelf, ticks: dict[str, Step], phase: str, surface: Surface, layers: tuple[StackLayerIn, ...], size: Areas
) -> list[StepView]:
    out = []
    for i, layer in enumerate(layers):
        material = shelf.material(layer.material)
        line = material.family == "line"
        if line != (phase == "seal") or material.family == "air":
            continue
        covered = layer.coverage * size.treatable_m2 * surface.count
        minutes = material.minutes_per_m2 * (size.perimeter_m / 4 * surface.count if line else covered)
        hazards = [shelf.hazards[h] for h in material.hazards]
        hold = f"Let it cure {material.cure_minutes / 60:g} h." if material.cure_minutes else ""
        out.append(_step(ticks, f"surface {surface.id}:{phase}:{i}:{material.id}", phase, surface.name,
                         _apply_text(material, layer, surface, covered, size), hazards, hold, minutes,
                         material.cure_minutes, f"{surface.name}: {_low(material.name)}"))
    return out


def _apply_text(material: Material, layer: StackLayerIn, surface: Surface, covered: float, size: Areas) -> str:
    how = f", {material.hold}" if material.hold else ""
    if material.family == "line":
        metres = size.perimeter_m * surface.count
        return f"{material.name}: {metres:.1f} m round the {_low(surface.name)}{how}."
    share = "all of it" if layer.coverage >= 0.995 else f"{100 * layer.coverage:.0f} % of it"
    return f"{material.name} {layer.thickness_mm:g} mm on the {_low(surface.name)}: {covered:.1f} m², {share}{how}."


def _step(
    ticks: dict[str, Step], key: str, phase: str, surface: str, text: str, hazards: list[str], hold: str,
    minutes: float, wait: float = 0.0, what: str = "",
) -> StepView:
    tick = ticks.get(key)
    return StepView(
        key=key, phase=phase, surface=surface, what=what or surface or "whole job", text=text,
        hazards=tuple(hazards), hold=hold,
        minutes=max(1.0, round(minutes)), wait_minutes=wait, done=tick.done if tick else False,
        taken_minutes=tick.minutes if tick else None, note=tick.note if tick else "",
        row_id=tick.id if tick else None, version=tick.version if tick else None,
    )


def _sentence(steps: list[StepView], done: int, following: StepView | None) -> str:
    if not steps:
        return "No work order yet: choose a stack for a surface in Build."
    if following is None:
        return f"All {plural(len(steps), 'step')} done. Now prove it."
    what = f"{following.phase}, {_low(following.surface)}" if following.surface else following.phase
    return f"Step {steps.index(following) + 1} of {len(steps)}: {what}."


def _detail(steps: list[StepView], left: float) -> str:
    if not steps or not left:
        return ""
    hours = left / 60
    return f"About {hours:.1f} h left, curing included." if hours >= 1 else f"About {left:.0f} min left."


def _low(name: str) -> str:
    return f"{name[0].lower()}{name[1:]}" if name else name
