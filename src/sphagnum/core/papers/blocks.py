"""A document as it is written whatever it is printed on: sections of typed blocks, and what each of them holds."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..schema import Strict

Points = tuple[tuple[float, float], ...]


class Sentence(Strict):
    """One or more sentences; ``weight`` says how they are set: the one that counts, plain, or small print."""

    kind: Literal["sentence"] = "sentence"
    text: str
    weight: Literal["lead", "plain", "small", "point"] = "plain"
    """A point is one of a list."""


class TableBlock(Strict):
    """Rows under a head; the columns of ``right`` are numbers."""

    kind: Literal["table"] = "table"
    title: str = ""
    head: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    right: tuple[int, ...] = ()
    shares: tuple[float, ...] = ()
    """How wide each column is of the whole; alike where none is said."""
    last_is_sum: bool = False


class RuleMark(Strict):
    """A value on the goal's rule, with half its interval where it has one."""

    name: str
    value: float
    within: float | None = None


class RuleBlock(Strict):
    """The goal's rule: one scale in the goal's unit with all that is known of it."""

    kind: Literal["rule"] = "rule"
    unit: str
    low: float
    high: float
    marks: tuple[RuleMark, ...]
    promised: tuple[float, float] | None = None
    """The range that was promised."""
    words: str = ""


class Step(Strict):
    """A round's level at the goal's place, and its change against the one it follows."""

    name: str
    level: float
    change: float | None
    comparable: bool = True


class StairsBlock(Strict):
    """Round by round."""

    kind: Literal["stairs"] = "stairs"
    unit: str
    steps: tuple[Step, ...]
    goal: float | None = None


class BandsBlock(Strict):
    """Levels per band before and after, dB; None where nothing was read."""

    kind: Literal["bands"] = "bands"
    before: str
    after: str
    frequency_hz: tuple[float, ...]
    before_db: tuple[float | None, ...]
    after_db: tuple[float | None, ...]
    change_db: tuple[float | None, ...]
    within_db: tuple[float | None, ...] = ()
    """Half of the 95 % interval of each change."""
    words: tuple[str, ...] = ()


class PathShare(Strict):
    """A way in: its level at the listener now and then, dB(A), and its share of what is heard now, 0–1."""

    name: str
    now: float | None
    then: float | None
    share: float
    treated: bool


class PathsBlock(Strict):
    """Ways in, the loudest first."""

    kind: Literal["paths"] = "paths"
    title: str
    paths: tuple[PathShare, ...]
    then: str = ""
    """What the second figure is of."""


class SectionLayer(Strict):
    """A layer of a stack as it is drawn."""

    name: str
    thickness_mm: float
    acts: str


class SectionBlock(Strict):
    """A stack in section, from the panel on."""

    kind: Literal["section"] = "section"
    title: str
    layers: tuple[SectionLayer, ...]


class PieceDrawn(Strict):
    """A piece where it goes; ``first_edge``: what of its outline is laid first, where that is to be seen."""

    label: str
    outline_mm: Points
    holes_mm: tuple[Points, ...] = ()
    first_edge: Points = ()


class SurfaceBlock(Strict):
    """A surface with the pieces on it, mm."""

    kind: Literal["surface"] = "surface"
    title: str
    outline_mm: Points
    pieces: tuple[PieceDrawn, ...]


class Picture(Strict):
    """A photograph that is kept, by its name."""

    file: str
    caption: str


class PhotographsBlock(Strict):
    kind: Literal["photographs"] = "photographs"
    title: str = ""
    pictures: tuple[Picture, ...]


class SoundBlock(Strict):
    """Something to listen to: a recording that is kept, by its name, and from when to when of it, s."""

    kind: Literal["sound"] = "sound"
    title: str
    file: str
    from_s: float = 0.0
    to_s: float = 8.0


Block = Annotated[
    Sentence
    | TableBlock
    | RuleBlock
    | StairsBlock
    | BandsBlock
    | PathsBlock
    | SectionBlock
    | SurfaceBlock
    | PhotographsBlock
    | SoundBlock,
    Field(discriminator="kind"),
]


class PrintedSection(Strict):
    """A heading and what stands under it, as the command line prints it."""

    title: str
    blocks: tuple[Block, ...]


class PaperSection(PrintedSection):
    """A section; ``page``: it begins a page of its own."""

    page: bool = False


class Printed(Strict):
    """A document as the command line prints it."""

    sections: tuple[PrintedSection, ...]


class Paper(Strict):
    """A whole document."""

    title: str
    sub: str
    """Whose it is and of when."""
    mark: str = ""
    """The workshop's mark, by its name among the files."""
    foot: str
    sections: tuple[PaperSection, ...]
