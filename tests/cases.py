"""Cases of which the ordinary run takes the usual ones."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from typing import Any

import pytest


def rest_broad(cases: Iterable[Any], usual: Collection[Any]) -> list[Any]:
    """All cases, in order; those that are not ``usual`` run with what is broad."""
    return [x if x in usual else pytest.param(x, marks=pytest.mark.broad) for x in cases]
