"""What was found at the job: treatment already there, leaks, rattles with their cures."""

from __future__ import annotations

from ...figures.job_figures import JobFigures
from ...figures.readings import repeatability
from ...paths.rows import LeakFound, Rattle
from ...schema import Strict
from ...worded import of
from ...words import listed


class SurveyView(Strict):
    """The present treatment of one surface: what it is, its state, what to do with it, and what that means."""

    surface_id: int
    name: str
    present: str
    state: str
    do: str
    words: str


class LeakView(Strict):
    """A leak found, and what sealing it did."""

    id: int
    place: str
    sealed: bool
    drop_db: float | None
    words: str


class RattleView(Strict):
    """A rattle with its cure."""

    id: int
    kind: str
    place: str
    frequency_hz: float | None
    done: bool
    cure: str
    cure_id: str
    material: str
    photo: str


ADVICE = {
    "whole": "Whole: keep it as a base unless it holds water or stands in the way.",
    "missing": "Missing: what the maker had here is the first thing to put back.",
    "broken": "Broken: a gap in it lets the noise round the rest; restore or replace it.",
    "worn": "Worn: crushed fibre parts nothing any more; replace it.",
    "glued": "Glued down hard: scraping it off costs hours; building on it saves them.",
}
DOES = {
    "keep": "Kept as it is: count its weight, not its price.",
    "restore": "Restored: put back what the maker had, with the same kind of damping.",
    "replace": "Taken out and replaced: plan its removal and its waste.",
    "build on": "Built on: what goes over it must stick to it, not to the panel.",
}


def survey_views(job: JobFigures) -> tuple[SurveyView, ...]:
    """One line per surface."""
    out = []
    for s in job.doc.surfaces:
        names = [job.shelf.material(x.material).name for x in s.present]
        unseen = "Look at it: whole, broken, worn or glued?" if s.present else "Nothing lies here as far as is known."
        words = DOES.get(s.survey_do) or ADVICE.get(s.survey, unseen)
        out.append(SurveyView(surface_id=s.id, name=s.name, present=listed(names) or "nothing", state=s.survey, do=s.survey_do,
                              words=words))
    return tuple(out)


def leak_view(job: JobFigures, leak: LeakFound) -> LeakView:
    """A leak in words; a drop by sealing inside one reading's scatter is said to show nothing."""
    drop = None if leak.before_db is None or leak.after_db is None else round(leak.before_db - leak.after_db, 2)
    size = f"{of(leak.area_cm2, 'cm²')}, " if leak.area_cm2 is not None else ""
    state = "sealed" if leak.sealed else "open"
    words = f"{size}found by {leak.how}; {state}"
    way = next((p.name for p in job.doc.paths if p.id == leak.path_id), None)
    if leak.area_cm2 is not None:
        words += f"; counted with {way[0].lower()}{way[1:]}" if way else "; in no budget: say which way in it belongs to"
    if drop is not None:
        limit = 2 * 2**0.5 * repeatability(job)
        words += f"; {drop:.1f} dB less after sealing" if drop >= limit else (
            f"; {drop:.1f} dB between single readings shows nothing, under {limit:.1f} dB")
    return LeakView(id=leak.id, place=leak.place, sealed=leak.sealed, drop_db=drop, words=f"{words}.")


def rattle_view(job: JobFigures, rattle: Rattle) -> RattleView:
    """A rattle with the cure chosen, or the first for its kind."""
    cure = job.shelf.offers.cure(rattle.kind, rattle.cure)
    photo = next((p.file for p in job.doc.photos if p.rattle_id == rattle.id), "")
    return RattleView(
        id=rattle.id, kind=rattle.kind, place=rattle.place, frequency_hz=rattle.frequency_hz, done=rattle.done,
        cure=cure.text if cure else "", cure_id=cure.id if cure else "",
        material=job.shelf.material(cure.material).name if cure else "", photo=photo,
    )
