"""The report of a finished job as a document: the proof on one page, what was done, and the figures for the technical reader."""

from __future__ import annotations

from datetime import date
from typing import Literal

from ...errors import BadInput
from ...figures.goal import GoalRule, goal_rule, goal_words
from ...figures.job_figures import JobFigures
from ...figures.outlook import ahead_of
from ...job.document import JobDocument, Photo
from ...papers.blocks import (
    Block,
    Paper,
    PaperSection,
    PathsBlock,
    PhotographsBlock,
    Picture,
    Sentence,
    SoundBlock,
    StairsBlock,
    Step,
)
from ...words import listed, percent
from ..fit.done import fit_view
from ..prove.promise import judged_promise
from ..prove.view import ProveView, prove
from .offer_paper import day_words, rule_block
from .promises import ways_in
from .report_technical import technical
from .report_work import done_in_brief, work

Audience = Literal["customer", "technical", "own"]
LEAST_SHARE = 0.03
HEARD_S = 8.0


def report(job: JobFigures, doc: JobDocument, on: date | None, audience: Audience) -> Paper:
    """The report of a job. ``doc``: its words too; ``on``: its day, that of the last round where none is said. BadInput without
    a goal."""
    if doc.goal is None:
        raise BadInput("nothing can be reported without a goal", "goals", "set one in Listen")
    seen = prove(job)
    sections = [_proof(job, doc, seen), *work(job, doc, seen, audience), *_ways(job, seen)]
    if audience != "customer":
        sections += technical(doc, seen)
    workshop = doc.job.workshop
    whose = [doc.job.customer, workshop, day_words(_day(doc, on))]
    charges = job.shelf.charges
    return Paper(
        mark="" if charges is None else charges.mark,
        title=f"{doc.job.name}: {'result' if seen.after else 'as it stands'}",
        sub=" · ".join(x for x in whose if x),
        foot=" · ".join(x for x in (workshop, doc.job.name) if x),
        sections=tuple(s for s in sections if s.blocks),
    )


def _day(doc: JobDocument, on: date | None) -> str:
    """The day a report is of: as asked, else of the last round that has one, else today's."""
    days = [r.taken_on for r in doc.rounds if r.taken_on]
    return on.isoformat() if on is not None else max(days, default=date.today().isoformat())


def _proof(job: JobFigures, doc: JobDocument, seen: ProveView) -> PaperSection:
    """The page for the customer: verdict, rule, pictures, stairs, what was done, whether it was fair, when to look again."""
    rule = goal_rule(job, ahead_of(job))
    blocks: list[Block] = [Sentence(text=seen.sentence, weight="lead"), Sentence(text=seen.detail)]
    blocks.append(Sentence(text=f"Wanted: {goal_words(doc)}" if goal_words(doc) else ""))
    if rule is not None:
        blocks.append(rule_block(rule, promised_range(doc, rule), seen.promised))
    blocks += _first_photographs(doc.photos)
    if len(seen.stairs) > 1:
        goal = doc.goal
        blocks.append(
            StairsBlock(
                unit=seen.unit,
                goal=rule.target if rule is not None and goal is not None else None,
                steps=tuple(
                    Step(name=s.name, level=round(s.level_db, 1), change=s.change_db, comparable=s.comparable)
                    for s in seen.stairs
                ),
            )
        )
    brief = done_in_brief(job)
    blocks += [Sentence(text="What was done:", weight="plain")] * bool(brief) + [Sentence(text=x, weight="point") for x in brief]
    blocks.append(Sentence(text=f"Was it a fair comparison? {seen.fair.words}" if seen.fair.words else ""))
    again = fit_view(job).look_again
    if again:
        blocks.append(Sentence(text="To be looked at again:"))
        blocks += [Sentence(text=f"{day_words(x.due_on)}: {x.what[:1].lower()}{x.what[1:]}", weight="point") for x in again[:4]]
    if seen.next_step:
        blocks.append(Sentence(text=seen.next_step))
    blocks += _sounds(doc, seen)
    return PaperSection(title="What changed", blocks=tuple(b for b in blocks if not isinstance(b, Sentence) or b.text))


def _sounds(doc: JobDocument, seen: ProveView) -> list[Block]:
    """How it sounded at the goal's place in both rounds, where both were recorded; from where the reading's window begins."""
    found: list[Block] = []
    for number, name in ((seen.before_id, seen.before), (seen.after_id, seen.after)):
        at = (number, doc.goal.position_id, doc.goal.condition_id) if doc.goal is not None else None
        reading = next((r for r in doc.readings if r.sound and (r.round_id, r.position_id, r.condition_id) == at), None)
        if reading is not None:
            start = reading.window_s[0] if reading.window_s is not None else 0.0
            found.append(SoundBlock(title=f"To hear: {name}", file=reading.sound, from_s=start, to_s=start + HEARD_S))
    return found if len(found) == 2 else []


def promised_range(doc: JobDocument, rule: GoalRule) -> tuple[float, float] | None:
    """The range that was promised, in the rule's unit; None where nothing was."""
    promise = judged_promise(doc)
    return None if promise is None or rule.unit != promise.unit else (promise.low_dba, promise.high_dba)


def _first_photographs(photos: tuple[Photo, ...]) -> list[Block]:
    """Before and after beside each other: of one place where one was taken both times."""
    befores, afters = ([p for p in photos if p.when == when] for when in ("before", "after"))
    pairs = [(b, a) for b in befores for a in reversed(afters) if _place(a) == _place(b) != (None, None, None)]
    before, after = pairs[0] if pairs else (next(iter(befores), None), next(reversed(afters), None))
    shown = [
        Picture(file=p.file, caption=f"{name}{f': {p.caption}' if p.caption else ''}")
        for name, p in (("Before", before), ("After", after))
        if p is not None
    ]
    return [PhotographsBlock(pictures=tuple(shown))] if shown else []


def _place(photo: Photo) -> tuple[int | None, int | None, int | None]:
    return photo.position_id, photo.surface_id, photo.rattle_id


def _ways(job: JobFigures, seen: ProveView) -> list[PaperSection]:
    ways = ways_in(job)
    if not ways:
        return []
    blocks: list[Block] = [
        PathsBlock(
            title="Ways in by their share of what was heard as found, and as predicted now", paths=ways, then="now, as predicted"
        )
    ]
    if seen.loudest_now:
        blocks.append(
            Sentence(
                text="Loudest now, as predicted: "
                + listed([f"{p.name} ({percent(p.share)})" for p in seen.loudest_now if p.share >= LEAST_SHARE])
                + "."
            )
        )
        top = seen.loudest_now[0]
        if top.ceiling_db is not None:
            blocks.append(Sentence(text=f"Closing {top.name} as well would give {top.ceiling_db:.1f} dB(A) more at most."))
    return [PaperSection(title="What carries it", blocks=tuple(blocks))]
