"""How each kind of build is done, step by step, in the words of the order; minutes are house figures, judged."""

from __future__ import annotations

from typing import NamedTuple

from ..worded import bare, of
from ..words import listed, plural
from .absorbers import AbsorbersIn
from .baffle import BaffleIn
from .box_given import BoxIn
from .model import HANDLES, Built, heavy
from .platform import PlatformIn
from .windows import WindowIn, remedy_words


class Step(NamedTuple):
    """What is done for a build: the phase of the order, in a word and in a sentence, minutes, tools, hazards."""

    phase: str
    what: str
    text: str
    minutes: float
    tools: tuple[str, ...] = ()
    hazards: tuple[str, ...] = ()


FRAME_MINUTES, FILL_MINUTES, HANG_MINUTES = 25.0, 15.0, 15.0
"""Of one absorber: boards glued and pinned, filled and covered, hung. House figures, judged; so are all below."""
REMEDY_MINUTES = 60.0
HANDLE_MINUTES = 6.0
WALL_MINUTES, LINING_MINUTES, DOOR_MINUTES, WAY_MINUTES, SET_MINUTES = 18.0, 10.0, 30.0, 20.0, 30.0
BOARD_MINUTES, PAD_MINUTES = 25.0, 8.0
PATCH_MINUTES, STRIP_MINUTES, CONE_MINUTES = 12.0, 10.0, 25.0


def absorber_steps(given: AbsorbersIn, built: Built) -> list[Step]:
    """Frames, what fills them, and hanging them where they were placed."""
    count, parts = built.count or 0, built.parts or ()
    if not count:
        return []
    size = f", boards {of(parts[0].flat_mm[1], 'mm', '.0f')} wide, mitred 45°" if parts else ""
    places = "; ".join(f"{p.id[:-1]} at {of(f'{p.at_mm[0]:.0f}, {p.at_mm[1]:.0f}, {p.at_mm[2]:.0f}', 'mm')}" for p in parts
                       if p.id.endswith("E"))
    sheet = " the sheet before it, then" if given.frame.facing is not None else ""
    return [
        Step("build", "frames", f"Glue and pin {count} frames{size}; both diagonals alike, then brace a corner.",
             FRAME_MINUTES * count, ("mitre saw", "clamps")),
        Step("cover", "fill and cloth", f"Lay the fill in without pressing it,{sheet} stretch the cloth from the middle out, "
             "turn it over and staple it behind.", FILL_MINUTES * count, ("stapler", "shears"), ("fibres",)),
        Step("hang", "hang", "Two hooks each into what carries them, level; along, across and up from the left front "
             f"corner: {places}.", HANG_MINUTES * count, ("drill and driver", "level"))]


def window_steps(_given: WindowIn, built: Built) -> list[Step]:
    """Its remedies fitted."""
    names = [remedy_words(r.name) for r in built.remedies or ()]
    said = f"Fit {listed(names)}; it must open, close and drain as before."
    return [Step("build", "fit", said, REMEDY_MINUTES * len(names), ("drill and driver",))] if names else []


def box_steps(given: BoxIn, built: Built) -> list[Step]:
    """Walls and air ways, lining, and setting it over its machine."""
    parts = built.parts or ()
    lining = [p for p in parts if "lining" in p.name]
    leaves = [p for p in parts if p not in lining and "door" in p.name]
    walls = [p for p in parts if p not in lining and p not in leaves]
    named = listed([f"{p.id} {p.name}" for p in walls])
    steps = [] if given.own_case else [Step(
        "build", "walls and air ways", f"{named}: seal every joint with elastic sealant as it closes, screw each "
        f"{of(150, 'mm')}, top and doors last so that it comes apart again; then ducts, grilles and fan.",
        WALL_MINUTES * len(walls) + WAY_MINUTES * (len(given.openings) + bool(given.fan_m3_h)), ("drill and driver", "saw"))]
    if lining:
        pieces = listed([f"{p.id} ({p.name})" for p in lining])
        steps.append(Step("cover", "lining", f"{pieces}: six pins a square metre, edges tight, clear of every opening.",
                          LINING_MINUTES * len(lining), ("knife",), ("fibres",)))
    lifted = heavy(walls)
    if lifted and steps:
        named = listed([f"{p.id} ({p.name})" for p in lifted])
        steps[0] = steps[0]._replace(
            text=f"{steps[0].text} Two handles each on {named}, a quarter of its length in from both ends.",
            minutes=steps[0].minutes + HANDLE_MINUTES * HANDLES * len(lifted))
    hung = listed([f"{p.id} ({p.name})" for p in leaves])
    doors = f"hang {hung} so that the seal is pressed by a third; " if given.doors else ""
    feet = f"{given.feet.count} feet under the machine, level; " if given.feet is not None else ""
    steps.append(Step("hang", "set over the machine", f"{feet}{doors}set it over the machine, nothing touching; run it an hour "
                      f"under load and read what it gets to inside: {built.inside_c:.0f} °C are expected.",
                      SET_MINUTES + DOOR_MINUTES * len(given.doors), ("drill and driver", "thermometer"), ("electric",)))
    return steps


def platform_steps(given: PlatformIn, built: Built) -> list[Step]:
    """Boards, then pads and machine."""
    boards, pads = built.parts or (), len(given.pads.at_mm)
    places = "; ".join(bare(x, y, by=", ") for x, y in given.pads.at_mm)
    first = [Step("build", "boards", f"{listed([p.id for p in boards])}: each layer across the one under it, glued and screwed "
                  f"every {of(200, 'mm')}, edges flush.", BOARD_MINUTES * len(boards),
                  ("drill and driver", "saw"))] if boards else []
    return [*first, Step("hang", "pads and machine", f"{plural(pads, 'pad')} at {places} along and across from the middle; lower "
                         "the machine, read level and the sag of each pad; loops in pipes and cables, nothing beside it "
                         "touching.", PAD_MINUTES * pads + SET_MINUTES, ("jack", "level"))]


def baffle_steps(given: BaffleIn, built: Built) -> list[Step]:
    """Holes closed, damping, the loudspeaker back in."""
    parts = built.parts or ()
    patches = [p for p in parts if "hole" in p.name]
    strips = [p for p in parts if p not in patches]
    how = "rivet or screw each over its gasket" if given.closed == "patch" else "roll each layer on from the rim inwards, warm"
    out = [Step("build", "close the holes", f"{listed([f'{p.id} ({p.name})' for p in patches])}: {how}; drains stay open.",
                PATCH_MINUTES * len(patches), ("rivet gun", "seam roller"))]
    if strips:
        pieces = listed([f"{p.id} ({p.name})" for p in strips])
        out.append(Step("cover", "damping", f"{pieces}: most at the cone's rim, least at the far end.",
                        STRIP_MINUTES * len(strips), ("seam roller",)))
    return [*out, Step("hang", "loudspeaker and sweep", "Gasket under its rim, screws crosswise; play the slow sweep as before "
                       "and read it.", CONE_MINUTES, ("driver",))]
