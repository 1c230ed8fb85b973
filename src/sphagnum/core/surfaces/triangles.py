"""Points from taped lengths: triangle by triangle, more lengths than needed fitted, those that contradict named."""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping
from typing import NamedTuple

import numpy as np
import scipy  # loads its parts where they are used: it takes a second
from shapely import Point, Polygon
from shapely.geometry.base import BaseGeometry

from ..errors import BadInput
from ..levels.bands import Floats
from ..worded import of
from ..words import listed

LEAST_MM, LEAST_SHARE = 5.0, 0.01
"""A tape is believed to the larger of so many millimetres and so much of the length."""
TOLD_APART_MM = 0.2
"""Below this two places of a point are as good as one another."""
Lengths = Mapping[tuple[str, str], float]


class Points(NamedTuple):
    """Where the points lie, mm, and by how much the worst length misses."""

    at: dict[str, tuple[float, float]]
    worst_mm: float


def points_of(lengths: Lengths, inside: frozenset[str] = frozenset()) -> Points:
    """Points from lengths between pairs of them: A at 0, 0, B on the x axis, the third with y > 0.

    Each further one lies outside the triangles already laid unless named in ``inside``. Raises BadInput for lengths that do not
    close, points that hang on too few, and lengths that contradict one another.
    """
    start = _laid(lengths, inside)
    fitted, residuals = _fitted(start, lengths)
    worst = max((abs(r) for r in residuals.values()), default=0.0)
    spare = len(lengths) - (2 * len(start) - 3)
    if spare > 0 and any(abs(r) > believed_mm(lengths[pair]) for pair, r in residuals.items()):
        raise _contradiction(lengths, inside, spare)
    return Points({name: (float(x), float(y)) for name, (x, y) in fitted.items()}, worst)


def believed_mm(length: float) -> float:
    """How far a taped length may be off."""
    return max(LEAST_MM, LEAST_SHARE * length)


def _laid(lengths: Lengths, inside: frozenset[str]) -> dict[str, Floats]:
    names = sorted({n for pair in lengths for n in pair})
    if len(names) < 3 or names[0] != "A" or names[1] != "B" or ("A", "B") not in lengths:
        raise BadInput("the first triangle begins with the length AB", "lengths_mm", "tape AB, then AC and BC")
    at: dict[str, Floats] = {"A": np.zeros(2), "B": np.array([lengths["A", "B"], 0.0])}
    triangles: list[tuple[str, str, str]] = []
    waiting = names[2:]
    while waiting:
        name = next((n for n in waiting if len(_known(n, at, lengths)) >= 2), None)
        if name is None:
            short = waiting[0]
            raise BadInput(f"the point {short} hangs on too few lengths", "lengths_mm",
                           f"tape two lengths from points that are laid ({', '.join(at)}) to it")
        waiting.remove(name)
        at[name], base = _placed(name, at, lengths, triangles, name in inside)
        triangles.append((*base, name))
    return at


def _known(name: str, at: Mapping[str, Floats], lengths: Lengths) -> list[str]:
    return [p for p in at if _pair(p, name) in lengths]


def _pair(a: str, b: str) -> tuple[str, str]:
    return (a, b) if a < b else (b, a)


def _placed(
    name: str, at: Mapping[str, Floats], lengths: Lengths, triangles: list[tuple[str, str, str]], within: bool
) -> tuple[Floats, tuple[str, str]]:
    """Where a point lies, by the two laid points that tell it best, and which those are."""
    known = _known(name, at, lengths)
    spare = len(known) > 2
    best: tuple[float, Floats, tuple[str, str]] | None = None
    laid: BaseGeometry = Polygon()
    for t in triangles:
        laid = laid.union(Polygon([tuple(at[n]) for n in t]))
    for p, q in itertools.combinations(known, 2):
        crossing = _crossings(at[p], at[q], lengths[_pair(p, name)], lengths[_pair(q, name)])
        if crossing is None:
            if not spare:
                a, b, c = f"{p}{q}", *("".join(_pair(x, name)) for x in (p, q))
                raise BadInput(f"{a}, {b} and {c} do not close to a triangle", "lengths_mm", "tape them again")
            continue
        misses = [sum(abs(math.dist(spot, at[o]) - lengths[_pair(o, name)]) for o in known if o not in (p, q))
                  for spot in crossing]
        for k, (spot, others) in enumerate(zip(crossing, misses, strict=True)):
            thin = 1 - abs(float(np.dot(*(((v := x - spot) / max(float(np.linalg.norm(v)), 1e-9)) for x in (at[p], at[q])))))
            wrong = _wrong_side(spot, at, (p, q), triangles, laid, within, k)
            # lengths beside the two decide first, then the side it must lie on, then the better triangle
            refuted = others > max(TOLD_APART_MM, 10 * min(misses))  # both believed, and still the other one fits far better
            score = (others if others > LEAST_MM else 0.0) * 10 + wrong * 1e3 + refuted * 2e3 - thin
            if best is None or score < best[0]:
                best = score, spot, (p, q)
    if best is None:
        raise BadInput(f"the lengths to {name} do not close to any triangle", "lengths_mm", "tape them again")
    return best[1], best[2]


def _crossings(a: Floats, b: Floats, ra: float, rb: float) -> tuple[Floats, Floats] | None:
    """Both points at distances from two others: left of the way from one to the other first; None where there is none."""
    base = b - a
    d = float(np.linalg.norm(base))
    if d < 1e-9:
        return None
    along = (ra**2 - rb**2 + d**2) / (2 * d)
    square = ra**2 - along**2
    if square < -2 * believed_mm(max(ra, rb)) * max(ra, 1.0):
        return None
    up = math.sqrt(max(square, 0.0))
    unit = base / d
    foot, side = a + along * unit, up * np.array([-unit[1], unit[0]])
    return foot + side, foot - side


def _wrong_side(
    spot: Floats, at: Mapping[str, Floats], base: tuple[str, str], triangles: list[tuple[str, str, str]], laid: BaseGeometry,
    within: bool, which: int,
) -> float:
    """0 where a point lies as it should: the first with y > 0; outside what is laid, or inside it where that is said."""
    if not triangles:
        return 0.0 if which == 0 else 1.0
    covered = laid.buffer(-0.5).contains(Point(*spot))
    if within:
        return 0.0 if covered else 1.0
    if covered:
        return 1.0
    # beyond the edge it stands on, seen from the triangle behind that edge
    p, q = (at[n] for n in base)
    for t in triangles:
        third = next((n for n in t if n not in base), None)
        if third is not None and set(base) < set(t):
            sides = [float((q - p)[0] * (x - p)[1] - (q - p)[1] * (x - p)[0]) for x in (at[third], spot)]
            if sides[0] * sides[1] > 0:
                return 0.5
    overlap = Polygon([tuple(p), tuple(q), tuple(spot)]).intersection(laid).area
    return 0.25 if overlap > 1.0 else 0.0


def _fitted(start: Mapping[str, Floats], lengths: Lengths) -> tuple[dict[str, Floats], dict[tuple[str, str], float]]:
    """The points that fit all lengths best (least squares), and by how much each length misses, mm."""
    free = [n for n in start if n not in ("A", "B")]
    pairs = list(lengths)

    def placed(v: Floats) -> dict[str, Floats]:
        out = {"A": np.zeros(2), "B": np.array([v[0], 0.0])}
        return out | {n: v[1 + 2 * i:3 + 2 * i] for i, n in enumerate(free)}

    def misses(v: Floats) -> Floats:
        at = placed(v)
        return np.array([float(np.linalg.norm(at[a] - at[b])) - lengths[a, b] for a, b in pairs])
    first = np.concatenate([[start["B"][0]], *(start[n] for n in free)])
    got = scipy.optimize.least_squares(misses, first, x_scale=100.0).x if np.abs(misses(first)).max() > 1e-9 else first
    if len(free) and got[2] < 0 < first[2]:  # the fit went through the axis: its mirror fits as well, and has the third above it
        got[2::2] *= -1
    return placed(got), dict(zip(pairs, misses(got).tolist(), strict=True))


def _contradiction(lengths: Lengths, inside: frozenset[str], spare: int) -> BadInput:
    """Which lengths contradict one another, and what each would have to be with the others as they are."""
    everything, _ = _fitted(_laid(lengths, inside), lengths)
    mended: list[tuple[float, str]] = []
    for pair in lengths:
        rest = {k: v for k, v in lengths.items() if k != pair}
        if any(sum(n in k for k in rest) < 2 for n in pair):
            continue
        # from where all lengths together put them, so that no triangle turns over
        fitted, residuals = _fitted(everything, rest)
        wanted = float(np.linalg.norm(fitted[pair[0]] - fitted[pair[1]]))
        worst = max((abs(r) / believed_mm(rest[k]) for k, r in residuals.items()), default=0.0)
        mended.append((worst, f"{''.join(pair)} {lengths[pair]:.0f} → {wanted:.0f}"))
    mended.sort(key=lambda x: x[0] if spare > 1 else 0.0)
    named = [words for _, words in mended]
    if spare == 1 or not named:
        what = "the lengths contradict one another, and with one more than needed none can be blamed"
        return BadInput(what, "lengths_mm", f"tape again; one of these would close it: {of(listed(named), 'mm')}")
    return BadInput("the lengths contradict one another", "lengths_mm",
                    f"tape this one first: {of(named[0], 'mm')}; else {of(listed(named[1:4]), 'mm')}")
