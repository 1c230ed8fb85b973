"""The one sum of an offer, worked out by hand."""

from __future__ import annotations

from sphagnum.core.papers.price import price_of


def test_the_sum_is_rounded_half_up_in_its_order() -> None:
    """Material 314.80; 8.2 h at 50; 15 % on 724.80 is 108.72; net 833.52; 20 % of it 166.704, said 166.70; together 1000.22."""
    got = price_of(314.8, 8.2, 50.0, 15.0, 20.0, "€")
    assert (got.material, got.labour, got.margin, got.net, got.tax, got.gross) == (314.8, 410.0, 108.72, 833.52, 166.7, 1000.22)


def test_a_half_goes_up_where_a_float_lies_below_it() -> None:
    """1.005 is less than a half cent over 1 as a float, and a half cent over 1 as it is written; so is 2.675."""
    assert price_of(1.005, 0, 0, 0, 0, "€").material == 1.01
    assert price_of(2.675, 0.1, 0.25, 0, 0, "€").material == 2.68
    assert price_of(0, 0.1, 0.25, 0, 0, "€").labour == 0.03  # 0.025 h·€
    assert price_of(10.0, 0, 0, 0, 12.25, "€").tax == 1.23  # 1.225
