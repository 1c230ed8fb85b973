"""Which goods hold what: studs and channels of frames, screws, hangers and staples of layers, compound between boards."""

from __future__ import annotations

from typing import NamedTuple

STUDS: dict[str, tuple[str, str, int]] = {
    "wood-studs": ("timber-stud", "timber-stud", 1), "staggered-wood-studs": ("timber-stud", "timber-stud", 2),
    "double-wood-studs": ("timber-stud", "timber-stud", 2), "light-steel-studs": ("steel-stud", "steel-track", 1),
    "channels": ("resilient-channel", "", 1), "battens": ("timber-batten", "", 1)}
"""Per kind of frame: what stands, what it stands in, and how many rows of it."""
LYING = ("channels", "battens")
"""Kinds that lie across, fixed straight to what stands, without rails at foot and head."""
CHANNEL, SCREW, WASHER, HANGER, STAPLE = "resilient-channel", "drywall-screw", "rubber-washers", "lining-hanger", "wide-staple"
COMPOUND, ADHESIVE = "damping-compound", "board-adhesive"
JOINED = {"compound": COMPOUND, "adhesive": ADHESIVE}
HELD: dict[str, tuple[str, ...]] = {"screws": (SCREW,), "isolated screws": (SCREW, WASHER), "hangers": (HANGER,),
                                    "staples": (STAPLE,)}


class Glue(NamedTuple):
    """What glues a layer, and litres of it on a square metre of one coat."""

    material: str
    l_m2: float


GLUES = {"contact glue": Glue("contact-glue", 0.15), "spray glue": Glue("spray-glue", 0.08)}
"""House figures: a litre of contact glue goes for six to seven square metres of one coat, half a litre of spray glue too."""
COATS, COATS_THAT_DRINK = 2, 3
"""One on each face; one more on wool, felt and open foam, which drink the first."""
SCREWS_PER_M2, POINTS_PER_M2 = 25.0, 6.25
"""Screws of a board (house figure), and points 400 mm apart both ways."""
COMPOUND_L_M2 = 0.55


def glue_of(held: str, usual: str) -> Glue | None:
    """The glue a layer is held with: as it says itself, else as its material is first held; None where it is not glued."""
    return GLUES.get(held) if held else next((g for way, g in GLUES.items() if usual.startswith(way)), None)
