"""A paper as it was handed over: what it said, and what became of it; and how two states of an offer differ."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Literal

from pydantic import Field

from ...job.document import PromiseIn
from ...schema import DayOrNone, Strict, as_level
from ...words import signed
from .asked import PlanAsked
from .offer import JobOffer, OfferedPlan

PaperKind = Literal["offer", "report"]
PaperState = Literal["drawing", "void", "handed over", "accepted", "refused", "lapsed"]


class Answered(Strict):
    """What the customer said to an offer: which plan, who, when, in which words."""

    plan: str = ""
    who: Annotated[str, Field(max_length=120)] = ""
    on: DayOrNone = ""
    words: Annotated[str, Field(max_length=2000)] = ""


class Handed(Strict):
    """What is kept of a paper beside its files."""

    job: str
    customer: str
    plans: tuple[PlanAsked, ...] = ()
    offer: JobOffer | None = None
    audience: str = ""
    as_found: float | None = None
    quantity: str = ""
    version_of: str = ""
    differs: tuple[str, ...] = ()
    """What it says otherwise than the one it follows."""
    answered: Answered | None = None
    why: str = ""
    """Why it is void."""
    revision: int = 0
    edit: str = ""


def promise_in(paper: Handed, number: str, plan: str, at: str) -> PromiseIn | None:
    """What an accepted plan promised, as Prove judges it; None where nothing was promised in figures, or nothing was read."""
    offered = next((p for p in paper.offer.plans if p.name == plan), None) if paper.offer is not None else None
    if offered is None or offered.change_db is None or paper.as_found is None:
        return None
    low, middle, high = (as_level(paper.as_found + x) for x in offered.change_db)
    return PromiseIn(at=at, occasion="offer", paper=number, quantity=paper.quantity, unit=offered.unit,
                     as_found_dba=paper.as_found, predicted_dba=middle, low_dba=low, high_dba=high)


def number_words(number: int, made: date) -> str:
    """A paper's number as it is said: 2026-0007."""
    return f"{made.year}-{number:04d}"


def state_on(state: PaperState, offer: JobOffer | None, today: date) -> PaperState:
    """What a paper is today: an offer nobody answered lapses after its last day."""
    lapsed = state == "handed over" and offer is not None and date.fromisoformat(offer.valid_until) < today
    return "lapsed" if lapsed else state


def differences(old: JobOffer, new: JobOffer) -> tuple[str, ...]:
    """What a later state of an offer says otherwise, plan by plan."""
    before, after = ({p.name: p for p in o.plans} for o in (old, new))
    out = [f"“{name}” is new." for name in after if name not in before]
    out += [f"“{name}” is gone." for name in before if name not in after]
    for name in (n for n in after if n in before):
        out += [f"{name}: {x}" for x in _differs(before[name], after[name])]
    if old.valid_until != new.valid_until:
        out.append(f"Valid until {new.valid_until}, before {old.valid_until}.")
    if old.heard != new.heard:
        out.append("What is heard is said otherwise.")
    if old.excluded != new.excluded:
        out.append("The terms are others.")
    if old.hazards != new.hazards:
        out.append("The hazards are others.")
    return tuple(out)


def _promised(plan: OfferedPlan) -> str:
    if plan.change_db is None:
        return "nothing in figures"
    low, middle, high = plan.change_db
    return f"{signed(middle)} {plan.unit} ({signed(low)} to {signed(high)})"


def _differs(a: OfferedPlan, b: OfferedPlan) -> list[str]:
    out = []
    if a.change_db != b.change_db:
        said = [_promised(p) for p in (a, b)]
        out.append(f"promises {said[1]}, before {said[0]}.")
    if a.price != b.price:
        out.append(f"costs {b.price.gross:.2f} {b.price.currency}, before {a.price.gross:.2f} {a.price.currency}.")
    if (a.hours, a.days) != (b.hours, b.days):
        out.append(f"takes {b.hours:.1f} h in {b.days} days, before {a.hours:.1f} h in {a.days}.")
    if a.added_kg != b.added_kg:
        out.append(f"weighs {b.added_kg:.1f} kg, before {a.added_kg:.1f} kg.")
    if a.does != b.does or a.does_not != b.does_not:
        out.append("does otherwise.")
    return out
