"""Steps that somebody split: some pieces now, the rest as a step of its own."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from shapely import Polygon

from ...figures.job_figures import JobFigures
from ...fitting.history import StepHistory, StepRef
from ...words import plural
from .laying import step_pieces, used_of
from .model import Draft


def split(job: JobFigures, plan: Sequence[Draft], found: Mapping[StepRef, StepHistory]) -> list[Draft]:
    """Each step that was split as two: pieces, minutes and what it takes shared by area; whoever waited for it waits for both.

    Pieces that were cut otherwise since, so that none of them begins the rest, leave it whole.
    """
    out: list[Draft] = []
    parted: dict[StepRef, StepRef] = {}
    for draft in plan:
        told = found.get(draft.ref)
        pieces = step_pieces(draft.cut) if told is not None and told.split_at else ()
        at = next((k for k, p in enumerate(pieces) if told is not None and p.id == told.split_at), 0)
        if not at:
            out.append(draft)
            continue
        areas = [Polygon(p.outline_mm, p.holes_mm).area for p in pieces]
        share = sum(areas[:at]) / (sum(areas) or 1.0)
        parted[draft.ref] = draft.ref.parted(1)
        first, last = pieces[at - 1].label, pieces[at].label
        rest = plural(len(pieces) - at, "piece")
        out += [
            _part(job, draft, share)._replace(span=(0, at), waits=0.0, text=f"{draft.text} Up to {first}; {rest} later."),
            _part(job, draft, 1 - share)._replace(ref=parted[draft.ref], span=(at, None), after=(*draft.after, draft.ref),
                                                  what=f"{draft.what}, the rest", text=f"{draft.text} The rest, from {last} on.")]
    return [d._replace(after=tuple(x for r in d.after for x in ((r, parted[r]) if r in parted and d.ref != parted[r] else (r,))))
            for d in out] if parted else out


def _part(job: JobFigures, draft: Draft, share: float) -> Draft:
    used = tuple(used_of(job.shelf.material(c.material), c.amount * share, c.unit) for c in draft.consumables)
    return draft._replace(minutes=draft.minutes * share, consumables=used)
