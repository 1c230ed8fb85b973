"""Which work there is: by name, what it takes, what it gives, and the core's function that does it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, NamedTuple

from pydantic import BaseModel

from ..core.cutting.buying import RESTARTS
from ..core.cutting.layout import cut
from ..core.cutting.model import CutInput, CutResult
from ..core.report import Report


class Kind(NamedTuple):
    """One kind of work."""

    given: type[BaseModel]
    gives: type[BaseModel]
    do: Callable[[Any, Report], BaseModel]


def _layout(data: CutInput, report: Report) -> CutResult:
    return cut(data, seed=1, restarts=RESTARTS, report=report)


KINDS: dict[str, Kind] = {
    "layout": Kind(CutInput, CutResult, _layout),
}
