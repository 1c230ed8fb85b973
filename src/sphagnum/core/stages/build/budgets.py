"""Sums against their limits: of a surface and of the whole job, as laid and as bought, and what is left."""

from __future__ import annotations

from collections.abc import Sequence

from ...figures.job_figures import JobFigures
from ...figures.loads import Load, job_load
from ...figures.where import room_of
from ...schema import Strict
from ...surfaces.patches import Patch
from ...worded import of
from ...words import listed
from ..cut.laid_out import Bought, bought
from ..fit.view import hours_of
from .warmth import warmth


class Meter(Strict):
    """A figure against its limit; limit None where the job sets none."""

    label: str
    value: float
    limit: float | None
    unit: str
    left: float | None = None
    """What is left of the limit; below nothing where it is passed."""
    bought: float | None = None
    """The same as it has to be bought: whole sheets, packs and rolls."""
    note: str = ""
    older: bool = False
    """Whether it is from before the last change; the new figure is under way."""


BEARS = {"vehicle": "On its axles", "enclosure": "On what bears it", "room": "On what bears it"}
"""Whose limit ``carries_kg`` is, by kind of job."""


class JobSums(Strict):
    """The sums of the whole job."""

    kg: float
    money: float
    bought_kg: float
    bought_money: float
    """All that is to be bought for the plan: material, goods, measures that cost something."""
    measures_money: float
    """Of it, measures beside the stacks."""
    hours: float
    late: bool
    """Whether what is to buy is still being laid out."""
    older: bool
    """Whether some of it is from before the last change."""
    estimated: tuple[str, ...]
    """What of it is an estimate, since its layout is still under way."""
    unpriced: tuple[str, ...]
    tried: bool = False
    """Whether what is bought and the hours are those of before: of a change that is only tried."""


def job_sums(job: JobFigures) -> JobSums:
    """The sums of the whole job: as laid, as bought, and the hours of its work order with access shared."""
    total, to_buy = job_load(job), bought(job)
    return JobSums(kg=total.kg, money=total.money, bought_kg=to_buy.kg, bought_money=to_buy.money,
                   measures_money=sum(m.money or 0.0 for m in job.doc.measures if m.chosen), hours=hours_of(job),
                   late=bool(to_buy.work) or to_buy.older, older=to_buy.older,
                   estimated=tuple(b.name for b in to_buy.buy if b.estimated),
                   unpriced=_unpriced(total, to_buy))


def sums_tried(job: JobFigures, kept: JobFigures) -> JobSums:
    """The sums of a job that is only tried, at the speed of a hand: what it weighs and is worth; what is bought and how long it
    takes are those of the job as it is ``kept``, said to be from before."""
    total, was = job_load(job), job_sums(kept)
    return was.model_copy(update={"kg": total.kg, "money": total.money, "late": True, "older": True, "tried": True,
                                  "unpriced": _unpriced(total, bought(kept))})


def partly(sums: JobSums) -> str:
    """What of the sum to buy is an estimate, or may still become less, in words; empty where nothing does."""
    if sums.estimated:
        return f"{listed(sums.estimated)} estimated until laid out"
    return "still being laid out" if sums.late and not sums.older else ""


def _unpriced(total: Load, to_buy: Bought) -> tuple[str, ...]:
    return tuple(sorted({*total.unpriced, *(b.name for b in to_buy.buy if b.money is None and b.thickness_mm is None)}))


def meters(job: JobFigures, patch: Patch, added: Load, depth: float, sums: JobSums) -> tuple[Meter, ...]:
    """What a patch and the job come to, each against its limit."""
    surface = patch.whole
    whole = surface.kg_limit * surface.count if surface.kg_limit is not None else None
    money, room = job.doc.job.currency, room_of(job, patch)
    return _rounded([
        Meter(label="Added weight here", value=added.kg, limit=whole, unit="kg"),
        Meter(label="Depth here", value=depth, limit=room.mm, unit="mm", note="" if room.said or room.mm is None else room.words),
        Meter(label="Material here", value=added.money, limit=None, unit=money,
              note="without what has no known price" if added.unpriced else ""),
    ]) + job_meters(job, sums)


def job_meters(job: JobFigures, sums: JobSums) -> tuple[Meter, ...]:
    """What the whole job comes to, each against its limit."""
    limits, money = job.doc.job.limits, job.doc.job.currency
    missing = f"without {len(sums.unpriced)} of no known price" if sums.unpriced else ""
    rows = [
        Meter(label="Added weight, whole job", value=sums.kg, limit=limits.added_kg, unit="kg",
              bought=None if sums.tried else sums.bought_kg),
        Meter(label="Material used, whole job", value=sums.money, limit=None, unit=money, note=missing),
        Meter(label="To buy, whole job", value=sums.bought_money, limit=limits.money, unit=money, older=sums.older,
              note="; ".join(x for x in (missing, partly(sums)) if x)),
        Meter(label="Work, whole job", value=sums.hours, limit=limits.hours, unit="h", older=sums.tried),
    ]
    if limits.carries_kg is not None:
        rows.append(Meter(label=BEARS[job.doc.job.kind], value=sums.kg, limit=limits.carries_kg, unit="kg"))
    warm = warmth(job) if job.doc.job.kind == "enclosure" else None
    if warm is not None:
        air = f"a fan of {of(warm.fan_m3_h, 'm³/h', '.0f')}" if warm.fan_m3_h else "by its own buoyancy, no fan"
        asked = "" if warm.limit_k is not None else "; how much may it be? Say it on the desk: the box"
        rows.append(Meter(label="Warmer inside than outside", value=warm.rise_k, limit=warm.limit_k, unit="K",
                          note=f"{of(warm.vents_cm2, 'cm²', '.0f')} of vents, {air}{asked}"))
    return _rounded(rows)


def _rounded(rows: Sequence[Meter]) -> tuple[Meter, ...]:
    """To a decimal, with what is left of each limit."""
    return tuple(m.model_copy(update={
        "value": round(m.value, 1) + 0.0, "left": None if m.limit is None else round(m.limit - m.value, 1) + 0.0,
        "bought": None if m.bought is None else round(m.bought, 1) + 0.0}) for m in rows)
