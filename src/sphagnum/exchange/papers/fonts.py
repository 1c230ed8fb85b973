"""The fonts papers are set in: which of them has a sign, how wide a text is, and which script has none."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable, Iterator
from functools import lru_cache
from itertools import groupby
from pathlib import Path

from reportlab.lib.units import mm as MM
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

from ..report_style import BOLD, REGULAR

FOLDER = Path(__file__).parent.parent / "fonts"
FALLBACKS = {REGULAR: ("DejaVuSans",), BOLD: ("DejaVuSans-Bold",)}
for name in (n for names in FALLBACKS.values() for n in names):
    pdfmetrics.registerFont(TTFont(name, str(FOLDER / f"{name}.ttf")))


@lru_cache(maxsize=4096)
def font_for(sign: str, wanted: str) -> str | None:
    """The font that has a sign: the wanted one, else what stands in for it; None where none has it."""
    for name in (wanted, *FALLBACKS[wanted]):
        if ord(sign) in pdfmetrics.getFont(name).face.charToGlyph:
            return name
    return None


def fitted(text: str, wanted: str, size: float) -> Iterator[tuple[str, str, float]]:
    """A text in runs of one font: the font, the run, its width in points. A sign no font has is left out (see ``unknown``)."""
    for font, run in groupby(text, lambda sign: font_for(sign, wanted)):
        if font is not None:
            words = "".join(run)
            yield font, words, pdfmetrics.stringWidth(words, font, size)


def width_mm(text: str, size: float, bold: bool = False) -> float:
    """How wide a text is, mm."""
    return float(sum(w for _, _, w in fitted(text, BOLD if bold else REGULAR, size)) / MM)


def unknown(texts: Iterable[str]) -> tuple[str, ...]:
    """The scripts that texts use and no font here has, by their Unicode names: what is not printed is said."""
    signs = {sign for text in texts for sign in text if not sign.isspace() and font_for(sign, REGULAR) is None}
    first = {unicodedata.name(s, "a sign without a name").partition(" ")[0].capitalize() for s in signs}
    return tuple(sorted("Chinese or Japanese" if name == "Cjk" else name for name in first))
