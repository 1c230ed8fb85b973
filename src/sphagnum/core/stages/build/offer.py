"""What the work would be offered for: the one sum, as Build shows it from inside and as an offer takes it."""

from __future__ import annotations

from ...errors import BadInput
from ...figures.job_figures import JobFigures
from ...job.workshop import WorkshopIn
from ...papers.price import Price, price_of
from ...schema import Strict
from ...words import listed, percent
from ..cut.bought import used_up
from ..cut.laid_out import bought
from ..fit.view import hours_of
from .budgets import JobSums, job_sums


class OfferLine(Strict):
    """One line of an offer, in the job's currency."""

    label: str
    money: float


class OfferView(Strict):
    """What the plan would be offered for, from inside; ``lacks`` is what it does not hold because nobody knows its price,
    ``estimated`` what is not laid out."""

    lines: tuple[OfferLine, ...]
    total: float
    currency: str
    lacks: tuple[str, ...]
    estimated: tuple[str, ...] = ()


def offer_view(job: JobFigures, sums: JobSums) -> OfferView | None:
    """The sum for a job as planned; None while the workshop has not said what an hour costs, and without a plan."""
    charges = job.shelf.charges
    if charges is None or charges.labour_per_hour is None or not (sums.bought_money or sums.hours):
        return None
    price, hours = _price(job, charges, charges.labour_per_hour)
    lines = [OfferLine(label="Material", money=price.material), OfferLine(label=f"Labour, {hours:.1f} h", money=price.labour)]
    if price.margin:
        lines.append(OfferLine(label=f"Put on both, {percent(charges.margin_percent / 100)}", money=price.margin))
    if price.tax:
        lines.append(OfferLine(label=f"Tax, {percent(charges.tax_percent / 100)}", money=price.tax))
    return OfferView(
        lines=tuple(lines), total=price.gross, currency=price.currency, lacks=sums.unpriced, estimated=sums.estimated
    )


def price_now(job: JobFigures, charges: WorkshopIn) -> tuple[Price, float]:
    """The price of a job as planned, and the hours it charges. BadInput where an hour or something to buy has no known price."""
    if charges.labour_per_hour is None:
        raise BadInput("nobody knows what an hour of work costs", "labour_per_hour", "say it on the Shelf, under Workshop")
    lacks = job_sums(job).unpriced
    if lacks:
        raise BadInput(f"no price is known of {listed(lacks)}", "prices", "give it on the Shelf, or plan without it")
    return _price(job, charges, charges.labour_per_hour)


def _price(job: JobFigures, charges: WorkshopIn, per_hour: float) -> tuple[Price, float]:
    """Material as bought and from the shelf at list price, offcuts for nothing, with what is used up; labour at pace 1, by the
    hours as they are said."""
    material = sum((b.money or 0.0) + b.stock_money for b in (*bought(job).buy, *used_up(job)))
    hours = round(hours_of(job) / job.shelf.pace, 1)
    return price_of(round(material, 4), hours, per_hour, charges.margin_percent, charges.tax_percent, job.doc.job.currency), hours
