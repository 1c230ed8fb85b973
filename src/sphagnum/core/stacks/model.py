"""A stack and its frame, as files and forms give them (validated, units in the names)."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from ..materials.layers import AnyLayer, joins_wrong
from ..schema import Metres, NotNegative, Strict, Temperature, ThicknessMm


class Frame(Strict):
    """What ties the two leaves beside a cavity together."""

    kind: Literal[
        "none", "wood-studs", "light-steel-studs", "staggered-wood-studs", "double-wood-studs", "point-fixings", "channels",
        "battens",
    ] = "none"
    spacing_mm: Annotated[float, Field(ge=20, le=5000, strict=True, allow_inf_nan=False)] | None = None
    resilient_channel_spacing_mm: Annotated[float, Field(ge=20, le=5000, strict=True, allow_inf_nan=False)] | None = (
        None
    )
    isolated: bool | None = None
    between: tuple[Annotated[int, Field(ge=0)], Annotated[int, Field(ge=0)]] | None = None


class Stack(Strict):
    """Layers from the source side to the listener's side, with the size of the panel they make."""

    width_m: Metres
    height_m: Metres
    layers: tuple[AnyLayer, ...] = Field(min_length=1, max_length=40)
    frame: Frame = Frame()
    frames: tuple[Frame, ...] = Field(default=(), max_length=12)
    """Further frames, of further cavities; each names the leaves it joins."""
    leak_cm2: NotNegative = 0.0
    leak_slit_mm: ThicknessMm | None = None
    leak_depth_mm: ThicknessMm | None = None
    edge_losses: bool = True
    surround: Literal["none", "laboratory", "fitted"] = "laboratory"
    """What the edge and the fitting carry past the stack."""
    temperature_c: Temperature = 20.0

    @property
    def ties(self) -> tuple[Frame, ...]:
        """Every frame that ties leaves, or that says it would."""
        return tuple(f for f in (self.frame, *self.frames) if f.kind != "none" or f.resilient_channel_spacing_mm is not None)

    @model_validator(mode="after")
    def _whole(self) -> Stack:
        wrong = joins_wrong(self.layers)
        if wrong is not None:
            raise ValueError("; ".join(wrong))
        if self.leak_cm2 > self.width_m * self.height_m * 1e4 * (1 + 1e-9):  # an area worked out from the sides may be rounded
            raise ValueError("leak_cm2 is larger than the panel; give the open area in square centimetres")
        if (self.leak_slit_mm is None) != (self.leak_depth_mm is None):
            raise ValueError("leak_slit_mm and leak_depth_mm go together; give both or neither")
        return self
