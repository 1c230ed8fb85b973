"""Shapes as somebody types them: sizes with their units, stations and lengths as lines of text."""

from __future__ import annotations

import re
from typing import Annotated, Any, Literal

from pydantic import Field

from ..errors import BadInput
from ..quantities import LENGTHS, read_quantity
from ..schema import Strict, read_number

Typed = Annotated[str, Field(max_length=60)]
Lines = Annotated[str, Field(max_length=4000)]
_PAIR = re.compile(r"([A-Za-z])\s*([A-Za-z])\s*[:=]?\s*(?=\d)")
"""Where a length begins: the two points it lies between."""


class ShapeForm(Strict):
    """What the form for a shape sends: the kind, and of its sizes those that are typed."""

    kind: Literal["rectangle", "trapezium", "L", "arch", "circle", "wedge", "offsets", "triangles", "tub",
                  "wheel-arch"]
    width_mm: Typed = ""
    height_mm: Typed = ""
    bottom_mm: Typed = ""
    top_mm: Typed = ""
    shift_mm: Typed = ""
    cut_width_mm: Typed = ""
    cut_height_mm: Typed = ""
    straight_mm: Typed = ""
    diameter_mm: Typed = ""
    radius_mm: Typed = ""
    angle_deg: Typed = ""
    length_mm: Typed = ""
    depth_mm: Typed = ""
    rise_mm: Typed = ""
    over_mm: Typed = ""
    bulge_across_mm: Typed = ""
    bulge_up_mm: Typed = ""
    relief: Typed = ""
    left: Lines = ""
    """Stations along the chalk line and the distance to its left there: "0 310; 300 355"."""
    right: Lines = ""
    smooth: bool = False
    lengths: Lines = ""
    """Taped lengths between points: "AB 800, AC 640, BC 590"."""
    outline: Typed = ""
    inside: Typed = ""
    mirror: bool = False


def typed_shape(form: ShapeForm) -> dict[str, Any]:
    """The form as the document ``shape`` reads. Raises BadInput for text that is no quantity."""
    out: dict[str, Any] = {"kind": form.kind, "mirror": form.mirror}
    for name in ShapeForm.model_fields:
        text = getattr(form, name)
        if name.endswith("_mm") and text.strip():
            out[name] = _mm(text, name)
        elif name == "angle_deg" and text.strip():
            try:
                out[name] = read_number(text)
            except BadInput as error:
                raise BadInput(error.what, "angle", "type degrees, such as 60") from None
    if form.relief.strip():
        if not form.relief.strip().isdecimal():
            raise BadInput(f"'{form.relief.strip()[:20]}' is no number of wedges", "relief", "type how many, such as 8")
        out["relief"] = int(form.relief)
    if form.kind == "offsets":
        out |= {"left": _stations(form.left, "left"), "right": _stations(form.right, "right"),
                "curve": "smooth" if form.smooth else "straight"}
    if form.kind == "triangles":
        out |= {"lengths_mm": _lengths(form.lengths), "outline": re.sub(r"[^A-Z]", "", form.outline.upper()),
                "inside": list(re.sub(r"[^A-Z]", "", form.inside.upper()))}
        if not out["outline"]:
            raise BadInput("the outline is missing", "outline", "name its corners in order round the edge, such as ABDC")
    return out


def _mm(text: str, where: str) -> float:
    named, mend = where.removesuffix("_mm").replace("_", " "), "type a length, such as 480"
    try:
        value = read_quantity(text, LENGTHS)
    except BadInput as error:
        raise BadInput(error.what, named, mend) from None
    if not isinstance(value, int | float):
        raise BadInput(f"'{text[:40]}' is no length", named, mend)
    return float(value)


def _stations(text: str, side: str) -> list[list[float]]:
    out = []
    for line in re.split(r"[;\n]+", text):
        parts = [p for p in re.split(r"[\s:→]+", line.strip()) if p]
        if len(parts) not in (0, 2):
            raise BadInput(f"'{line.strip()[:40]}' is no station", side, "type where and how far off the line, such as 300 355")
        if parts:
            out.append([_mm(parts[0], side), _mm(parts[1], side)])
    return out


def _lengths(text: str) -> dict[str, float]:
    out: dict[str, float] = {}
    found = list(_PAIR.finditer(text))
    for i, one in enumerate(found):
        end = found[i + 1].start() if i + 1 < len(found) else len(text)
        pair = "".join(sorted((one[1].upper(), one[2].upper())))
        if pair in out:
            raise BadInput(f"the length {pair} stands twice", "lengths", "give it once")
        out[pair] = _mm(text[one.end():end].strip(" ,;\n\t"), "lengths")
    if not out:
        raise BadInput("there are no lengths", "lengths", "type them as AB 800, AC 640, BC 590")
    return out
