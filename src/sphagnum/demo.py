"""The made-up bakery and its jobs: finished, half way, just begun, about loudspeakers, about an office. All invented for show."""

from __future__ import annotations

import math
import random
from typing import Any

from sqlalchemy.orm import Session, sessionmaker

from .catalogue.load import shelf
from .core.figures.job_figures import JobFigures
from .core.fitting.rows import StepEvent
from .core.job.document import JobDocument, Promise
from .core.job.pins import pinned
from .core.schema import parse
from .core.stages.fit.view import order
from .core.stages.prove.promise import promise_of
from .core.surfaces.taped import read_taped, taped_shape
from .demo_builds import blower, mixer
from .demo_offer import accepted, keep
from .demo_office import office
from .demo_photos import photographs
from .demo_rows import bands_at, layer, rectangle, rows
from .demo_shelf import CUSTOMER, WORKSHOP_NAME, Row, front_door, own_shelf
from .store.documents import job_ids, store_document
from .store.files import FileStore


def seed(store: sessionmaker[Session], files: FileStore | None = None) -> None:
    """Store the jobs if the store is empty; the van's accepted offer on paper too, where its files can be kept."""
    with store() as session:
        if job_ids(session):
            return
    own_shelf(store)
    offered = accepted(store, finished := parse(JobDocument, van()))
    promise = promise_of(JobFigures(finished, shelf()), "first step", "2026-09-18T08:00:00Z", "", "")
    kept = enumerate([p for p in (promise, offered.promise) if p is not None], start=1)
    promises = tuple(Promise(id=i, version=1, **p.model_dump()) for i, p in kept)
    more = {"step_events": _all_done(finished), "promises": promises}
    if files is not None:
        more["photos"] = photographs(files, finished.rounds[0].id, finished.rounds[-1].id)
    done = pinned(finished.model_copy(update=more), shelf())
    number = store_document(store, done)
    for make in (hood, ceiling, loudspeakers, office, blower, mixer):
        store_document(store, pinned(parse(JobDocument, make()), shelf()))
    if files is not None:
        keep(store, files, number, offered)


def _all_done(document: JobDocument) -> tuple[StepEvent, ...]:
    """Every step of the order ticked, with times a little off the plan."""
    rng, notes = random.Random(7), {"log fixings": "bagged and numbered", "check function": "all as before"}
    out: list[StepEvent] = []
    for i, step in enumerate(order(JobFigures(document, shelf())).steps, start=1):
        about = {**step.ref.model_dump(), "version": 1, "at": f"2026-09-{18 + i // 12:02d}T{8 + i % 12:02d}:00:00Z",
                 "device": "workshop tablet"}
        out += [StepEvent(id=len(out) + 1 + k, what="passed", item=c.name, **about) for k, c in enumerate(step.checks)]
        out.append(StepEvent(id=len(out) + 1, what="done", text=step.text, like=step.like, note=notes.get(step.phase, ""),
                             minutes=float(max(1, round(step.minutes * rng.uniform(0.8, 1.3)))), **about))
    return tuple(out)


def _taped(**form: Any) -> list[tuple[float, float]]:
    """An outline as a tape gives it."""
    return list(taped_shape(read_taped(form, "demo")).outline_mm)


def _arch() -> list[tuple[float, float]]:
    """A wheel arch, taped off a chalk line along its foot."""
    return _taped(kind="offsets", length_mm=920, curve="smooth",
                  left=[[0, 300], [110, 430], [230, 505], [460, 520], [690, 505], [810, 430], [920, 300]])


def _zone(kind: str, x: float, y: float, w: float, h: float, name: str = "", shape: str = "rectangle") -> Row:
    return {"kind": kind, "name": name, "shape": shape, "x_mm": x, "y_mm": y, "width_mm": w, "height_mm": h}


def _history(level: float, seed_: int) -> list[float]:
    """A made-up trace that wanders about a level, 60 samples a second apart."""
    rng, drift, out = random.Random(seed_), 0.0, []
    for i in range(60):
        drift = 0.8 * drift + rng.gauss(0, 0.45)
        out.append(round(level + drift + 0.3 * math.sin(i / 6), 1))
    return out


def _with_bands(readings: list[Row], **about: Any) -> list[Row]:
    """Readings of a round, place and condition given bands of their own level, as a meter keeps them."""
    at, made = about.pop("at"), about
    for i, r in enumerate(readings):
        if (r["round_id"], r["position_id"], r["condition_id"]) == at and not r.get("background"):
            r.update(bands_db=bands_at(r["level_db"], seed_=i, **made), source="meter")
    return readings


def _side(name: str, unit: str, load: str, allowed: float, values: dict[int, float]) -> list[Row]:
    """A figure that must not get worse, by round."""
    return [{"round_id": n, "name": name, "unit": unit, "value": value, "load": load, "allowed_change": allowed}
            for n, value in values.items()]


def _readings(table: dict[tuple[int, int, int], list[float]], background: dict[tuple[int, int], float]) -> list[Row]:
    """Readings from {(round, position, condition): levels} and backgrounds from {(round, position): level}."""
    out: list[Row] = []
    for (round_id, position, condition), levels in table.items():
        for i, level in enumerate(levels):
            out.append({"round_id": round_id, "position_id": position, "condition_id": condition, "level_db": level,
                        "afresh": True if i else None,
                        "history_db": _history(level, len(out)) if i == 0 else [], "history_s": 60 if i == 0 else 0})
    out += [{"round_id": r, "position_id": p, "condition_id": 1, "level_db": level, "background": True,
             "note": "source off"} for (r, p), level in background.items()]
    return rows(*out)


def van() -> Row:
    """The delivery van, finished."""
    context = {"instrument": "class 2 meter", "calibration": "94.0 dB before and after", "road": "ring road, north loop",
               "speed": "80 km/h", "surface": "dry asphalt", "tyres": "3.2 bar", "load": "racks in, empty",
               "openings": "all closed", "temperature": "14 °C"}
    plan_arch = [layer("butyl-foil-heavy", 4.0, 0.8), layer("cotton-felt", 20, 0.98), layer("vinyl-10", 5, 0.98),
                 layer("seam-tape", 1)]
    plan_door = [layer("butyl-foil", 2.0, 0.8), layer("polyester-fleece", 40), layer("elastic-sealant", 1)]
    plan_bulkhead = [layer("butyl-foil", 2.0, 0.6), layer("polyester-fleece", 40, 0.98), layer("vinyl-10", 5, 0.98),
                     layer("seam-tape", 1)]
    readings = _readings({
        (1, 1, 1): [48.4, 48.0], (1, 1, 2): [66.6, 67.2, 66.9], (1, 1, 3): [74.5, 75.1, 74.8],
        (1, 2, 1): [47.8, 48.1], (1, 2, 2): [66.0, 66.3], (1, 2, 3): [74.0, 74.3, 73.9],
        (1, 3, 1): [46.1], (1, 3, 2): [70.0, 70.4], (1, 3, 3): [79.3, 79.9, 79.6],
        (2, 1, 3): [76.4, 76.9, 76.7], (3, 1, 3): [73.3, 73.0, 73.4],
        (4, 1, 1): [46.9, 47.1], (4, 1, 2): [62.8, 63.3, 63.0], (4, 1, 3): [70.0, 70.6, 70.3],
        (4, 2, 1): [46.8], (4, 2, 2): [62.7, 62.3], (4, 2, 3): [69.9, 69.5, 70.0],
        (4, 3, 3): [75.4, 75.9, 75.6],
    }, {(1, 1): 38.5, (4, 1): 38.9})
    for number, gone, tone in ((1, {}, 125.0), (4, {"50": 3, "125": 4, "500": 5, "2000": 6}, 0.0)):
        _with_bands(readings, at=(number, 1, 3), spectrum="road-80", gone=gone, tone_hz=tone)
    return {
        "job": {"id": 1, "version": 1, "name": "Delivery van", "kind": "vehicle", "customer": CUSTOMER,
                "workshop": WORKSHOP_NAME, "absorption_m2": 4.2, "method": "meter-driving",
                "limits": {"added_kg": 60, "money": 650, "hours": 16, "depth_mm": 60},
                "note": "Drone at 80 km/h from the load bay; tray racks rattle."},
        "positions": rows({"name": "Driver's ear"}, {"name": "Passenger's ear"}, {"name": "Load bay, middle"}),
        "conditions": rows({"name": "parked, ventilation 2", "spectrum": "fan"},
                           {"name": "50 km/h town", "spectrum": "road-50"},
                           {"name": "80 km/h ring road", "spectrum": "road-80"}),
        "rounds": rows(
            {"name": "As found", "state": "as found", "taken_on": "2026-09-14", "context": {**context, "wind": "2 m/s"}},
            {"name": "Stripped", "state": "stripped", "follows_id": 1, "changed": "taken bare",
             "taken_on": "2026-09-15", "context": {**context, "wind": "2 m/s"}},
            {"name": "Damped", "state": "in between", "follows_id": 2, "changed": "damping sheets laid",
             "taken_on": "2026-09-17", "context": {**context, "wind": "3 m/s"}},
            {"name": "Finished", "state": "finished", "follows_id": 3, "changed": "the linings laid over it",
             "taken_on": "2026-09-21", "context": {**context, "wind": "3 m/s", "temperature": "16 °C"}},
        ),
        "readings": readings,
        "remarks": rows(
            {"round_id": 1, "role": "driver", "words": "A drone from behind, I turn the radio up on the ring road."},
            {"round_id": 4, "role": "driver", "heard": "quieter", "words": "We talk without raising our voices now."},
        ),
        "goals": rows({"position_id": 1, "condition_id": 3, "aim": "change by", "value": 3.5}),
        "side_effects": rows(*_side("Rear door closing force", "N", "window shut", 15, {1: 95, 4: 103})),
        "reminders": rows({"due_on": "2027-03-22", "what": "After the winter: arch linings, tape, drains"}),
        "surfaces": rows(
            {"name": "Wheel arches", "count": 2, "outline_mm": _arch(),
             "substrate": layer("steel", 0.8), "flags": ["curved"], "kg_limit": 12, "depth_limit_mm": 60,
             "keep_clear": [_zone("fixing", 440, 470, 40, 40, "belt anchor"), _zone("cable run", 0, 50, 920, 30)]},
            {"name": "Rear doors", "count": 2,
             "outline_mm": [[0, 0], [780, 0], [780, 1150], [680, 1260], [100, 1260], [0, 1150]],
             "substrate": layer("steel", 0.8), "flags": ["trim over it"], "kg_limit": 6,
             "depth_limit_mm": 60,
             "keep_clear": [_zone("drain", 60, 0, 90, 25), _zone("drain", 620, 0, 90, 25),
                            _zone("moving part", 640, 520, 120, 260, "latch and rods"),
                            _zone("fixing", 330, 1120, 120, 60, "hinge stop")]},
            {"name": "Bulkhead", "outline_mm": rectangle(1620, 1240), "substrate": layer("steel", 0.8),
             "flags": ["trim over it"], "kg_limit": 30, "depth_limit_mm": 60,
             "keep_clear": [_zone("vent", 700, 1060, 220, 90), _zone("cable run", 0, 60, 1620, 40)]},
            {"name": "Roof", "outline_mm": rectangle(2350, 1480), "substrate": layer("steel", 0.7),
             "flags": ["overhead"], "zones": [
                 {"id": "cab", "name": "over the cab", "x_mm": 0, "y_mm": 0, "width_mm": 850, "height_mm": 1480,
                  "depth_limit_mm": 12},
                 {"id": "bay", "name": "over the bay", "x_mm": 850, "y_mm": 0, "width_mm": 1500, "height_mm": 1480,
                  "depth_limit_mm": 45}]},
            {"name": "Load floor", "outline_mm": rectangle(2350, 1500), "substrate": layer("steel", 1.0),
             "present": [layer("rubber-crumb", 6), layer("rubber-mat", 4)], "flags": ["walked on"], "survey": "whole",
             "survey_do": "keep"},
        ),
        "alternatives": rows(
            {"surface_id": 1, "name": "Damp, felt, vinyl", "layers": plan_arch, "overrides": [
                {"id": "sags-upright", "reason": "the arch lining stands on the floor lip and cannot sink"}]},
            {"surface_id": 1, "name": "Damping only", "layers": plan_arch[:1], "chosen": False},
            {"surface_id": 2, "name": "Damp and fleece", "layers": plan_door},
            {"surface_id": 3, "name": "Damp, fleece, vinyl", "layers": plan_bulkhead},
            {"surface_id": 4, "zone": "cab", "name": "A quarter, damped", "layers": [layer("butyl-foil", 2.0, 0.25)],
             "chosen": False},
            {"surface_id": 4, "zone": "bay", "name": "Damp and fleece", "chosen": False,
             "layers": [layer("butyl-foil", 2.0, 0.4), layer("polyester-fleece", 40)]},
        ),
        "paths": rows(
            {"name": "Wheel arches", "surface_id": 1, "incident_offset_db": 7},
            {"name": "Rear doors", "surface_id": 2, "incident_offset_db": 0},
            {"name": "Bulkhead", "surface_id": 3, "incident_offset_db": -3},
            {"name": "Roof", "surface_id": 4, "incident_offset_db": -11},
            {"name": "Load floor", "surface_id": 5, "easy": True, "incident_offset_db": -4},
            {"name": "Sliding door seal, 6 cm² open", "leak_cm2": 6, "planned_leak_cm2": 0.6},
        ),
        "block_offs": rows(
            {"path_id": 2, "open_db": [74.8, 74.6, 74.7], "blocked_db": [73.7, 73.6, 73.8],
             "cover_insertion_loss_db": 12},
            {"path_id": 4, "open_db": [74.7, 74.9], "blocked_db": [74.5, 74.8], "cover_insertion_loss_db": 10},
        ),
        "rattles": rows(
            {"kind": "rod", "place": "left tray rack, upper rail", "found_by": "slow sweep", "frequency_hz": 118, "surface_id": 3,
             "cure": "wrap", "done": True},
            {"kind": "latch", "place": "right rear door, inner latch", "found_by": "bass through the loudspeaker",
             "frequency_hz": 63, "surface_id": 2, "cure": "pad", "done": True},
            {"kind": "brace that rings", "place": "roof, second bow", "found_by": "knocking", "frequency_hz": 210,
             "surface_id": 4,
             "cure": "soft foam", "done": True},
        ),
        "leaks": rows(
            {"place": "Sliding door, lower rear corner", "how": "light", "path_id": 6, "area_cm2": 6, "sealed": True,
             "before_db": 70.6, "after_db": 70.2, "note": "seal torn"},
        ),
        "hints": rows({"hint": "touch", "says": "no"}, {"hint": "felt", "says": "no"}, {"hint": "speed", "says": "yes"}),
        "fixings": rows(
            {"surface_id": 2, "kind": "six-lobe screw", "size": "T25", "count": 12, "place": "lower edge of the cards",
             "bag": "B1", "x_mm": 620, "y_mm": 60, "back": 12},
            {"surface_id": 2, "kind": "clip", "count": 16, "place": "round the cards", "bag": "B2", "back": 16,
             "note": "two replaced"},
            {"surface_id": 2, "kind": "cable pull", "count": 2, "place": "inner handles", "bag": "", "back": 2},
            {"surface_id": 3, "kind": "hexagon nut", "size": "10 mm", "count": 6, "place": "top rail", "bag": "B3", "back": 6},
        ),
        "offcuts_taken": rows({"material": "vinyl-10", "thickness_mm": 5.0, "width_mm": 1220, "length_mm": 1290, "code": "R3",
                               "place": "rack, from the cellar door job"}),
    }


def hood() -> Row:
    """The hood round the chiller's condensing unit, half way."""
    context = {"instrument": "class 2 meter", "calibration": "94.0 dB", "machine setting": "compressor at full load",
               "wind": "1 m/s", "rain": "none"}
    night = {**context, "load": "two racks", "openings": "hood closed", "temperature": "9 °C"}
    readings = _readings({
        (1, 1, 1): [47.9, 48.3, 48.0], (1, 2, 1): [63.8, 64.1], (1, 1, 2): [42.2], (1, 3, 1): [51.0, 51.3],
        (2, 1, 1): [44.1, 44.5], (3, 1, 1): [46.9, 47.4, 47.0], (3, 3, 1): [51.2, 51.5], (4, 1, 1): [46.7, 47.1, 47.3],
        (4, 3, 1): [51.3, 51.4], (5, 1, 1): [45.3, 45.8, 45.5], (5, 3, 1): [51.2, 51.4],
    }, {(1, 1): 38.0, (3, 1): 38.1, (4, 1): 37.8, (5, 1): 38.0})
    for number, gone in ((1, {}), (5, {"50": 0.5, "250": 2, "1000": 4.5, "4000": 6})):
        _with_bands(readings, at=(number, 1, 1), spectrum="compressor", gone=gone, tone_hz=100.0)
    return {
        "job": {"id": 1, "version": 1, "name": "Chiller hood", "kind": "enclosure", "customer": CUSTOMER,
                "workshop": WORKSHOP_NAME, "absorption_m2": 12, "method": "meter-fixed",
                "limits": {"money": 600, "hours": 14},
                "note": "1.9 kW of heat must get out; the neighbour's bedroom window is 7 m away."},
        "positions": rows({"name": "Neighbour's window"}, {"name": "1 m before the grille"},
                          {"name": "Street side, away from it", "control": True}),
        "conditions": rows({"name": "compressor on, night", "spectrum": "compressor"},
                           {"name": "fan only", "spectrum": "fan"}),
        "rounds": rows(
            {"name": "As found", "state": "as found", "taken_on": "2026-11-03", "context": night},
            {"name": "Trial on a mild night", "follows_id": 1, "taken_on": "2026-11-05", "changed": "baffle before the grille",
             "context": {**night, "machine setting": "compressor at half load"}},
            {"name": "Felt baffle", "follows_id": 1, "taken_on": "2026-11-06", "changed": "felt baffle", "context": night},
            {"name": "Wool baffle", "follows_id": 1, "taken_on": "2026-11-07", "changed": "stone wool baffle", "context": night},
            {"name": "Wool baffle, feet, slower fan", "follows_id": 4, "taken_on": "2026-11-10",
             "changed": "rubber feet, slower fan", "context": night},
        ),
        "readings": readings,
        "remarks": rows(
            {"round_id": 1, "role": "neighbour", "words": "It wakes me each time it starts."},
            {"round_id": 5, "role": "neighbour", "heard": "the same", "words": "The hum is still there."},
        ),
        "side_effects": rows(*_side("Condensing temperature", "°C", "full load", 3, {1: 41.0, 5: 46.5})),
        "goals": rows({"position_id": 1, "condition_id": 1, "aim": "reach", "value": 42}),
        "surfaces": rows(
            {"name": "Side walls", "count": 2, "outline_mm": rectangle(1100, 1300), "substrate": layer("plywood", 9),
             "planned": True, "keep_clear": [_zone("hot part", 760, 80, 160, 160, "discharge pipe", "circle")]},
            {"name": "Lid", "outline_mm": rectangle(1100, 800), "substrate": layer("birch-ply", 12), "flags": ["wet"],
             "planned": True},
            {"name": "Back wall", "outline_mm": rectangle(800, 1300), "substrate": layer("plywood", 9), "planned": True,
             "butts": "across", "keep_clear": [_zone("vent", 240, 120, 300, 300, "outlet")]},
        ),
        "alternatives": rows(
            {"surface_id": 1, "name": "Vinyl and stone wool",
             "layers": [layer("closed-foam", 6), layer("vinyl-5", 2.5, 0.98), layer("stone-wool", 50),
                        layer("elastic-sealant", 1)]},
            {"surface_id": 2, "name": "Fleece under the lid", "layers": [layer("melt-blown", 20), layer("d-seal", 1)]},
            {"surface_id": 3, "name": "Stone wool", "layers": [layer("stone-wool", 50), layer("elastic-sealant", 1)]},
        ),
        "paths": rows(
            {"name": "Grille in the front", "leak_cm2": 900, "planned_leak_cm2": 400},
            {"name": "Side walls", "surface_id": 1},
            {"name": "Lid", "surface_id": 2},
            {"name": "Back wall", "surface_id": 3, "easy": True},
        ),
        "measures": rows(
            {"name": "Slower, larger fan", "at": "source", "effect_db": 3, "measured": False, "chosen": False, "money": 180,
             "note": "A fifth less speed; check the air it moves."},
            {"name": "Lined hose on the outlet", "at": "path", "path_id": 1, "effect_db": 4, "chosen": False, "money": 45,
             "hours": 1.5},
            {"name": "Fan in the outlet, 400 m³/h", "at": "source", "effect_db": 0, "measured": False, "money": 70, "hours": 1,
             "air_m3_h": 400, "note": "Runs with the compressor; choose one quieter than what leaves the vents."},
        ),
        "rattles": rows(
            {"kind": "loose trim", "place": "lid, rear edge", "found_by": "knocking", "frequency_hz": 96, "surface_id": 2},
            {"kind": "cable", "place": "fan cable on the side wall", "found_by": "slow sweep", "surface_id": 1},
        ),
        "leaks": rows({"place": "Hairline round the service door", "how": "light", "area_cm2": 8},
                      {"place": "Pipe entry, back wall", "how": "air", "area_cm2": 5, "sealed": True}),
        "hints": rows({"hint": "touch", "says": "no"}, {"hint": "isolated", "says": "no"}),
        "calculations": rows({"calculation": "hood", "name": "Box round a machine: as it is to stand", "form": {
            "heat_w": 1900, "rise_k": 15, "wall_kg_m2": 5.4, "vent_cm2": 400}}),
    }


def ceiling() -> Row:
    """The ceiling between the bakehouse and the flat above, just begun."""
    return {
        "job": {"id": 1, "version": 1, "name": "Bakehouse ceiling", "kind": "room", "customer": CUSTOMER,
                "workshop": WORKSHOP_NAME, "absorption_m2": 14, "method": "meter-fixed",
                "note": "Planetary mixer thump at night, extractor hum."},
        "positions": rows({"name": "Bed in the flat"}, {"name": "Bakehouse, by the mixer"}),
        "conditions": rows({"name": "mixer, second speed", "spectrum": "mixer-thump"},
                           {"name": "extractor", "spectrum": "fan"}),
        "rounds": rows({"name": "As found", "state": "as found", "taken_on": "2026-11-20",
                        "context": {"instrument": "class 2 meter", "calibration": "94.0 dB"}}),
        "readings": rows({"round_id": 1, "position_id": 1, "condition_id": 1, "low_db": 36, "high_db": 39,
                          "source": "range", "note": "read off the display while it thumped"}),
        "hints": rows({"hint": "felt", "says": "yes"}, {"hint": "place", "says": "yes"}),
        "remarks": rows({"round_id": 1, "role": "neighbour", "words": "The bed shakes from four in the morning."}),
        "goals": rows({"position_id": 1, "condition_id": 1, "aim": "reach", "value": 30}),
        "surfaces": rows({
            "name": "Ceiling over the mixer", "outline_mm": rectangle(4200, 3600), "substrate": layer("gypsum-board", 12.5),
            "present": [{**layer("air-gap", 180), "tie": {"kind": "wood-studs", "spacing_mm": 400.0}},
                        layer("floor-deck", 22)],
            "flags": ["overhead"], "depth_limit_mm": 150}),
        "alternatives": rows(
            {"surface_id": 1, "name": "Second ceiling on channels", "chosen": False, "layers": [
                {**layer("air-gap", 25), "place": "far", "tie": {"kind": "channels", "spacing_mm": 600.0}},
                {**layer("stone-wool", 50), "place": "far"}, {**layer("gypsum-dense", 15), "place": "far"},
                {**layer("gypsum-dense", 15), "place": "far", "joined": "compound"}, layer("elastic-sealant", 1)]},
            {"surface_id": 1, "name": "Boards straight on", "chosen": False, "layers": [
                {**layer("gypsum-dense", 15), "place": "far", "joined": "compound"}, layer("elastic-sealant", 1)]}),
        "paths": rows({"name": "Ceiling over the mixer", "surface_id": 1}),
    }


DOOR = [layer("butyl-foil", 2.0, 0.4), layer("vinyl-5", 2.5, 0.98)]


def loudspeakers() -> Row:
    """The van's door loudspeakers: more and smoother bass is the aim, so up is good."""
    context = {"instrument": "class 2 meter", "calibration": "94.0 dB", "signal": "pink noise, looped",
               "playback volume": "18", "openings": "doors shut"}
    readings = rows(*(
        {"round_id": number, "position_id": 1, "condition_id": 1, "level_db": round(level, 1), "source": "meter", "afresh": i > 0,
         "bands_db": bands_at(level, "pink", {**hollow, "5000": 0}, seed_=20 + i)}
        for number, hollow, level in ((1, {"40": 9, "63": 4, "80": 10, "100": 5, "160": 0}, 78.0),
                                      (2, {"40": 5, "63": 2, "80": 3, "100": 2, "160": 0}, 78.6))
        for i in range(3)))
    return {
        "job": {"id": 1, "version": 1, "name": "Van, door loudspeakers", "kind": "vehicle", "customer": CUSTOMER,
                "workshop": WORKSHOP_NAME, "method": "meter-fixed",
                "note": "Thin bass since the new doors; the wish is more of it."},
        "positions": rows({"name": "Driver's ear"}),
        "conditions": rows({"name": "pink noise, volume 18", "spectrum": "pink"}),
        "rounds": rows(
            {"name": "As found", "state": "as found", "taken_on": "2026-10-12", "context": context},
            {"name": "Openings closed, skins damped", "state": "finished", "follows_id": 1, "taken_on": "2026-10-14",
             "changed": "inner skin closed", "context": context},
        ),
        "readings": readings,
        "goals": rows({"quantity": "bass gain", "position_id": 1, "condition_id": 1, "aim": "change by", "value": 2}),
        "surfaces": rows(front_door("Left front door, skin", False), front_door("Right front door, skin", True)),
        "alternatives": rows(*({"surface_id": n, "name": "Damped, felt and vinyl", "layers": DOOR} for n in (1, 2))),
        "calculations": rows({"calculation": "door", "name": "Loudspeaker in the door",
                              "form": {"open_cm2": 600, "left_cm2": 20}}),
    }
