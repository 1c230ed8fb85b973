"""A series as the workshop keeps it: what is compared in which box, in which order, and what was read so far."""

from __future__ import annotations

import random
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from ..builds.model import Sheet
from ..forms import Name, Words
from ..schema import Row, Strict
from .model import MOST_RUNS, MOST_SAMPLES, Hz, Rig, Run, Sample

Amount = Annotated[float, Field(gt=0, le=100_000, strict=True, allow_inf_nan=False)]


class SampleKept(Sample):
    """A sample of a series by its name."""

    name: Annotated[str, Field(min_length=1, max_length=80)]
    layers: Annotated[tuple[Sheet, ...], Field(max_length=8)] = ()
    """Of what it is made, from the source's side: what it weighs and costs follows, and what is predicted of it."""
    dose_ml: Amount | None = None
    """Of a cartridge, and on how many square metres a whole one goes; how far its piston goes."""
    dose_on_m2: Amount | None = None
    stroke_mm: Amount | None = None


class SeriesKeptIn(Strict):
    """A series: its box, bands and samples; ``runs`` in the order they were read."""

    name: Name
    kind: Literal["blocking", "laid round the source", "in the open"] = "blocking"
    """What it is of; only the first says anything of blocking."""
    bands_hz: Annotated[tuple[Hz, ...], Field(min_length=1, max_length=60)] = (125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0)
    signal: Literal["tones", "bands", "noise"] = "bands"
    gains_db: Annotated[dict[str, Annotated[float, Field(ge=-60, le=0, strict=True, allow_inf_nan=False)]],
                        Field(max_length=60)] = {}
    """What each band of the signal is turned down by, so that all are alike at the empty opening."""
    rig: Rig = Rig()
    loudspeaker: Words = ""
    microphone: Words = ""
    clamp: Words = ""
    """The box in words: its loudspeaker, where the microphone sits, how a sample is sealed and clamped."""
    question: Literal["", "compound", "wool", "loose", "foil", "share"] = ""
    """What the shop argues about, that it was read for."""
    spectrum: Annotated[str, Field(max_length=80)] = ""
    """The source that samples are ranked by beside all bands alike."""
    times: Annotated[int, Field(ge=2, le=10)] = 3
    """How often each sample is put on."""
    drawn: Annotated[int, Field(ge=0, le=1_000_000)] = 1
    """What the order is drawn by."""
    samples: Annotated[tuple[SampleKept, ...], Field(max_length=MOST_SAMPLES)] = ()
    runs: Annotated[tuple[Run, ...], Field(max_length=MOST_RUNS)] = ()
    note: Words = ""

    @model_validator(mode="after")
    def _holds_together(self) -> Self:
        names = [s.name for s in self.samples]
        if len(set(names)) < len(names):
            raise ValueError("two samples have one name; name each by itself")
        for i, run in enumerate(self.runs, start=1):
            if len(run.level_db) != len(self.bands_hz):
                raise ValueError(f"reading {i} has {len(run.level_db)} levels for {len(self.bands_hz)} bands; read every band")
            if run.sample is not None and run.sample not in names:
                raise ValueError(f"reading {i} is of '{run.sample[:40]}', which is no sample of this series; keep what was read")
        return self


class SeriesKept(SeriesKeptIn, Row): ...


def order_of(series: SeriesKeptIn) -> tuple[str | None, ...]:
    """The order samples are put on in: every one once in each round, drawn at random, the empty opening (None) between rounds."""
    rng, names = random.Random(series.drawn), [s.name for s in series.samples]
    out: list[str | None] = [None]
    for _ in range(series.times if names else 0):
        out += rng.sample(names, len(names))
        out.append(None)
    return tuple(out)
