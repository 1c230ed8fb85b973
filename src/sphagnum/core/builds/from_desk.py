"""What the desk's quick sums become as builds: the same machine, panel or feet, with what a drawing needs filled in."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any, Final

from ..levels.typed_bands import OCTAVES_HZ
from ..paths.desk import DESK
from ..paths.enclosure import LINED_FROM, HoodIn, wall_mm
from ..paths.isolators import PadsIn
from ..paths.loudspeaker import DoorIn
from ..schema import parse

WALL_OF: Final = {"plywood": "plywood", "chipboard": "particle-board", "gypsum board": "gypsum-board",
                  "steel sheet": "galvanised", "aluminium sheet": "aluminium", "heavy mat, limp": "vinyl-10"}
LINING_MM, EVEN_DB, USUAL_KG = 50.0, 80.0, 50.0
OUTSIDE_C = 25.0


def build_of(calculation: str, form: dict[str, Any]) -> dict[str, Any] | None:
    """What is given of the build a calculation stands for, as plain data; None where it stands for none. BadInput as the form."""
    make = OF.get(calculation)
    return None if make is None else make(parse(DESK[calculation].form, form))


def _box(given: HoodIn) -> dict[str, Any]:
    lining = LINING_MM if given.lining_alpha >= LINED_FROM else 0.0
    outside = [round(x * 1e3) for x in (given.length_m, given.width_m, given.height_m)]
    wall = round(wall_mm(given), 1)
    clear = [max(x - 2 * (wall + lining), 60.0) for x in outside]
    clear[2] = max(outside[2] - wall - lining, 60.0)
    gap = max(min(given.gap_mm - lining, min(clear[:2]) / 2 - 20, clear[2] - 30), 0.0)
    machine = [clear[0] - 2 * gap, clear[1] - 2 * gap, clear[2] - gap]
    side = math.sqrt(max(given.vent_cm2, 0.0) / 2 * 100)
    size = {"width_mm": max(5.0 * round(side / 5), 5.0), "height_mm": max(5.0 * round(side / 5), 5.0)}
    duct = {"duct_mm": given.duct_m * 1e3, "lined_mm": 25.0 if given.duct_m else 0.0}
    return {"kind": "box", "base": False, "clearance_mm": round(gap, 1), "outside_c": OUTSIDE_C,
            "machine": {"size_mm": [round(x, 1) for x in machine], "mass_kg": USUAL_KG, "heat_w": given.heat_w,
                        "sound_power_db": {f"{f:g}": EVEN_DB for f in OCTAVES_HZ if 63 <= f <= 4000},
                        "most_c": OUTSIDE_C + given.rise_k},
            "walls": [{"material": WALL_OF[given.walls], "thickness_mm": wall}],
            "lining": [{"material": "open-foam", "thickness_mm": lining}] if lining else [],
            "openings": [{"role": role, "side": where, **size, **duct} for role, where in (("in", "left"), ("out", "right"))]
            if given.vent_cm2 else []}


def _platform(given: PadsIn) -> dict[str, Any]:
    rows = max(2, round(given.pads / 2))
    at = [[250.0 * (k // rows * 2 - 1), 500.0 * (k % rows) / max(rows - 1, 1) - 250.0] for k in range(2 * rows)]
    most = given.most_kg or given.mass_kg / given.pads * 1.5
    return {"kind": "platform", "masses": [{"kg": given.mass_kg, "size_mm": [400.0, 400.0, 500.0]}],
            "pads": {"stiffness_n_mm": [[round(most / 10, 3), given.stiffness_n_mm], [round(most, 3), given.stiffness_n_mm]],
                     "damping_ratio": given.damping_ratio, "at_mm": at},
            "floor": {"kind": "slab", "mass_kg_m2": 350.0}, "notes_hz": [given.lowest_hz],
            "boards": [{"material": "plywood", "thickness_mm": 18.0}]}


def _baffle(given: DoorIn) -> dict[str, Any]:
    return {"kind": "baffle", "cone_mm": given.cone_mm, "lowest_hz": given.lowest_hz, "open_cm2": given.open_cm2,
            "volume_l": given.volume_l, "closed": "patch", "sheet": {"material": "galvanised", "thickness_mm": 1.0},
            "damping": {"material": "butyl-foil", "thickness_mm": 2.0}}


OF: dict[str, Callable[[Any], dict[str, Any]]] = {"hood": _box, "pads": _platform, "door": _baffle}
