"""The kinds of builds in one table: what is given of each, how it is worked out, what it stands in, how it is done
and said."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Annotated, Any, NamedTuple

import numpy as np
from pydantic import Field

from ..materials.model import Material
from ..schema import Strict
from ..words import plain, plural, signed
from .absorbers import AbsorbersIn, absorbers
from .baffle import BaffleIn, baffle
from .box import box, with_trade
from .box_given import BoxIn, machine_block
from .drawing import Block, three_views
from .drawing import Sheet as DrawnSheet
from .model import Built, Part
from .platform import PlatformIn, mass_blocks, platform
from .rooms import SPEECH, Rooms
from .steps import Step, absorber_steps, baffle_steps, box_steps, platform_steps, window_steps
from .windows import WindowIn, window

Given = Annotated[AbsorbersIn | WindowIn | BoxIn | PlatformIn | BaffleIn, Field(discriminator="kind")]
Size = tuple[float, float, float]


class Kind(NamedTuple):
    """A kind of build."""

    given: type[Strict]
    work: Callable[[Any, Mapping[str, Material], Rooms], Built]
    steps: Callable[[Any, Built], list[Step]]
    says: Callable[[Built], str]
    everywhere: bool
    """Whether it takes its effect off all that is heard where no way in is named; else it has none then."""
    whole: Callable[[Any], Size | None] = lambda _: None
    blocks: Callable[[Any], list[Block]] = lambda _: []
    """What it is built round or under: machines, drawn in dashes."""
    choices: Callable[[Any, Built, Mapping[str, Material]], Built] = lambda _given, built, _materials: built
    """The same with what it could be instead, to look at; it takes too long to be reckoned wherever a build counts."""


def _says_absorbers(built: Built) -> str:
    now, then = np.mean(list((built.reverberation_s or {}).values())[SPEECH], axis=0)
    return f"{plural(built.count or 0, 'absorber')} bring the room from {now:.2f} to {then:.2f} s."


def _says_window(built: Built) -> str:
    if built.change_dba is None:
        return "Nothing is to be done to it yet: pick remedies."
    return f"Together they take {plain(-built.change_dba)} dB(A) off road noise through it."


def _says_box(built: Built) -> str:
    if built.refused:
        return built.refused[0]
    return f"{plain(-(built.change_dba or 0.0))} dB(A) less, and {built.inside_c:.0f} °C inside."


def _says_platform(built: Built) -> str:
    if built.refused or built.transmissibility_db is None:
        return built.refused[0] if built.refused else ""
    seen = built.transmissibility_db
    below = [w for f, w in zip(seen.frequency_hz, seen.worse_db, strict=True) if 50 <= f <= 500]
    worse = next((n for n in built.notes if n.startswith("Worse")), "Nowhere worse than straight on this floor.")
    return f"{-float(np.mean(below)):.0f} dB less into this floor from 50 to 500 Hz. {worse}"


def _says_baffle(built: Built) -> str:
    if built.gain_db is None:
        return "It does not play low enough to gain by closing what is open."
    return f"Closing the panel can give {signed(built.gain_db[0], 0)} to {signed(built.gain_db[1], 0)} dB of bass."


KINDS: dict[str, Kind] = {
    "absorbers": Kind(AbsorbersIn, absorbers, absorber_steps, _says_absorbers, True,
                      lambda g: (g.room_mm[0], g.room_mm[1], g.room_mm[2])),
    "window": Kind(WindowIn, lambda g, m, _: window(g, m), window_steps, _says_window, False),
    "box": Kind(BoxIn, lambda g, m, _: box(g, m), box_steps, _says_box, True, blocks=lambda g: [machine_block(g)],
                choices=with_trade),
    "platform": Kind(PlatformIn, lambda g, m, _: platform(g, m), platform_steps, _says_platform, False,
                     blocks=mass_blocks),
    "baffle": Kind(BaffleIn, lambda g, m, _: baffle(g, m), baffle_steps, _says_baffle, False),
}


def views_of(given: Any, parts: Sequence[Part]) -> DrawnSheet:
    """Three views of what is built, with what it stands in and what it is built round."""
    kind = KINDS[given.kind]
    return three_views(parts, kind.whole(given), kind.blocks(given))


def materials_in(given: Any) -> list[str]:
    """Materials that what is given of a build names, as plain data: under ``material`` and ``fill``, and panes as "id@mm"."""
    return list(dict.fromkeys(_named(given)))


def _named(value: Any) -> Iterator[str]:
    if isinstance(value, Mapping):
        for key, x in value.items():
            if key in ("material", "fill") and isinstance(x, str):
                yield x
            elif key == "panes":
                yield from (layer.partition("@")[0] for pane in x or () for layer in pane)
            else:
                yield from _named(x)
    elif isinstance(value, list | tuple):
        for x in value:
            yield from _named(x)
