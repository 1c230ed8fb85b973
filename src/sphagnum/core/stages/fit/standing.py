"""How the steps of the plan stand: whose history is theirs, and what they asked for when they were done."""

from __future__ import annotations

from typing import NamedTuple

from ...figures.job_figures import JobFigures, once
from ...fitting.history import StepHistory, StepRef, passed_on
from ...fitting.rows import StepEvent
from ...fitting.warming import warm_minutes
from ...words import plural
from .drafting import drafts, events, told
from .laying import step_pieces
from .model import Draft, StepPiece, StepTimer


class Stands(NamedTuple):
    """A step as the plan has it, what happened to it, and under which name that is told."""

    draft: Draft
    history: StepHistory
    told_as: StepRef

    @property
    def over(self) -> bool:
        """Whether it is done, or left out."""
        return self.history.done or bool(self.history.skipped)

    @property
    def asked_then(self) -> str:
        """What it said when it was done, or begun, where the plan asks for something else by now; else empty."""
        h = self.history
        if h.done:
            return h.text if h.text != self.draft.text else ""
        lost = len(set(h.laid) - {p.id for p in pieces_of(self.draft)}) if h.laid else 0
        return f"{plural(lost, 'piece')} laid by then {'is' if lost == 1 else 'are'} cut otherwise now." if lost else ""


def pieces_of(draft: Draft) -> tuple[StepPiece, ...]:
    """The pieces a step lays, in their order."""
    return step_pieces(draft.cut)[slice(*draft.span)]


@once
def warmth(job: JobFigures) -> StepEvent | None:
    """How warm it was when somebody looked last."""
    return next((e for e in reversed(events(job)) if e.what == "temperature"), None)


@once
def standing(job: JobFigures) -> tuple[Stands, ...]:
    """All steps of the order, and how each stands."""
    found, last = told(job), warmth(job)
    plan = [_warmed(d, last) for d in drafts(job)]
    taken = {d.ref for d in plan}
    out: list[Stands] = []
    for draft in plan:  # what was done of one layer passes to one
        name = _whose(job, found, draft, taken)
        taken.add(name)
        out.append(Stands(draft, _laid_in_parts(found, name), name))
    return tuple(out)


def _kin(job: JobFigures, draft: Draft) -> list[StepRef]:
    """Other names a step goes by: of an access that surfaces share, those of each of them."""
    if not draft.access:
        return []
    return [draft.ref.model_copy(update={"surface_id": s.id}) for s in job.doc.surfaces if s.shares_access == draft.access]


def _whose(job: JobFigures, found: dict[StepRef, StepHistory], draft: Draft, taken: set[StepRef]) -> StepRef:
    """Under which name it is told what happened to a step: its own, another it goes by, that of a layer like it that is gone and
    nobody has ``taken``."""
    if draft.ref in found:
        return draft.ref
    kin = next((r for r in _kin(job, draft) if r in found), None)
    return kin or passed_on(found, draft.ref, draft.like, taken) or draft.ref


NOTHING = StepHistory()
"""Of a step that nothing happened to."""


def _laid_in_parts(found: dict[StepRef, StepHistory], ref: StepRef) -> StepHistory:
    """What happened to a step; of one that is or was split, what was laid of either part."""
    if not found:
        return NOTHING
    own, other = found.get(ref, NOTHING), found.get(ref.parted(1 - ref.part))
    return own if other is None else own.model_copy(update={"laid": (*own.laid, *other.laid)})


def _warmed(draft: Draft, last: StepEvent | None) -> Draft:
    """With the clock of a product that was too cold when somebody looked last."""
    if draft.wants_c is None or last is None or last.product_c is None:
        return draft
    minutes = warm_minutes(draft.kg_m2, last.product_c, draft.wants_c)
    clock = StepTimer(name="warm-up", minutes=minutes, then="lay it while it is warm")
    return draft._replace(timers=(clock, *draft.timers)) if minutes else draft
