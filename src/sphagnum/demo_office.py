"""The made-up bakery's office: a wall to the sales room that lets every word through, and a room that rings too long."""

from __future__ import annotations

from typing import Any

from .demo_rows import bands_at, layer, rectangle, rows
from .demo_shelf import CUSTOMER, WORKSHOP_NAME

CONTEXT = {"instrument": "class 2 meter", "calibration": "94.0 dB", "signal": "pink noise, looped", "playback volume": "22",
           "openings": "doors shut"}


def _read(round_id: int, position_id: int, level: float, seed: int, gone: dict[str, Any]) -> dict[str, Any]:
    return {"round_id": round_id, "position_id": position_id, "condition_id": 1, "level_db": round(level, 1), "source": "meter",
            "afresh": seed % 3 > 0, "bands_db": bands_at(level, "pink", gone, seed_=seed)}


def office() -> dict[str, Any]:
    """The office between the sales room and the yard: both rooms read as found, a clap recorded, a plan for wall and ceiling."""
    lost: dict[str, Any] = {"50": 0, "125": -8, "250": -2, "500": 3, "1000": 6, "2000": 9, "5000": 12}
    return {
        "job": {"id": 1, "version": 1, "name": "Office by the sales room", "kind": "room", "customer": CUSTOMER,
                "workshop": WORKSHOP_NAME, "absorption_m2": 6.5, "volume_m3": 33, "method": "meter-fixed",
                "limits": {"money": 1200, "hours": 40, "depth_mm": 100},
                "note": "Accounts are done aloud here, customers queue on the other side."},
        "positions": rows({"name": "Desk in the office"}, {"name": "Sales room, by the counter", "at_source": True}),
        "conditions": rows({"name": "noise in the sales room", "spectrum": "pink"}),
        "rounds": rows({"name": "As found", "state": "as found", "taken_on": "2026-11-23", "context": CONTEXT}),
        "readings": rows(*(_read(1, 2, x, 40 + i, {}) for i, x in enumerate((84.1, 84.3, 84.0))),
                         *(_read(1, 1, x, 50 + i, lost) for i, x in enumerate((52.2, 52.6, 52.3))),
                         {"round_id": 1, "position_id": 1, "condition_id": 1, "level_db": 31.0, "background": True}),
        "decays": rows({"round_id": 1, "position_id": 1, "excitation": "balloon", "decays": 3,
                        "t_s": [0.74, 0.86, 0.98, 1.04, 0.97, 0.83], "uncertainty_s": [0.09, 0.05, 0.04, 0.03, 0.02, 0.02],
                        "note": "three balloons, middle of the room"}),
        "remarks": rows({"round_id": 1, "role": "customer", "words": "I hear every order, and they hear our sums."}),
        "goals": rows({"quantity": "level difference", "position_id": 1, "condition_id": 1, "aim": "reach", "value": 36},
                      {"quantity": "T", "position_id": 1, "condition_id": 1, "aim": "reach", "value": 0.6, "headline": False}),
        "surfaces": rows(
            {"name": "Wall to the sales room", "outline_mm": rectangle(4200, 2500), "substrate": layer("gypsum-board", 12.5),
             "present": [{**layer("air-gap", 75), "tie": {"kind": "wood-studs", "spacing_mm": 600.0}},
                         layer("gypsum-board", 12.5)], "depth_limit_mm": 100},
            {"name": "Hung ceiling", "outline_mm": rectangle(4200, 3100), "substrate": layer("gypsum-board", 12.5),
             "flags": ["overhead"], "depth_limit_mm": 60}),
        "alternatives": rows({"surface_id": 1, "name": "Second leaf on channels", "layers": [
            {**layer("air-gap", 15), "tie": {"kind": "channels", "spacing_mm": 600.0}}, layer("stone-wool", 50),
            layer("gypsum-dense", 15), layer("elastic-sealant", 1)]}),
        "paths": rows({"name": "Wall to the sales room", "surface_id": 1},
                      {"name": "Over the wall, by the hung ceiling", "surface_id": 2,
                       "flank": {"kind": "ceiling over", "length_m": 4.2}},
                      {"name": "Floor under the wall", "flank": {"kind": "common floor", "length_m": 4.2}}),
        "leaks": rows({"place": "Sockets back to back", "how": "listening tube", "area_cm2": 3, "path_id": 1}),
        "builds": rows({"name": "Absorbers in the office", "given": {
            "kind": "absorbers", "room_mm": [4200, 3100, 2500], "use": "office",
            "surfaces": {"floor": "parquet", "ceiling": "gypsum", "walls": "gypsum"}, "furniture_m2": 1.5, "count": 6,
            "frame": {"size_mm": [1200, 600], "depth_mm": 50, "gap_mm": 50, "fill": "stone-wool"}}}),
    }
