"""What is left in the store: what was counted, less what standing ticks of jobs have used since."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime
from typing import NamedTuple

from ..materials.model import Material, StockForm
from ..schema import Strict

Size = tuple[str, float | None, float | None, float | None]


class StockUse(Strict):
    """So many units of a form of a material that a step of a job used, and when (ISO 8601)."""

    material: str
    size: Size
    units: float
    at: str


class UsedBy(NamedTuple):
    """What a job used."""

    job_id: int
    use: StockUse


def size_of(form: StockForm) -> Size:
    """What tells one form of a material from another."""
    return form.form, form.thickness_mm, form.width_mm, form.length_mm


def used_since(form: StockForm, material: str, used: Iterable[UsedBy], but: int | None = None) -> float:
    """Units of a form that jobs used since it was counted; ``but``: those of one job left out, which still plans with them."""
    if not form.counted_at:
        return 0.0
    since = datetime.fromisoformat(form.counted_at)
    return sum(u.use.units for u in used if u.job_id != but and (u.use.material, u.use.size) == (material, size_of(form))
               and datetime.fromisoformat(u.use.at) > since)


def left_of(form: StockForm, material: str, used: Iterable[UsedBy], but: int | None = None) -> float | None:
    """Units of a form that are left; None where nobody counted.

    More used than was counted was bought for it: nothing is left then.
    """
    if form.on_hand is None:
        return None
    return max(0.0, form.on_hand - used_since(form, material, used, but))


def counted_anew(before: Material | None, now: Material, at: str) -> Material:
    """A material whose forms say when they were counted, where what is on hand is not what it was ``before``."""
    known = {} if before is None else {size_of(f): f for f in before.stock}
    return now.model_copy(update={"stock": tuple(
        f.model_copy(update={"counted_at": at if f.on_hand is not None else ""})
        if f.on_hand != (known[size_of(f)].on_hand if size_of(f) in known else None) else f for f in now.stock)})
