"""Prints speeds as ratios to a baseline measured in the same run (a plain numpy product of the same machine)."""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np

from sphagnum.catalogue.load import shelf
from sphagnum.core.cutting.plan import cut_view
from sphagnum.core.job import JobDocument
from sphagnum.core.overview import overview
from sphagnum.core.schema import parse
from sphagnum.core.stacks.model import Stack
from sphagnum.core.stacks.predict import predict
from sphagnum.demo import van


def seconds(work: Callable[[], object], repeats: int = 5) -> float:
    """The quickest of some runs, s."""
    best = float("inf")
    for _ in range(repeats):
        began = time.perf_counter()
        work()
        best = min(best, time.perf_counter() - began)
    return best


def main() -> None:
    """Print the figures."""
    square = np.random.default_rng(1).random((400, 400))
    baseline = seconds(lambda: square @ square @ square)
    names = (("steel", 0.8), ("butyl-foil", 2.0), ("wool-felt", 10.0), ("vinyl-5", 2.5))
    layers = [{"material": m, "thickness_mm": t} for m, t in names]
    stack = shelf().resolve(parse(Stack, {"width_m": 1.2, "height_m": 0.9, "layers": layers}))
    document = parse(JobDocument, van())
    rows = {
        "one stack of four layers": lambda: predict(stack),
        "stages' lines and goal rule of the demo van": lambda: overview(document, shelf()),
        "cut stage of the demo van, pieces and layouts cached": lambda: cut_view(document, shelf(), None),
    }
    print(f"baseline: two products of 400 × 400 matrices, {baseline * 1e3:.2f} ms")
    for name, work in rows.items():
        took = seconds(work)
        print(f"{name}: {took * 1e3:.1f} ms, {took / baseline:.1f} × baseline")


if __name__ == "__main__":
    main()
