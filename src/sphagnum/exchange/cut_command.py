"""The command that lays pieces on sheets; loads nothing of jobs."""

from __future__ import annotations

from ..core.cutting.layout import cut
from ..core.cutting.model import CutInput, CutResult
from ..core.errors import BadInput
from ..core.report import Report, silent
from ..core.schema import parse
from .files import read_bytes, read_json


def run_cut(name: str, seed: int, report: Report = silent) -> CutResult:
    """``cut PIECES.json``."""
    data = parse(CutInput, read_json(read_bytes(name), name), name)
    try:
        return cut(data, seed, report=report)
    except BadInput as error:
        raise error.at(name) from None
