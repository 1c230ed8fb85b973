"""What the work would be offered for: material as bought with what is put on it, measures, labour, tax."""

from __future__ import annotations

from ...figures.job_figures import JobFigures
from ...schema import Strict
from ...words import percent
from .budgets import JobSums


class OfferLine(Strict):
    """One line of an offer, in the job's currency."""

    label: str
    money: float


class OfferView(Strict):
    """An offer; ``lacks`` is what it does not hold because nobody knows its price, ``estimated`` what is not laid out."""

    lines: tuple[OfferLine, ...]
    total: float
    currency: str
    lacks: tuple[str, ...]
    estimated: tuple[str, ...] = ()


def offer(job: JobFigures, sums: JobSums) -> OfferView | None:
    """The offer for a job as planned; None while the workshop has not said what an hour costs, and without a plan."""
    charges = job.shelf.charges
    if charges is None or charges.labour_per_hour is None or not (sums.bought_money or sums.hours):
        return None
    chosen = sums.measures_money
    margin, tax = charges.margin_percent / 100, charges.tax_percent / 100
    lines = [OfferLine(label="Material as bought", money=round(sums.bought_money - chosen, 2))]
    if chosen:
        lines.append(OfferLine(label="Measures beside the stacks", money=round(chosen, 2)))
    if margin:
        lines.append(OfferLine(label=f"Put on both, {percent(margin)}", money=round(sums.bought_money * margin, 2)))
    lines.append(OfferLine(label=f"Work, {sums.hours:.1f} h", money=round(sums.hours * charges.labour_per_hour, 2)))
    net = sum(x.money for x in lines)
    if tax:
        lines.append(OfferLine(label=f"Tax, {percent(tax)}", money=round(net * tax, 2)))
    return OfferView(lines=tuple(lines), total=round(sum(x.money for x in lines), 2), currency=job.doc.job.currency,
                     lacks=sums.unpriced, estimated=sums.estimated)
