"""A made-up series read on the workshop's bench: a tie, a sample that leaks, and one near what the box itself keeps back."""

from __future__ import annotations

import math
import random
from typing import Any

from .core.bench.rows import SeriesKeptIn, order_of
from .core.schema import parse

BANDS = (125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0)
CEILING = (31.0, 37.0, 42.0, 46.0, 49.0, 50.0)
TRUE_DB = {"Board 12 mm": (17.0, 18.5, 24.0, 27.5, 25.5, 28.5),
           "Board, damping compound": (17.2, 18.7, 24.4, 28.2, 27.0, 30.0),
           "Board and vinyl 5 kg": (20.5, 24.0, 29.5, 34.5, 34.5, 33.5),
           "Felt and vinyl, loose": (21.0, 22.5, 25.5, 29.5, 30.0, 24.0),
           "Two boards, wool between": (11.0, 22.5, 38.0, 43.5, 47.5, 49.5)}
BOARD = ("mdf", 12.0)
LAYERS = {"Board 12 mm": (BOARD,), "Board, damping compound": (BOARD, ("brushed-damping", 2.0)),
          "Board and vinyl 5 kg": (BOARD, ("vinyl-5", 2.5)), "Felt and vinyl, loose": (("felt-vinyl", 17.5),),
          "Two boards, wool between": (BOARD, ("stone-wool", 50.0), BOARD)}
DOSE = {"dose_ml": 825.0, "dose_on_m2": 1.5, "stroke_mm": 310.0}


def bench_series() -> dict[str, Any]:
    """The values of one finished series, as somebody would have typed them."""
    about = {"name": "Boards for the bulkhead", "bands_hz": BANDS, "times": 3, "drawn": 7,
             "rig": {"ceiling_db": {f"{f:g}": c for f, c in zip(BANDS, CEILING, strict=True)}},
             "samples": [{"name": name, "layers": [{"material": m, "thickness_mm": mm} for m, mm in layers],
                          **(DOSE if name == "Board, damping compound" else {})} for name, layers in LAYERS.items()],
             "question": "compound", "spectrum": "compressor", "loudspeaker": "An 8 inch driver in the bottom of the brick box",
             "microphone": "On its stand 1 m over the opening, on the axis", "clamp": "Foam tape all round, four toggle clamps"}
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
