"""``bench``: a series of samples in the shop's own rig, from a file; what differs and what does not."""

from __future__ import annotations

from ..core.bench.model import SeriesIn, SeriesResult
from ..core.bench.told import told
from ..core.schema import parse
from .files import read_bytes, read_json


def run_bench(name: str) -> SeriesResult:
    """``bench SERIES.json``. BadInput for a series that tells nothing."""
    return told(parse(SeriesIn, read_json(read_bytes(name), name), name))
