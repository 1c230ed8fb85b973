"""Predictions kept by what they are of: what was predicted among many is found again alone."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterable
from threading import Lock

from .model import Stack
from .predict import AtStack, Prediction, predict_many

MOST = 2048
"""Predictions kept, some 5 KB each; those asked for last."""
_lock = Lock()
_kept: OrderedDict[Stack, Prediction] = OrderedDict()


def predict_cached(stack: Stack) -> Prediction:
    """As ``predict``, kept; BadInput as there."""
    found = _known(stack)
    return found if found is not None else _keep(stack, predict_many([stack])[0])


def predict_ahead(stacks: Iterable[Stack]) -> None:
    """Predicts together those of stacks that are not known yet, to be found one by one; what no model covers is left."""
    left = [x for x in dict.fromkeys(stacks) if _known(x) is None]
    while left:
        try:
            for stack, found in zip(left, predict_many(left), strict=True):
                _keep(stack, found)
            return
        except AtStack as error:
            del left[error.index]


def _known(stack: Stack) -> Prediction | None:
    with _lock:
        found = _kept.get(stack)
        if found is not None:
            _kept.move_to_end(stack)
        return found


def _keep(stack: Stack, found: Prediction) -> Prediction:
    with _lock:
        _kept[stack] = found
        if len(_kept) > MOST:
            _kept.popitem(last=False)
    return found
