"""What a search is asked and what it finds: units of the job, their options, plans over all of them."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from ...builds.kinds import Given
from ...schema import NotNegative, Strict
from ...surfaces.rows import Layers


class PlansAsked(Strict):
    """How to search: patches and builds kept as chosen ("3", "3:zone" or "build 3"), materials left out, whether what is laid
    already may change too, and how long at most."""

    pinned: tuple[Annotated[str, Field(max_length=80)], ...] = Field(default=(), max_length=200)
    struck: tuple[Annotated[str, Field(max_length=80)], ...] = Field(default=(), max_length=200)
    anew: bool = False
    only: Annotated[tuple[Annotated[str, Field(max_length=80)], ...], Field(max_length=200)] = ()
    """Materials to use, and no others; empty: all. Lines, glue and goods may always be bought."""
    stock: bool = False
    """Whether only what is on hand is laid, and no more of it than there is."""
    kinds: Annotated[int | None, Field(ge=1, le=40)] = None
    """How many kinds of material at most; None: as many as pay."""
    seconds: Annotated[float, Field(ge=1, le=120, strict=True, allow_inf_nan=False)] = 20.0


class PatchWay(Strict):
    """What an option does on a patch: an alternative the job keeps, new layers, or neither: as it is."""

    surface_id: int
    zone: str
    name: str = ""
    """The stack in words."""
    alternative_id: int | None = None
    layers: Layers | None = None


class BuildTaken(Strict):
    """What becomes of a build: built or left out, and what is given of it where that is new."""

    build_id: int
    name: str
    chosen: bool
    words: str = ""
    given: Given | None = None


class OptionView(Strict):
    """One thing done to a unit, with what it adds alone (material at its share of a pack)."""

    name: str
    kg: float
    money: float
    hours: float
    still: bool
    """Whether it leaves the unit as it is."""
    ways: tuple[PatchWay, ...] = ()
    sealed: bool | None = None
    """Whether what was found open is sealed; None where nothing was."""
    measures: tuple[int, ...] = ()
    builds: tuple[BuildTaken, ...] = ()


class UnitView(Strict):
    """A surface with its ways in, or a way of its own; its options that stand in a plan."""

    name: str
    path_ids: tuple[int, ...]
    surface_id: int | None
    laid: bool
    """Whether what is planned there is laid already, so that it stays."""
    options: tuple[OptionView, ...]


class FoundPlan(Strict):
    """A plan: the option of each unit, measures at the source or the listener, builds that act on all that is heard, what it
    gives and takes, and why.

    ``reduction_db`` is what is to be expected, and ``within_db`` half of its 95 % interval, both as every stage has them once the
    plan is taken. ``other_sources_db``: its reduction if the source were stronger below, or above, the pivot.
    """

    choice: tuple[int, ...]
    measures: tuple[int, ...]
    builds: tuple[BuildTaken, ...] = ()
    reduction_db: float
    within_db: float
    level_db: float | None
    """What it leaves, by what was read of the part of it that is laid."""
    added_kg: float
    money: float
    estimated: bool
    """Whether its money is an estimate, not yet of sheets laid out."""
    hours: float
    kinds: int = 0
    """How many kinds of material it lays."""
    warmer_k: float | None = None
    """How much warmer it gets in a box, K; None where nothing tells."""
    other_sources_db: tuple[float, float]
    path_db: tuple[float, ...]
    """What each unit leaves at the listener, dB in the goal's quantity."""
    why: str


class RelaxedLimit(Strict):
    """A limit that alone would have to give, how far, and what it is now."""

    limit: str
    now: float
    to: float
    unit: str


class PlansFound(Strict):
    """What a search found. Indices are places in ``plans``; ``own`` is the plan as it stands, ``instead`` one that takes no
    more of anything and gives at least as much."""

    sentence: str
    detail: str
    quantity: str
    unit: str
    now_db: float | None
    target_db: float | None
    target_reduction_db: float | None
    units: tuple[UnitView, ...]
    plans: tuple[FoundPlan, ...]
    own: FoundPlan | None
    best: int | None
    cheapest: int | None
    instead: int | None
    reached: bool
    short_by_db: float
    most_reduction_db: float
    capped_by: str
    deeper: str = ""
    """The depth that would reach a goal that is out of reach within what is usual, in words."""
    relax: tuple[RelaxedLimit, ...]
    next_steps: tuple[str, ...]
    """Per plan, what a little more buys next."""
    limits: dict[str, NotNegative]
    stacks: int
    proven: bool
    gap_db: float
    if_changed: tuple[str, ...]
