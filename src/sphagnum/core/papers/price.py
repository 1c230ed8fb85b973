"""The one sum of an offer: material, labour, what is put on both, tax; each rounded half up to a hundredth."""

from __future__ import annotations

from decimal import ROUND_HALF_UP, Decimal

from ..schema import Strict

HUNDREDTH = Decimal("0.01")


class Price(Strict):
    """What a plan is offered for, in the job's currency."""

    material: float
    labour: float
    margin: float
    """Put on material and labour."""
    net: float
    tax: float
    gross: float
    currency: str


def half_up(amount: Decimal) -> Decimal:
    """An amount to a hundredth, halves up, as a hand rounds it."""
    return amount.quantize(HUNDREDTH, ROUND_HALF_UP)


def price_of(material: float, hours: float, per_hour: float, margin_percent: float, tax_percent: float, currency: str) -> Price:
    """The sum for material that costs so much and so many hours; shares in percent. Each figure follows from those before it as
    they are printed."""
    goods = half_up(_exact(material))
    labour = half_up(_exact(hours) * _exact(per_hour))
    margin = half_up(_exact(margin_percent) / 100 * (goods + labour))
    net = goods + labour + margin
    tax = half_up(_exact(tax_percent) / 100 * net)
    return Price(
        material=float(goods),
        labour=float(labour),
        margin=float(margin),
        net=float(net),
        tax=float(tax),
        gross=float(net + tax),
        currency=currency,
    )


def _exact(value: float) -> Decimal:
    """As it is written: 0.1 is a tenth."""
    return Decimal(repr(float(value)))
