"""A plan in a sentence or two: what does most, what leaving something alone costs and saves, what is left."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from ..worded import of
from ..words import listed, percent
from .front import Plan
from .problem import KG, MONEY, Problem


class Named(NamedTuple):
    """What options and paths are called; ``still``: the option of each path that leaves it alone (−1: there is none); ``now``:
    the energy that comes by it as it is."""

    paths: tuple[str, ...]
    options: tuple[str, ...]
    still: tuple[int, ...]
    now: tuple[float, ...]


MOST_OF_IT = 0.8
SMALL_DB = 0.05
"""An effect below this is not worth a word."""


def why(p: Problem, plan: Plan, names: Named) -> str:
    """Why a plan is so, in plain words."""
    energy = p.energy[np.array(plan.choice)]
    whole = float(energy.sum())
    treated = [i for i, c in enumerate(plan.choice) if c != names.still[i]]
    back = {i: _db(whole + names.now[i] - float(energy[i]), whole) for i in treated}
    said = []
    if not treated:
        said.append("Nothing is done")
    else:
        order = sorted(treated, key=lambda i: -back[i])
        first = order[0]
        if back[first] >= SMALL_DB:
            said.append(f"{_start(names.paths[first])}: {names.options[plan.choice[first]]}; left alone, it would be "
                        f"{back[first]:.1f} dB louder")
        more = [i for i in order[1:3] if back[i] >= SMALL_DB]
        if more:
            said.append(f"Then {listed([f'{_small(names.paths[i])} ({back[i]:.1f} dB)' for i in more])}")
    left = _left_alone(p, plan, names, whole)
    if left:
        said.append(left)
    ruling = int(np.argmax(energy))
    if whole > 0:
        said.append(f"{percent(float(energy[ruling]) / whole)} of what is left comes by {_small(names.paths[ruling])}")
    return ". ".join(said) + "."


def _left_alone(p: Problem, plan: Plan, names: Named, whole: float) -> str:
    """The untouched path that a doing would help most: what leaving it costs, and what the lightest doing of that kind saves."""
    best = (0.0, -1, np.zeros(0, dtype=np.int64), np.zeros(0))
    for i, c in enumerate(plan.choice):
        if c == names.still[i]:
            options = np.flatnonzero(p.path == i)
            gains = 10 * np.log10(whole / np.maximum(whole + p.energy[options] - p.energy[c], 1e-30))
            if gains.max() > best[0]:
                best = (float(gains.max()), i, options, gains)
    if best[0] < SMALL_DB:
        return ""
    most, i, options, gains = best
    near = options[gains >= MOST_OF_IT * most]
    option = int(near[np.argmin(p.costs[near, KG])])
    kg, money = float(p.costs[option, KG]), float(p.costs[option, MONEY])
    saved = f" and saves {of(kg, 'kg', '.1f')}" if kg >= 0.05 else f" and saves {money:.2f} in money" if money >= 0.005 else ""
    against = f" against {_small(names.options[option])}" if saved else ""
    return f"Leaving {_small(names.paths[i])} alone costs {float(gains[options == option][0]):.1f} dB{saved}{against}"


def _db(more: float, less: float) -> float:
    return float(10 * np.log10(max(more, 1e-30) / max(less, 1e-30)))


def _start(name: str) -> str:
    return name[:1].upper() + name[1:]


def _small(name: str) -> str:
    return name if name[:2].isupper() else name[:1].lower() + name[1:]
