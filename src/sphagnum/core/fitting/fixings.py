"""Which goods hold what: studs and channels of frames, screws, hangers and staples of layers, compound between boards."""

from __future__ import annotations

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
FASTENED_WITH = (SCREW, STAPLE, WASHER)
"""Goods that go in with a layer, so that setting them is no step of its own where there is nothing else."""
SCREWS_PER_M2, POINTS_PER_M2 = 25.0, 6.25
"""Screws of a board (house figure), and points 400 mm apart both ways."""
COMPOUND_L_M2 = 0.55
