"""Reads the shipped data once into the core's shelf."""

from __future__ import annotations

import hashlib
import tomllib
from functools import cache
from importlib import resources
from pathlib import Path
from typing import Any

from ..core.builds.rooms import Rooms
from ..core.fitting.afterwards import Look
from ..core.fitting.procedures import Procedures
from ..core.job.shelf import Method, Shelf, SourceSpectrum
from ..core.levels.context import ContextItem
from ..core.materials.model import Material, composed
from ..core.paths.offers import Offers
from ..core.rules.engine import Rule
from ..core.schema import parse


def _digest(folder: Path, pattern: str) -> str:
    found = hashlib.sha256()
    for file in sorted(folder.rglob(pattern)):
        found.update(file.relative_to(folder).as_posix().encode() + b"\0" + file.read_bytes())
    return found.hexdigest()[:12]


_HERE = Path(__file__).parent
MODEL_REVISION = _digest(_HERE.parent / "core", "*.py")
"""Of the core's code: any change of it may change a figure, so what was computed by another is older."""
MATERIALS = ("panels", "boards", "damping", "foams", "barriers", "combined", "porous", "lines", "goods", "consumables")
SHELF_REVISION = _digest(_HERE / "data", "*.toml")


def _read(name: str) -> dict[str, Any]:
    return tomllib.loads((resources.files(__package__) / "data" / f"{name}.toml").read_text("utf-8"))


def _listed(data: object) -> object:
    """TOML arrays as tuples and whole numbers as floats, as the strict types ask."""
    if isinstance(data, dict):
        return {k: _listed(v) for k, v in data.items()}
    return tuple(_listed(v) for v in data) if isinstance(data, list) else data


@cache
def shelf() -> Shelf:
    """The shipped shelf, validated. BadInput if the data are broken."""
    methods = _read("methods")
    materials = [parse(Material, _listed(m), f"materials/{name}.toml: {m['id']}")
                 for name in MATERIALS for m in _read(f"materials/{name}")["material"]]
    spectra = [parse(SourceSpectrum, _listed(s), f"spectra.toml: {s['id']}") for s in _read("spectra")["spectrum"]]
    ways = [parse(Method, m, f"methods.toml: {m['id']}") for m in methods["method"]]
    return Shelf(
        materials=composed({m.id: m for m in materials}),
        spectra={s.id: s for s in spectra},
        methods={m.id: m for m in ways},
        different_instrument_db=methods["different_instrument_db"], control_setup_db=methods["control_setup_db"],
        contexts=tuple(parse(ContextItem, _listed(c), f"contexts.toml: {c['item']}") for c in _read("contexts")["context"]),
        rules=tuple(parse(Rule, r, f"rules.toml: {r['id']}") for r in _read("rules")["rule"]),
        hazards=_read("hazards")["hazards"],
        offers=_offers(),
        procedures=_procedures(),
        rooms=_rooms(),
        look_again=tuple(parse(Look, _listed(x), f"afterwards.toml: {x['id']}") for x in _read("afterwards")["look"]),
    )


def _offers() -> Offers:
    data = _read("trace")
    cures = [{("kinds" if k == "for" else k): v for k, v in cure.items()} for cure in data["cure"]]
    parts = {"templates": data["template"], "spots": data["spot"], "cures": cures, "source_measures": data["source_measure"],
             "hints": data["hint"], "where": data["where"], "starts": _read("starts")["start"]}
    listed = {k: tuple(_listed(x) for x in v) for k, v in parts.items()}
    return parse(Offers, {**listed, "caps_db": data["caps_db"], "usual_depth_mm": data["usual_depth_mm"]}, "trace.toml")


def _procedures() -> Procedures:
    data = _read("procedures")
    return parse(Procedures, {"procedures": _listed(data["procedure"]), "also": _listed(data["also"])}, "procedures.toml")


def _rooms() -> Rooms:
    data = _read("rooms")
    return parse(Rooms, {"surfaces": {x["id"]: _listed(x) for x in data["surface"]}, "uses": {x["id"]: x for x in data["use"]},
                         "air_per_m": _listed(data["air_per_m"]), "person_m2": _listed(data["person_m2"])}, "rooms.toml")
