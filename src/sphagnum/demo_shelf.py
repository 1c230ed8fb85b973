"""What the made-up workshop owns: its name, materials of its own, an offcut, the template of a door."""

from __future__ import annotations

from typing import Any

from sqlalchemy.orm import Session, sessionmaker

from .catalogue.load import shelf
from .core.job.operations import setting
from .core.job.shelf_changes import plain
from .core.schema import parse
from .core.surfaces.rows import SurfaceIn
from .core.surfaces.taped import read_taped, taped_shape
from .core.surfaces.twins import mirrored
from .demo_bench import bench_series
from .store.documents import WORKSHOP, workshop
from .store.edits import Editor, OneEdit

CUSTOMER, WORKSHOP_NAME = "Tansy Row Bakehouse", "Fenwick & Daughter Quiet Works"
Row = dict[str, Any]
MEASURED = "template FD-L, measured 2026-10-12"


def plain_door() -> Row:
    """The inner side of a front door's skin: its upper edge taped off a chalk line, two drains, a row of fixings, a loudspeaker;
    reached through the opening behind the trim."""
    outline = taped_shape(read_taped({
        "kind": "offsets", "length_mm": 1040, "curve": "smooth",
        "left": [[0, 470], [260, 560], [520, 590], [780, 575], [1040, 500]]}, "demo")).outline_mm
    fixings = [{"kind": "fixing", "shape": "circle", "x_mm": 150 + 90 * n, "y_mm": 430, "width_mm": 8, "height_mm": 8}
               for n in range(6)]
    drains = [{"kind": "drain", "x_mm": x, "y_mm": 0, "width_mm": 40, "height_mm": 15} for x in (180, 780)]
    speaker = {"kind": "loudspeaker", "at_mm": [240, 190], "diameter_mm": 165}
    return {"name": "Front door, skin", "outline_mm": outline, "substrate": {"material": "steel", "thickness_mm": 0.8},
            "keep_clear": [*drains, *fixings, speaker], "flags": ["wet", "hidden"],
            "opening": {"width_mm": 420, "height_mm": 300, "x_mm": 420, "y_mm": 130}}


def front_door(name: str, other_side: bool) -> Row:
    """The door drawn from its template, or its twin."""
    one = parse(SurfaceIn, plain_door())
    found = mirrored(one) if other_side else one
    said = f"{MEASURED}, mirrored" if other_side else MEASURED
    return {**found.model_dump(mode="json"), "name": name, "made_from": said}


def own_shelf(store: sessionmaker[Session]) -> None:
    """The workshop's name, two materials of its own, and what has risen in price since the van was planned."""
    dearer = plain(shelf().material("butyl-foil"))
    dearer["stock"][1].update(price=14.6, on_hand=11, supplier="Corner Trade Counter", order_number="CT-2208",
                              priced_on="2026-11-16")
    own = [
        {"id": "own-jute", "name": "Jute felt, pressed from sacks", "family": "porous", "roles": ["decoupler", "absorber"],
         "properties": {"density_kg_m3": 95, "flow_resistivity_pa_s_m2": 26000, "conductivity_w_mk": 0.042, "vapour_mu": 2},
         "source_class": "typical", "sources": {"density_kg_m3": "measured"}, "references": {"density_kg_m3": "weighed, 0.5 m²"},
         "hold": "spray glue", "holds_overhead": True, "holds_curved": True, "comes_off": True, "minutes_per_m2": 14,
         "hazards": ["spray-glue"], "limits": {"most_c": 90},
         "stock": [{"thickness_mm": 8, "form": "sheet", "width_mm": 600, "length_mm": 1000, "price": 2.1, "on_hand": 24}]},
        {"id": "own-vinyl-felt", "name": "Arch mat: jute felt and vinyl, our own", "family": "combined",
         "roles": ["decoupler", "barrier"], "parts": ["own-jute@8", "vinyl-5@2.5"], "hold": "contact glue and hangers",
         "holds_overhead": False, "holds_curved": True, "comes_off": True, "minutes_per_m2": 24,
         "stock": [{"form": "sheet", "width_mm": 600, "length_mm": 1000, "price": 18.5, "on_hand": 6}]},
    ]
    with store() as session:
        at = workshop(session).workshop
    Editor(store, "demo").together(WORKSHOP, [
        OneEdit("workshops", (WORKSHOP, at.version), operations=setting({
            "name": WORKSHOP_NAME, "labour_per_hour": 48.0, "margin_percent": 15.0, "tax_percent": 20.0})),
        *(OneEdit("shelf_materials", values={"material": m}) for m in (*own, dearer)),
        OneEdit("offcuts", values={"material": "vinyl-5", "thickness_mm": 2.5, "width_mm": 1150, "length_mm": 1400,
                                   "place": "rack by the door", "code": "R1"}),
        OneEdit("outlines", values={"label": "FD-L", "what": "delivery van, front door, left", "measured_on": "2026-10-12",
                                    "surface": plain_door(), "layers": []}),
        OneEdit("series", values=bench_series()),
    ])
