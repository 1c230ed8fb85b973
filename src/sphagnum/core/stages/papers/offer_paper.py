"""The offer as a document: what is heard, what carries it, the plans side by side, what each will not do, price and terms."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from ...figures.goal import GoalRule, goal_rule
from ...figures.job_figures import JobFigures
from ...figures.outlook import ahead_of
from ...job.document import JobDocument
from ...job.workshop import TERMS, WorkshopIn
from ...papers.blocks import Block, Paper, PaperSection, PathsBlock, RuleBlock, RuleMark, Sentence, TableBlock
from ...papers.price import Price
from ...worded import of
from ...words import plural, signed
from .asked import PlanAsked, job_of
from .offer import JobOffer, OfferedPlan
from .promises import change_words, ways_in

CONCERN = ("airbag", "battery", "old-building", "lead", "isocyanates", "machine-heat", "electric")
"""Hazards that concern the customer too: what wants a licence, a look beforehand, or air for a machine."""


def offer_paper(offer: JobOffer, job: JobFigures, doc: JobDocument, asked: Sequence[PlanAsked] = ()) -> Paper:
    """The document of an offer. ``job``: as chosen; ``asked``: the plans it was made of; ``doc``: the job's words too."""
    workshop = job.shelf.charges or WorkshopIn()
    plans = [job_of(job, p) for p in asked] or [job]
    number = f" {offer.number}" if offer.number else ""
    sections = [_heard(offer, job), _carried(job), *_proposed(offer, plans, workshop), _terms(offer, job, doc, workshop)]
    return Paper(
        title=f"Offer{number}: {doc.job.name}",
        mark=workshop.mark,
        sub=_sub(offer, doc, workshop),
        foot=" · ".join(x for x in (workshop.name or doc.job.workshop, workshop.address.replace("\n", ", ")) if x),
        sections=tuple(s for s in sections if s is not None and s.blocks),
    )


def _sub(offer: JobOffer, doc: JobDocument, workshop: WorkshopIn) -> str:
    whose = " · ".join(x for x in (doc.job.customer, workshop.name or doc.job.workshop) if x)
    return f"{whose}{' · ' * bool(whose)}{day_words(offer.on)}, valid until {day_words(offer.valid_until)}"


def day_words(day: str) -> str:
    """A day as a letter writes it: 29 November 2026."""
    then = date.fromisoformat(day)
    return f"{then.day} {then:%B} {then.year}"


def _heard(offer: JobOffer, job: JobFigures) -> PaperSection:
    rule = goal_rule(job, ahead_of(job))
    return PaperSection(
        title="What is heard", blocks=(Sentence(text=offer.heard), *((rule_block(rule.model_copy(update={"marks": tuple(
            m for m in rule.marks if m.name != "measured")})),) if rule is not None else ()))
    )


def rule_block(rule: GoalRule, promised: tuple[float, float] | None = None, words: str = "") -> RuleBlock:
    """The goal's rule with what is known on it."""
    return RuleBlock(
        unit=rule.unit,
        low=rule.low,
        high=rule.high,
        promised=promised,
        words=words,
        marks=tuple(
            RuleMark(name=m.name, value=m.value, within=rule.predicted_within if m.name == "predicted" else None)
            for m in rule.marks
        ),
    )


def _carried(job: JobFigures) -> PaperSection | None:
    ways = ways_in(job)
    if not ways:
        return None
    return PaperSection(
        title="What carries it",
        blocks=(
            PathsBlock(
                title="Ways in by their share of what is heard now, and what is expected to be left of each",
                paths=ways,
                then="as planned",
            ),
        ),
    )


def _proposed(offer: JobOffer, plans: Sequence[JobFigures], workshop: WorkshopIn) -> list[PaperSection]:
    out = [PaperSection(title="What we propose", blocks=(_beside(offer.plans, workshop),))]
    for plan, job in zip(offer.plans, plans, strict=True):
        blocks: list[Block] = [Sentence(text=change_words(job) or "No figure can be predicted for this goal.", weight="lead")]
        blocks += [Sentence(text=x, weight="point") for x in plan.does]
        if plan.does_not:
            blocks.append(Sentence(text="What it will not do:", weight="plain"))
            blocks += [Sentence(text=x, weight="point") for x in plan.does_not]
        out.append(PaperSection(title=plan.name[:1].upper() + plan.name[1:], blocks=tuple(blocks)))
    return out


def _beside(plans: Sequence[OfferedPlan], workshop: WorkshopIn) -> TableBlock:
    """The plans side by side, what each gives and costs."""

    def row(name: str, cells: Sequence[str]) -> tuple[str, ...]:
        return (name, *cells)

    money = [lines_of(p.price, p.hours, workshop.offer_shows == "one sum") for p in plans]
    rows = [
        row("Expected change", ["–" if p.change_db is None else f"{signed(p.change_db[1])} {p.unit}" for p in plans]),
        row(
            "In 95 of 100 between",
            ["–" if p.change_db is None else f"{signed(p.change_db[0])} and {signed(p.change_db[2])} {p.unit}" for p in plans],
        ),
        row("Added weight", [of(p.added_kg, "kg", ".1f") for p in plans]),
        row("Work", [f"{p.hours:.1f} h, {plural(p.days, 'day')}" for p in plans]),
        *(row(name, [cells[i][1] for cells in money]) for i, (name, _) in enumerate(money[0])),
    ]
    return TableBlock(
        head=("", *(p.name[:1].upper() + p.name[1:] for p in plans)),
        rows=tuple(rows),
        right=tuple(range(1, len(plans) + 1)),
        last_is_sum=True,
    )


def lines_of(price: Price, hours: float, one_sum: bool) -> list[tuple[str, str]]:
    """A price line by line, as one sum or as material and labour; what is put on both is shared out and stands on no paper."""

    def amount(value: float) -> str:
        return f"{value:,.2f} {price.currency}".replace(",", "\u202f")

    both = price.material + price.labour
    lines = []
    if not one_sum and both:
        material = round(price.net * price.material / both, 2)
        lines += [("Material", amount(material)), (f"Labour, {hours:.1f} h", amount(round(price.net - material, 2)))]
    return [*lines, ("Net", amount(price.net)), ("Tax", amount(price.tax)), ("Price", amount(price.gross))]


def _terms(offer: JobOffer, job: JobFigures, doc: JobDocument, workshop: WorkshopIn) -> PaperSection:
    blocks: list[Block] = [Sentence(text=f"This offer holds until {day_words(offer.valid_until)}.")]
    for block, words in TERMS.items():
        texts = [t.text for t in workshop.terms if t.block == block and t.suits(doc.job.kind) and t.text]
        if texts:
            blocks.append(Sentence(text=f"{words}: {' '.join(texts)}"))
    concern = [h for h in offer.hazards if h in {job.shelf.hazards.get(name) for name in CONCERN}]
    if concern:
        blocks.append(Sentence(text="Where care or a licence is needed:"))
        blocks += [Sentence(text=h, weight="point") for h in concern]
    return PaperSection(title="On these terms", blocks=tuple(blocks))
