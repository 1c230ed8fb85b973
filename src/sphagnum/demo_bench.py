"""A made-up series read on the workshop's bench: a tie, a sample that leaks, and one near what the box itself keeps back."""

from __future__ import annotations

import math
import random
from typing import Any

from .core.bench.rows import SeriesKeptIn, order_of
from .core.schema import parse

BANDS = (125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0)
CEILING = (31.0, 37.0, 42.0, 46.0, 49.0, 50.0)
TRUE_DB = {"Board 12 mm": (15.5, 20.0, 24.5, 28.5, 31.5, 33.0),
           "Board, damping compound": (15.7, 20.2, 24.8, 29.0, 33.0, 35.0),
           "Board and vinyl 5 kg": (19.0, 24.5, 30.5, 36.0, 40.0, 42.0),
           "Felt and vinyl, loose": (13.0, 17.5, 22.5, 27.5, 30.0, 25.0),
           "Two boards, wool between": (20.5, 29.0, 37.5, 42.5, 47.5, 49.5)}
KG_M2 = {"Board 12 mm": 8.4, "Board, damping compound": 9.6, "Board and vinyl 5 kg": 13.4, "Felt and vinyl, loose": 5.9,
         "Two boards, wool between": 18.6}


def bench_series() -> dict[str, Any]:
    """The values of one finished series, as somebody would have typed them."""
    about = {"name": "Boards for the bulkhead", "bands_hz": BANDS, "times": 3, "drawn": 7,
             "rig": {"ceiling_db": {f"{f:g}": c for f, c in zip(BANDS, CEILING, strict=True)}},
             "samples": [{"name": name, "mass_kg_m2": kg} for name, kg in KG_M2.items()]}
    rng, runs = random.Random(12), []
    for n, name in enumerate(order_of(parse(SeriesKeptIn, about))):
        levels = []
        for k in range(len(BANDS)):
            level = 86.0 - 0.05 * n + rng.gauss(0, 0.2)
            if name is not None:
                put = TRUE_DB[name][k] + rng.gauss(0, 0.3)
                level += 10 * math.log10(10 ** (-put / 10) + 10 ** (-CEILING[k] / 10))
            levels.append(round(level, 1))
        runs.append({"sample": name, "level_db": levels})
    return {**about, "runs": runs, "note": "Square foot of each, clamped on foam tape; loudspeaker in the brick box."}
