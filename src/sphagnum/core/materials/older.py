"""Materials as earlier versions wrote them, read as today's."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

STOCK_KEYS = ("form", "width_mm", "length_mm", "covers_m", "per_pack", "price", "sold_whole")


def upgraded_material(data: Mapping[str, Any]) -> dict[str, Any]:
    """A material of any released version in the shape of the newest: one stock form once stood for every thickness."""
    out = dict(data)
    if isinstance(out.get("stock"), Mapping):
        old, thick = dict(out["stock"]), [*out.pop("thicknesses_mm", ())]
        sold = old.get("form", "none") != "none"
        out["stock"] = tuple({**_of_tin(old, thick, mm), "thickness_mm": mm} for mm in thick or [None]) if sold else ()
        if not sold:
            out["stands_mm"] = tuple(thick)
        if out.get("family") == "line" and "minutes_per_m2" in out:  # it was for a panel of four metres round
            out["minutes_each"] = out.pop("minutes_per_m2") / 4
    limits = {new: out.pop(was) for was, new in (("closed_to_water", "wet"), ("most_c", "most_c")) if was in out}
    if limits:
        given = out.get("limits")
        out["limits"] = {**(given if isinstance(given, Mapping) else {}), **limits}
    return out


def _of_tin(stock: dict[str, Any], thick: list[float], mm: float | None) -> dict[str, Any]:
    """What a tin covers was said at the thinnest; thicker, it covers less."""
    if stock.get("form") != "piece" or not stock.get("covers_m") or not thick or mm is None:
        return stock
    return {**stock, "covers_m": stock["covers_m"] * thick[0] / mm}
