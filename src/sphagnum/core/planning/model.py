"""What ``plan`` reads and prints: paths with options, limits and a target; plans with their sums and why."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from ..paths.budget import BudgetPath, Curve, Receiver, Spectrum
from ..schema import Level, NotNegative, Number, Positive, Strict
from ..stacks.model import Stack

Name = Annotated[str, Field(min_length=1, max_length=200)]
Loss = Annotated[float, Field(ge=-1e6, le=1e6, strict=True, allow_inf_nan=False)]


class PlanOption(Strict):
    """One thing that could be done to a path: another stack, curve or level, and what that costs in all."""

    id: Name
    stack: Stack | None = None
    transmission_loss_db: Curve | None = None
    level_db: Spectrum | None = None
    added_kg: Loss = 0.0
    money: NotNegative = 0.0
    hours: NotNegative = 0.0
    depth_mm: NotNegative = 0.0
    needs: tuple[Name, ...] = ()
    uses: dict[str, NotNegative] = {}

    @model_validator(mode="after")
    def _one_effect(self) -> PlanOption:
        given = [n for n in ("stack", "transmission_loss_db", "level_db") if getattr(self, n) is not None]
        if len(given) != 1:
            raise ValueError("an option needs one of stack, transmission_loss_db or level_db; "
                             f"this one has {' and '.join(given) or 'none'}")
        return self


class PlanPath(BudgetPath):
    """A path as in ``trace``, with what could be done to it; ``must``: something has to be."""

    depth_limit_mm: NotNegative | None = None
    must: bool = False
    options: Annotated[tuple[PlanOption, ...], Field(max_length=20_000)] = ()


class Once(Strict):
    """What is paid once, however many options need it."""

    added_kg: NotNegative = 0.0
    money: NotNegative = 0.0
    hours: NotNegative = 0.0


class Pack(Strict):
    """How a material is bought: its pack size and price, and how much of it there is; sizes in the unit of ``uses``."""

    size: Positive
    money: NotNegative = 0.0
    on_hand: NotNegative = 0.0


class PlanLimits(Strict):
    """The most a plan may add, cost and take; what is left out does not bind."""

    added_kg: Number | None = None
    money: Number | None = None
    hours: Number | None = None


class PlanInput(Strict):
    """What ``plan`` reads."""

    receiver: Receiver
    quantity: Literal["dBA", "dBC", "low"] = "dBA"
    spectrum_db: Spectrum
    paths: tuple[PlanPath, ...] = Field(min_length=1, max_length=200)
    once: dict[str, Once] = {}
    packs: dict[str, Pack] = {}
    limits: PlanLimits = PlanLimits()
    target_reduction_db: Annotated[Level, Field(ge=0)] | None = None
    seconds: Annotated[float, Field(gt=0, le=600, strict=True, allow_inf_nan=False)] = 20.0


class PlanPoint(Strict):
    """A plan: its reduction at the listener, what it adds, costs and takes, the option of each treated path, and why."""

    reduction_db: float
    added_kg: float
    money: float
    hours: float
    choice: dict[str, str]
    why: str


class Relaxed(Strict):
    """A limit that alone would have to give, and how far."""

    limit: Literal["added_kg", "money", "hours"]
    to: float


class PlanResult(Strict):
    """What ``plan`` prints; ``best`` and ``cheapest`` are places in ``pareto``."""

    now_dba: float | None
    most_reduction_db: float
    best: int | None
    cheapest: int | None
    reached: bool
    short_by_db: float
    pareto: tuple[PlanPoint, ...]
    relax: tuple[Relaxed, ...]
    proven: bool
    gap_db: float
