"""Battens and profiles cut from stock lengths: the fewest, the saw's cut counted."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import scipy  # loads its parts where they are used

from ..errors import BadInput

EXACT_PIECES = 24
"""More than these are laid greedily, longest first: a few lengths at most are lost."""


def lengths_of(pieces_mm: Sequence[float], stock_mm: float, kerf_mm: float) -> list[list[float]]:
    """What is cut from each length, pieces as given, mm: bins of L + kerf for pieces + kerf; the fewest there can be for up to
    ``EXACT_PIECES``. BadInput for a piece longer than a length."""
    pieces = sorted((p for p in pieces_mm if p > 0), reverse=True)
    if pieces and pieces[0] > stock_mm:
        raise BadInput(f"a piece of {pieces[0]:.0f} mm is longer than the {stock_mm:.0f} mm it is sold in", "frame", "join two")
    greedy = _greedy(pieces, stock_mm + kerf_mm, kerf_mm)
    least = int(np.ceil(sum(p + kerf_mm for p in pieces) / (stock_mm + kerf_mm) - 1e-9))
    if len(greedy) <= least or len(pieces) > EXACT_PIECES:
        return greedy
    return _exact(pieces, stock_mm + kerf_mm, kerf_mm, len(greedy)) or greedy


def _greedy(pieces: Sequence[float], room: float, kerf: float) -> list[list[float]]:
    bins: list[list[float]] = []
    for p in pieces:
        fits = [b for b in bins if sum(x + kerf for x in b) + p + kerf <= room + 1e-9]
        if fits:
            min(fits, key=lambda b: room - sum(x + kerf for x in b)).append(p)
        else:
            bins.append([p])
    return bins


def _exact(pieces: Sequence[float], room: float, kerf: float, most: int) -> list[list[float]] | None:
    """Each piece in one bin, bins in use first: by HiGHS; None where it did not get there in time."""
    n, b = len(pieces), most - 1
    in_bin = np.zeros((n, n * b + b))
    for i in range(n):
        in_bin[i, i * b : (i + 1) * b] = 1
    full = np.zeros((b, n * b + b))
    for k in range(b):
        full[k, [i * b + k for i in range(n)]] = [p + kerf for p in pieces]
        full[k, n * b + k] = -room
    cost = np.concatenate([np.zeros(n * b), np.ones(b)])
    optimize = scipy.optimize
    found = optimize.milp(
        cost, constraints=[optimize.LinearConstraint(in_bin, 1, 1), optimize.LinearConstraint(full, -np.inf, 1e-6)],
        integrality=np.ones(n * b + b, dtype=np.int64), bounds=optimize.Bounds(0, 1), options={"time_limit": 5.0})
    if found.x is None:
        return None
    bins = [[pieces[i] for i in range(n) if found.x[i * b + k] > 0.5] for k in range(b)]
    return [x for x in bins if x]
