"""From stacks to their predicted transmission loss, ratings, mass, resonances and the working behind them."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import Any, NamedTuple

import numpy as np

from ..errors import BadInput
from ..levels.bands import POINTS_PER_BAND, PREDICTED_HZ, Floats, grid_hz
from ..levels.rating import rate_predicted
from ..materials.table import family
from ..schema import Strict
from ..worded import of
from ..words import listed
from ..working import Working, inputs
from .columns import MakeUp, make_up
from .findings import Note, Resonances, cavities_hz, notes, resonances
from .model import Stack
from .transmission import Result, transmission

TOGETHER = 256
"""Stacks of one make-up computed in one pass: enough to share what is computed of a part of many."""


class Prediction(Strict):
    """What ``predict`` prints: 21 bands 50 Hz–5 kHz, ratings, mass and thickness, notes."""

    frequency_hz: tuple[float, ...]
    transmission_loss_db: tuple[float, ...]
    Rw: int | None
    C: int | None
    Ctr: int | None
    STC: int | None
    surface_mass_kg_m2: float
    thickness_mm: float
    resonances: Resonances
    loss_factor: tuple[float, ...] | None
    expected_error_db: float
    notes: tuple[Note, ...]


def predict(stack: Stack) -> Prediction:
    """Predict one stack; the same as ``predict_many`` of it alone.

    ``stack``: layers from the source's side, fields in the units of their names, shelf layers resolved. The result has R per
    band (dB, 21 bands 50 Hz to 5 kHz), ratings, mass (kg/m²), resonances (Hz) and the expected error (dB). BadInput for
    misplaced damping and for frames that do not fit. Source: transfer matrices with ISO 12354-1:2017, Annex B.

    >>> sheet = {"kind": "limp", "thickness_mm": 2.5, "surface_mass_kg_m2": 5}
    >>> predict(parse(Stack, {"width_m": 1, "height_m": 1, "layers": [sheet]})).surface_mass_kg_m2
    5.0
    """
    return predict_many([stack])[0]


class AtStack(BadInput):
    """A refusal of one of many stacks; ``index`` is its place among them."""

    def __init__(self, index: int, error: BadInput) -> None:
        super().__init__(error.what, error.where, error.mend)
        self.index = index


def predict_many(stacks: Sequence[Stack]) -> list[Prediction]:
    """Predict stacks whose shelf layers are resolved, in order; those of one make-up are computed together.

    Raises AtStack (a BadInput) for misplaced damping and for frames that do not fit their stack.
    """
    curves, rest = np.empty((len(stacks), len(PREDICTED_HZ))), dict[int, dict[str, Any]]()

    def refuse(index: int, error: BadInput) -> None:
        raise AtStack(index, error) from None
    for chunk, result in _computed(stacks, refuse):
        curves[chunk] = _loss_db(result)
        rest.update(zip(chunk, _beside([stacks[i] for i in chunk], result), strict=True))
    return [
        Prediction.model_construct(frequency_hz=PREDICTED_HZ, transmission_loss_db=tuple(curve), Rw=rw, C=c, Ctr=ctr, STC=stc,
                                   **rest[i])
        for i, (curve, (rw, c, ctr, stc)) in enumerate(zip(curves.tolist(), rate_predicted(curves), strict=True))
    ]


MOST_CAVITIES = 3


class Curves(NamedTuple):
    """Of many stacks R, dB, and the loss factor of the first leaf, (stacks, 21), mass, kg/m², (stacks,), and the resonances of
    their first cavities, Hz, (stacks, MOST_CAVITIES). NaN: no model covers it, or it has no leaf, or no cavity."""

    loss_db: Floats
    loss_factor: Floats
    mass_kg_m2: Floats
    cavities_hz: Floats


def curves_of(stacks: Sequence[Stack]) -> Curves:
    """The curves ``predict_many`` gives, without what goes with them: what a search asks of thousands."""
    unknown = np.full((len(stacks), len(PREDICTED_HZ)), np.nan)
    out = Curves(unknown, unknown.copy(), np.full(len(stacks), np.nan), np.full((len(stacks), MOST_CAVITIES), np.nan))
    for chunk, result in _computed(stacks, lambda _index, _error: None):
        out.loss_db[chunk], out.mass_kg_m2[chunk] = _loss_db(result), _masses(result)
        resonances_hz = cavities_hz(result)[:, :MOST_CAVITIES]
        out.cavities_hz[chunk, :resonances_hz.shape[1]] = resonances_hz
        losses = _first_loss(result)
        if losses is not None:
            out.loss_factor[chunk] = losses
    return out


def _computed(stacks: Sequence[Stack], refused: Callable[[int, BadInput], None]) -> Iterator[tuple[list[int], Result]]:
    """Stacks of one make-up a batch at a time, by their places, with what their model gives; others are ``refused``."""
    kinds: dict[MakeUp, list[int]] = {}
    for i, stack in enumerate(stacks):
        try:
            kinds.setdefault(make_up(stack), []).append(i)
        except BadInput as error:
            refused(i, error)
    for made, members in kinds.items():
        _ends_alike(stacks, members)
        for start in range(0, len(members), TOGETHER):
            chunk = members[start : start + TOGETHER]
            try:
                yield chunk, transmission([stacks[i] for i in chunk], made, grid_hz().ravel())
            except BadInput as error:
                refused(min(members), error)


def _loss_db(result: Result) -> Floats:
    return np.asarray(np.round(-10 * np.log10(_band_mean(result.tau)), 2) + 0.0)


def _first_loss(result: Result) -> Floats | None:
    first_leaf = next((h for h in result.heavy.values() if h.loss is not None), None)
    return None if first_leaf is None or first_leaf.loss is None else np.round(_band_mean(first_leaf.loss), 4)


def _masses(result: Result) -> Floats:
    return np.asarray(np.round(np.sum([family(p.kind).mass(p) for p in result.layers], axis=0)[:, 0], 2))


def _ends_alike(stacks: Sequence[Stack], members: list[int]) -> None:
    """Puts stacks that are alike on the listener's side beside each other: they share what is computed of it."""
    seen: dict[int, int] = {}
    members.sort(key=lambda i: [seen.setdefault(id(x), len(seen)) for x in reversed(stacks[i].layers)])


def _beside(stacks: list[Stack], result: Result) -> Iterator[dict[str, Any]]:
    """What goes with the curve of each stack."""
    found_losses = _first_loss(result)
    losses = None if found_losses is None else found_losses.tolist()
    masses = _masses(result).tolist()
    depths = np.round(np.sum([1e3 * family(p.kind).depth(p) for p in result.layers], axis=0)[:, 0], 2).tolist()
    error = expected_error_db(result)
    for i, (stack, found) in enumerate(zip(stacks, resonances(result), strict=True)):
        yield {
            "surface_mass_kg_m2": masses[i], "thickness_mm": depths[i], "resonances": found,
            "loss_factor": None if losses is None else tuple(losses[i]), "expected_error_db": error,
            "notes": tuple(notes(stack, result, found, i)),
        }


def expected_error_db(result: Result) -> float:
    """Expected error of the single number, dB: what the table of published values shows per family, rounded up."""
    leaves = sum(h.leaf is not None for h in result.heavy.values())
    if len(result.heavy) > 2:
        return 5.0  # more than one cavity: compared with one published value only
    if leaves > 1:
        return 3.0
    return 2.0 if len(result.plan.groups) == 1 else 4.0


def _band_mean(values: Floats) -> Floats:
    return np.asarray(values.reshape(len(values), -1, POINTS_PER_BAND).mean(axis=2))


def working(stack: Stack, prediction: Prediction) -> Working:
    """The working behind a predicted curve."""
    cavities = prediction.resonances.mass_air_mass_hz
    return Working(
        figure="transmission loss R",
        formula="transfer matrices over a diffuse field to 78°; finite size and free waves of each leaf after ISO 12354-1; "
        "links between leaves as lines or points; leaks by area",
        inputs=inputs(
            panel=of(f"{stack.width_m:g} × {stack.height_m:g}", "m"),
            surface_mass=of(prediction.surface_mass_kg_m2, "kg/m²"),
            critical_frequency=", ".join(f"{f:.0f} Hz" for f in prediction.resonances.critical_hz if f) or "none",
            mass_air_mass=", ".join(f"{f:.0f} Hz" for f in cavities) or "none",
            frame=listed([x.kind for x in stack.ties]) or "none",
            leak=of(stack.leak_cm2, "cm²"),
            temperature=f"{stack.temperature_c:g} °C",
        ),
        source="ISO 12354-1:2017 Annex B and C; Ross, Ungar and Kerwin 1959; Miki 1990; Sharp 1978; Davy 2010; "
        "Gomperts and Kihlman 1967",
        accuracy=f"± {prediction.expected_error_db:g} dB expected on the single number",
        valid="above the panel's first mode; 0.01 < f/σ < 1 in porous layers",
    )
