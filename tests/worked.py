"""The job worked by hand, with simple numbers, as the document the program exports and imports."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from sphagnum.demo import rows

DATA = Path(__file__).parent / "data"
AUTHOR = {"X-Author": "first browser"}


def worked_job() -> dict[str, Any]:
    """The job worked by hand, with simple numbers: five paths, eight pieces, three readings before and after."""
    before, after = (json.loads((DATA / "golden" / f"{n}.json").read_text("utf-8")) for n in ("before", "after"))
    paths = [
        {"name": "seal", "leak_cm2": 6, "planned_leak_cm2": 0.6} if now["id"] == "seal" else
        {"name": now["id"], "area_m2": now["area_m2"], "easy": now["id"] == "floor",
         "transmission_loss_db": now["transmission_loss_db"],
         "planned_transmission_loss_db": planned["transmission_loss_db"]}
        for now, planned in zip(before["paths"], after["paths"], strict=True)
    ]
    at = {"position_id": 1, "condition_id": 1}
    return {
        "job": {"id": 1, "version": 1, "name": "Worked by hand", "absorption_m2": 4.2},
        "positions": rows({"name": "Ear"}),
        "conditions": rows({"name": "running", "spectrum_db": list(before["spectrum_db"].values())}),
        "rounds": rows({"name": "As found", "state": "as found"}, {"name": "Finished", "state": "finished",
                                                                    "follows_id": 1}),
        "readings": rows(*({**at, "round_id": r, "level_db": level, "afresh": True} for r, levels in
                           ((1, (60.6, 61.1, 60.9)), (2, (56.3, 56.9, 56.5))) for level in levels)),
        "goals": rows({**at, "aim": "change by", "value": 4}),
        "paths": rows(*paths),
        "pieces": rows({"material": "butyl-foil", "name": "large", "width_mm": 480, "height_mm": 390, "quantity": 6},
                       {"material": "butyl-foil", "name": "small", "width_mm": 240, "height_mm": 390, "quantity": 2}),
    }
