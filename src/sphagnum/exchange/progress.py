"""How far a command is, as a line on standard error."""

from __future__ import annotations

import sys
from collections.abc import Callable
from typing import Any

from ..core.report import Report, silent


def _shown(share: float, words: str, _so_far: Callable[[], Any] | None = None, /) -> None:
    print(f"\r{100 * share:3.0f} % {words}", end="\n" if share >= 1 else "", file=sys.stderr, flush=True)


def progress(shown: bool) -> Report:
    """A report as one line on standard error that is written over, where it is ``shown``."""
    return _shown if shown else silent
