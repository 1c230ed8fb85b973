"""The made-up bakery's built things: a hood over the oven blower, and a platform under the dough mixer above a flat."""

from __future__ import annotations

from typing import Any

from .demo_rows import bands_at, rows
from .demo_shelf import CUSTOMER, WORKSHOP_NAME

CONTEXT = {"instrument": "class 2 meter", "calibration": "94.0 dB", "openings": "doors shut"}


def _read(position_id: int, level: float, spectrum: str, seed: int) -> dict[str, Any]:
    return {"round_id": 1, "position_id": position_id, "condition_id": 1, "level_db": round(level, 1), "source": "meter",
            "bands_db": bands_at(level, spectrum, {}, seed_=seed)}


def blower() -> dict[str, Any]:
    """The blower beside the oven: its plate read, a hood with two lined ducts and a door, laid over it as it stands."""
    return {
        "job": {"id": 1, "version": 1, "name": "Oven blower hood", "kind": "enclosure", "customer": CUSTOMER,
                "workshop": WORKSHOP_NAME, "absorption_m2": 18, "method": "meter-fixed",
                "limits": {"money": 450, "hours": 16},
                "note": "It runs from three in the morning. 0.9 kW on its plate; the fan's air leaves by the oven's own pipe."},
        "positions": rows({"name": "Kneading table"}),
        "conditions": rows({"name": "blower on", "spectrum": "fan"}),
        "rounds": rows({"name": "As found", "state": "as found", "taken_on": "2026-11-24", "context": CONTEXT}),
        "readings": rows(*(_read(1, x, "fan", 70 + i) for i, x in enumerate((74.2, 74.6, 74.1)))),
        "goals": rows({"quantity": "LAeq", "position_id": 1, "condition_id": 1, "aim": "change by", "value": 10}),
        "paths": rows({"name": "Blower, through the air", "transmission_loss_db": [0.0] * 21, "area_m2": 1.0},
                      {"name": "The oven's pipe", "level_dba": 55}),
        "builds": rows({"name": "Hood over the blower", "path_id": 1, "given": {
            "kind": "box", "machine": {"size_mm": [560, 420, 480], "mass_kg": 26, "input_w": 900, "leaves_w": 500,
                                       "sound_power_db": {"63": 72, "125": 78, "250": 83, "500": 85, "1000": 83, "2000": 79,
                                                          "4000": 72}, "most_c": 50},
            "clearance_mm": 70, "outside_c": 28, "walls": [{"material": "plywood", "thickness_mm": 17.6}],
            "lining": [{"material": "stone-wool", "thickness_mm": 50}], "base": False, "frame": True,
            "openings": [{"role": "in", "side": "left", "width_mm": 260, "height_mm": 110, "duct_mm": 600, "lined_mm": 25,
                          "bends": 1},
                         {"role": "out", "side": "right", "width_mm": 260, "height_mm": 110, "duct_mm": 600, "lined_mm": 25,
                          "bends": 1},
                         {"role": "shaft", "side": "back", "width_mm": 160, "height_mm": 160, "closed": True}],
            "fan_m3_h": 80, "doors": [{"side": "front", "leaf_mm": [480, 420], "seal": "compressed"}],
            "feet": {"material": "rubber-mount", "count": 4}}}),
    }


def mixer() -> dict[str, Any]:
    """The dough mixer on the upper floor, and who sleeps under it: by its feet, and through the ceiling."""
    return {
        "job": {"id": 1, "version": 1, "name": "Dough mixer upstairs", "kind": "room", "customer": CUSTOMER,
                "workshop": WORKSHOP_NAME, "absorption_m2": 10, "volume_m3": 30, "method": "meter-fixed",
                "limits": {"money": 300, "hours": 8},
                "note": "The arm turns at 58 a minute, the motor at 1 450; the floor is timber and spans 4 m."},
        "positions": rows({"name": "Bedroom under the mixer"}),
        "conditions": rows({"name": "mixer kneading", "spectrum": "compressor"}),
        "rounds": rows({"name": "As found", "state": "as found", "taken_on": "2026-11-25", "context": CONTEXT}),
        "readings": rows(*(_read(1, x, "compressor", 80 + i) for i, x in enumerate((43.8, 44.3, 44.0)))),
        "goals": rows({"quantity": "LAeq", "position_id": 1, "condition_id": 1, "aim": "change by", "value": 6}),
        "paths": rows({"name": "The floor, by its feet", "level_dba": 43.5},
                      {"name": "The ceiling, what flies", "level_dba": 34}),
        "builds": rows({"name": "Platform under the mixer", "path_id": 1, "given": {
            "kind": "platform", "masses": [{"kg": 145, "size_mm": [620, 560, 1100]}, {"kg": 30, "size_mm": [500, 500, 450],
                                                                                  "at_mm": [40, 0, 350]}],
            "pads": {"material": "rubber-mount", "at_mm": [[-340, -300], [340, -300], [-340, 300], [340, 300], [0, -300],
                                                           [0, 300]]},
            "floor": {"kind": "span", "mass_kg_m2": 95, "first_hz": 14, "size_mm": [4000, 4600]}, "speeds_rpm": [1450],
            "notes_hz": [50], "boards": [{"material": "birch-ply", "thickness_mm": 18},
                                         {"material": "birch-ply", "thickness_mm": 18}]}}),
    }
