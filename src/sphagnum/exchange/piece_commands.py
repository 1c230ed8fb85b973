"""The commands of pieces and of shapes taken by tape, which load nothing of jobs; and how far a command is, as a line."""

from __future__ import annotations

import sys
from collections.abc import Callable
from typing import Any

from ..core.cutting.layout import cut
from ..core.cutting.model import CutInput, CutResult
from ..core.errors import BadInput
from ..core.report import Report, silent
from ..core.schema import parse
from ..core.surfaces.taped import TapedShape, read_taped, taped_shape
from .files import read_bytes, read_json


def shown_progress(share: float, words: str, _so_far: Callable[[], Any] | None = None, /) -> None:
    """A report as one line on standard error that is written over."""
    print(f"\r{100 * share:3.0f} % {words}", end="\n" if share >= 1 else "", file=sys.stderr, flush=True)


def run_cut(name: str, seed: int, report: Report = silent) -> CutResult:
    """``cut PIECES.json``."""
    data = parse(CutInput, read_json(read_bytes(name), name), name)
    try:
        return cut(data, seed, report=report)
    except BadInput as error:
        raise error.at(name) from None


def run_shape(name: str) -> TapedShape:
    """``shape SHAPE.json``."""
    taped = read_taped(read_json(read_bytes(name), name), name)
    try:
        return taped_shape(taped)
    except BadInput as error:
        raise error.at(name) from None
