"""Fits the constants of ``materials/fitted.py`` to all published walls together, and prints what leaving a family out changes.

``make fit`` runs it; its values are written into the module by hand, rounded.
"""

from __future__ import annotations

import sys
from collections.abc import Sequence

import numpy as np
from published import OCTAVES, Case, all_cases
from scipy.optimize import least_squares

from sphagnum.core.levels.bands import POINTS_PER_BAND, PREDICTED_HZ, Floats, grid_hz
from sphagnum.core.levels.rating import unrounded
from sphagnum.core.materials import fitted
from sphagnum.core.stacks.columns import MakeUp, make_up
from sphagnum.core.stacks.transmission import transmission

FREE = {"most_radiation": (1.2, 2.0), "cavity_loss": (0.02, 0.15), "loss_depth": (0.0, 1.0), "edge_absorption": (0.005, 0.1),
        "edge_growth": (0.4, 1.5), "channel_compliance": (5e-7, 1e-5), "steel_compliance": (3e-7, 6e-6),
        "resonant_share": (0.03, 0.6), "bend_share": (1 / 6, 1.0), "spring_loss": (0.05, 0.4), "plate_share": (0.2, 1.0)}
"""What is fitted, and between which ends it means something. A laboratory's own flanking is set, not fitted: only the walls that
come near it, on double studs, could say what it is."""


def curves(cases: Sequence[Case]) -> Floats:
    """R of every case in the 21 bands, dB, by the constants as they stand."""
    kinds: dict[MakeUp, list[int]] = {}
    for i, case in enumerate(cases):
        kinds.setdefault(make_up(case.stack), []).append(i)
    out = np.empty((len(cases), len(PREDICTED_HZ)))
    for made, members in kinds.items():
        tau = transmission([cases[i].stack for i in members], made, grid_hz().ravel()).tau
        out[members] = -10 * np.log10(tau.reshape(len(members), -1, POINTS_PER_BAND).mean(axis=2))
    return out


def errors(cases: Sequence[Case]) -> Floats:
    """Predicted less published, dB: ratings unrounded, less the half that rounding down takes from a published one."""
    found = curves(cases)
    whole = {"Rw": unrounded(found, "Rw") - 0.5, "STC": unrounded(found, "STC") - 0.5, "mean": found[:, OCTAVES].mean(axis=1)}
    return np.array([whole[c.rating][i] - c.value for i, c in enumerate(cases)])


def fit(cases: Sequence[Case]) -> fitted.Fitted:
    """The constants that suit these cases best (soft absolute errors, drawn a little to where they stand)."""
    start, ends = fitted.VALUES, np.array(list(FREE.values()))
    low, span = ends[:, 0], ends[:, 1] - ends[:, 0]
    first = np.clip((np.array([getattr(start, n) for n in FREE]) - low) / span, 0.02, 0.98)

    def misses(x: Floats) -> Floats:
        fitted.VALUES = start._replace(**dict(zip(FREE, (low + x * span).tolist(), strict=True)))
        return np.concatenate([errors(cases), 0.3 * (x - first)])

    try:
        best = least_squares(misses, first, bounds=(0, 1), loss="soft_l1", f_scale=0.4, diff_step=[1e-3], max_nfev=40)
    finally:
        fitted.VALUES = start
    return start._replace(**dict(zip(FREE, (low + best.x * span).tolist(), strict=True)))


def left_out(cases: Sequence[Case]) -> Floats:
    """The errors of every family by constants that were fitted without it, dB."""
    out, stands = np.empty(len(cases)), fitted.VALUES
    for name in dict.fromkeys(c.family for c in cases):
        own = [i for i, c in enumerate(cases) if c.family == name]
        fitted.VALUES = fit([c for c in cases if c.family != name])
        out[own] = errors([cases[i] for i in own])
        fitted.VALUES = stands
    return out


def main() -> None:
    cases = all_cases()
    best = fit(cases)
    for name in FREE:
        print(f"{name:20} {getattr(fitted.VALUES, name):10.4g} -> {getattr(best, name):10.4g}")
    fitted.VALUES = best
    now = errors(cases)
    for name in dict.fromkeys(c.family for c in cases):
        own = now[[c.family == name for c in cases]]
        size = np.abs(own)
        print(f"{name:24} {len(own):3} mean |error| {size.mean():.2f}, bias {own.mean():+.2f}, most {size.max():.1f}")
    print(f"all {np.abs(now).mean():.3f}")
    if "--left-out" in sys.argv:
        print(f"each family left out {np.abs(left_out(cases)).mean():.3f}")


if __name__ == "__main__":
    main()
