"""Reads the shipped data once into the core's shelf."""

from __future__ import annotations

from functools import cache

from ..core.builds.rooms import Rooms
from ..core.fitting.afterwards import Look
from ..core.fitting.procedures import Procedures
from ..core.job.shelf import Method, Shelf, SourceSpectrum
from ..core.levels.context import ContextItem
from ..core.paths.offers import Offers
from ..core.rules.engine import Rule
from ..core.schema import parse
from .files import listed, read
from .materials import materials


@cache
def shelf() -> Shelf:
    """The shipped shelf, validated. BadInput if the data are broken."""
    methods = read("methods")
    spectra = [parse(SourceSpectrum, listed(s), f"spectra.toml: {s['id']}") for s in read("spectra")["spectrum"]]
    ways = [parse(Method, m, f"methods.toml: {m['id']}") for m in methods["method"]]
    return Shelf(
        materials=materials(),
        spectra={s.id: s for s in spectra},
        methods={m.id: m for m in ways},
        different_instrument_db=methods["different_instrument_db"], control_setup_db=methods["control_setup_db"],
        contexts=tuple(parse(ContextItem, listed(c), f"contexts.toml: {c['item']}") for c in read("contexts")["context"]),
        rules=tuple(parse(Rule, r, f"rules.toml: {r['id']}") for r in read("rules")["rule"]),
        hazards=read("hazards")["hazards"],
        offers=_offers(),
        procedures=_procedures(),
        rooms=_rooms(),
        look_again=tuple(parse(Look, listed(x), f"afterwards.toml: {x['id']}") for x in read("afterwards")["look"]),
    )


def _offers() -> Offers:
    data = read("trace")
    cures = [{("kinds" if k == "for" else k): v for k, v in cure.items()} for cure in data["cure"]]
    parts = {"templates": data["template"], "spots": data["spot"], "cures": cures, "source_measures": data["source_measure"],
             "hints": data["hint"], "where": data["where"], "starts": read("starts")["start"]}
    rows = {k: tuple(listed(x) for x in v) for k, v in parts.items()}
    return parse(Offers, {**rows, "caps_db": data["caps_db"], "usual_depth_mm": data["usual_depth_mm"]}, "trace.toml")


def _procedures() -> Procedures:
    data = read("procedures")
    return parse(Procedures, {"procedures": listed(data["procedure"]), "also": listed(data["also"])}, "procedures.toml")


def _rooms() -> Rooms:
    data = read("rooms")
    return parse(Rooms, {"surfaces": {x["id"]: listed(x) for x in data["surface"]}, "uses": {x["id"]: x for x in data["use"]},
                         "air_per_m": listed(data["air_per_m"]), "person_m2": listed(data["person_m2"])}, "rooms.toml")
