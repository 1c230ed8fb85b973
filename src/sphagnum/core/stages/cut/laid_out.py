"""What of a job is laid out and what is bought for it: the sums, without drawing a sheet."""

from __future__ import annotations

from typing import NamedTuple

from ...cutting.buying import OFFCUT, Buy, Cut, buy_estimated, buy_stock, flat_forms
from ...cutting.model import CutResult
from ...figures.job_figures import JobFigures, once
from .bought import amounts_bought, counted, fixings_bought, measures_bought, not_flat
from .model import LeftOver
from .sheets import Asked, Opened, ask, find, left_over, sheets_of
from .wanted import pieces_wanted


class LaidOut(NamedTuple):
    """What is cut of a material at a thickness: what was asked, its layout (None: still under way, which says what), and the one
    from before the last change."""

    asked: Asked
    result: CutResult | None
    under_way: str
    older: CutResult | None


@once
def asked_of(job: JobFigures) -> dict[Cut, Asked]:
    """What is asked of the layouts of a job, by what it is cut from: all that is flat."""
    return {key: ask(job, key, named) for key, named in pieces_wanted(job).items()
            if flat_forms(job.shelf.material(key[0]), key[1])}


@once
def _laid(job: JobFigures, key: Cut) -> LaidOut:
    return LaidOut(asked_of(job)[key], *find(job, asked_of(job)[key]))


def laid_out(job: JobFigures) -> tuple[LaidOut, ...]:
    """The layouts of all that is cut from something flat."""
    return tuple(_laid(job, key) for key in asked_of(job))


class Drawn(NamedTuple):
    """What is opened of a material at a thickness, drawn, and the rests worth keeping that nobody kept yet."""

    opened: tuple[Opened, ...]
    left: tuple[LeftOver, ...]


@once
def _drawn(job: JobFigures, key: Cut) -> Drawn:
    asked, result = _laid(job, key)[:2]
    opened = () if result is None else tuple(sheets_of(asked, result))
    return Drawn(opened, tuple(left_over(job, asked, opened)))


def drawn(job: JobFigures) -> tuple[Drawn, ...]:
    """What is opened of all that is laid out, each as it was where only the layouts of others came further."""
    return tuple(_drawn(job, key) for key in asked_of(job))


class Bought(NamedTuple):
    """All that is to be bought, its sums, what of it is still being laid out, and whether some of it is from before the last
    change."""

    buy: tuple[Buy, ...]
    kg: float
    money: float
    work: tuple[str, ...]
    older: bool


@once
def bought(job: JobFigures) -> Bought:
    """What is to be bought for the plan: stock, goods, fixings, measures that cost something."""
    buy: list[Buy] = []
    for one in laid_out(job):
        material, mm = one.asked.material, one.asked.thickness_mm
        there = counted(job, material.id)
        laid = one.result or one.older
        if laid is not None:
            buy += buy_stock(material, mm, laid, one.result is None, job.shelf.spare_share, there)
        else:
            about = buy_estimated(material, mm, sum(n.wanted.shape.area for n in one.asked.named) / 1e6, there)
            buy += [about] if about is not None else []
    buy += [*amounts_bought(job), *not_flat(job), *measures_bought(job), *fixings_bought(job)]
    return Bought(tuple(buy), round(sum(b.kg for b in buy), 1), round(sum(b.money or 0.0 for b in buy), 2),
                  tuple(x.under_way for x in laid_out(job) if x.under_way), any(b.older for b in buy))


class OpenedStock(NamedTuple):
    """Of what is opened: whether there is some, how many whole sheets, the pieces by label, and whether all have a place."""

    some: bool
    sheets: int
    pieces: frozenset[str]
    complete: bool


@once
def opened(job: JobFigures) -> OpenedStock:
    """What is opened for the pieces of a job, counted."""
    sheets, pieces, every = 0, set[str](), True
    for one in laid_out(job):
        rolls = {f.id for f in flat_forms(one.asked.material, one.asked.thickness_mm) if f.form == "roll"}
        for used in () if one.result is None else one.result.used:
            sheets += used.stock not in rolls and not used.stock.startswith(OFFCUT)
            pieces.update(p.piece for p in used.placements)
        every = every and not (one.result is not None and one.result.unplaced)
    return OpenedStock(any(x.result is not None and x.result.used for x in laid_out(job)), sheets, frozenset(pieces), every)
