"""Predictions kept by what they are of: what was predicted among many is found again alone."""

from __future__ import annotations

from collections.abc import Iterable

from ..kept import Kept
from .model import Stack
from .predict import AtStack, Prediction, predict, predict_many

MOST = 1024
"""Predictions kept, some 5 KB each; those asked for last."""
PREDICTIONS = Kept(MOST)


def predict_cached(stack: Stack) -> Prediction:
    """As ``predict``, kept; BadInput as there."""
    return PREDICTIONS.get(stack, lambda: predict(stack))


def predict_ahead(stacks: Iterable[Stack]) -> None:
    """Predicts together those of stacks that are not known yet, to be found one by one; what no model covers is left."""
    left = [x for x in dict.fromkeys(stacks) if x not in PREDICTIONS]
    while left:
        try:
            for stack, found in zip(left, predict_many(left), strict=True):
                PREDICTIONS.get(stack, lambda found=found: found)  # type: ignore[misc]
            return
        except AtStack as error:
            del left[error.index]
