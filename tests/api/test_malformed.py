"""Broken files for every reader, two thousand each in ``make harden``: one clear sentence or sound figures, never a trace."""

from __future__ import annotations

import contextlib
import io
import json
import math
import os
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from mangled import altered_json, mangled
from signals import DIALECTS, as_wav, tone
from sphagnum.api.pictures import cleaned
from sphagnum.catalogue.load import shelf as shipped
from sphagnum.cli import main
from sphagnum.core.errors import BadInput
from sphagnum.core.levels.typed import read_entries
from sphagnum.core.levels.typed_bands import read_bands
from sphagnum.core.quantities import LENGTHS, read_quantity
from sphagnum.core.surfaces.drawn import DrawnShape
from sphagnum.exchange.draw_command import drawn, read_drawing
from sphagnum.exchange.files import read_curve
from sphagnum.exchange.job_file import read_job
from sphagnum.exchange.shelf_file import read_shelf, write_shelf
from sphagnum.instruments.log_reader import read_log, read_spectrum
from sphagnum.instruments.recordings import full_scale_from, read_history, seconds_of
from worked import worked_job

FULL = os.environ.get("HARDEN") == "full"
CASES, CASES_EACH = (2000, 2000) if FULL else (120, 25)
SHAPE = DrawnShape(id="A", label="A", outline_mm=((0, 0), (300, 0), (300, 200), (80, 260)), holes_mm=(), layer="x")
SHELF = shipped()
SOME = [SHELF.materials[n] for n in ("butyl-foil", "stone-wool", "three-way-crate") if n in SHELF.materials]


def _picture() -> bytes:
    out = io.BytesIO()
    Image.effect_noise((40, 30), 30).convert("RGB").save(out, "JPEG", exif=Image.Exif())
    return out.getvalue()


def _text(read: Callable[[str], Any]) -> Callable[[bytes], Any]:
    return lambda data: read(data.decode("utf-8", "replace"))


WAV = as_wav(tone(1000, 0.6, 8000), 8000)
SPECTRUM = "Hz;dB\n" + "".join(f"{f};{60 + i}\n" for i, f in enumerate((63, 125, 250, 500, 1000, 2000)))
JOB = json.dumps({"format": "sphagnum-job", "format_version": 1, **worked_job()}).encode()
_DXF = ("SECTION 2 ENTITIES", "CIRCLE 8 0 10 5 20 5 40 30",
        "ARC 8 0 10 0 20 0 40 9 50 0 51 180", "INSERT 8 0 2 B 10 1 20 1 41 2 70 3 71 2 44 9 45 9",
        "ELLIPSE 8 0 10 0 20 0 11 50 21 0 40 0.4 41 0 42 6.28", "LINE 8 0 10 0 20 0 11 5 21 5", "POLYLINE 8 0 66 1 70 1",
        "VERTEX 8 0 10 0 20 0", "VERTEX 8 0 10 8 20 0", "VERTEX 8 0 10 8 20 8", "SEQEND 8 0", "ENDSEC", "EOF")
SHORT_DXF = "".join(f"0\n{x}\n" for e in _DXF for x in [e.replace(" ", "\n")]).encode()
READERS: dict[str, tuple[Callable[[bytes], Any], bytes]] = {
    "a job": (lambda d: read_job(d, "x", SHELF), JOB),
    "a shelf in JSON": (lambda d: read_shelf(d, "x", SHELF.materials), write_shelf(SOME, as_csv=False)),
    "a shelf in CSV": (lambda d: read_shelf(d, "x", SHELF.materials), write_shelf(SOME, as_csv=True)),
    "a supplier's list": (lambda d: read_shelf(d, "x", SHELF.materials, match=True),
                          b"stock.order_number,stock.price,stock.width_mm,stands_mm\nB-480,31.5,480,10|20\nX,1,2,3\n"),
    "DXF": (lambda d: read_drawing(d, "x.dxf", "mm"), drawn((SHAPE,), "dxf", "sheet")),
    "a short DXF": (lambda d: read_drawing(d, "x.dxf", "mm"), SHORT_DXF),
    "SVG": (lambda d: read_drawing(d, "x.svg", "mm"), drawn((SHAPE,), "svg", "sheet")),
    "a photograph": (lambda d: cleaned(d, "x"), _picture()),
    "a log": (lambda d: read_log(d, "x", interval_s=1.0), DIALECTS["quoted, carriage returns"][0].encode()),
    "a table of bands": (lambda d: read_spectrum(d, "x"), SPECTRUM.encode()),
    "a curve": (lambda d: read_curve(d, "x"), b"frequency_hz,level_db\n100,30\n125,31\n160,32\n200,33\n"),
    "a recording": (lambda d: read_history(d, "x"), WAV),
    "how long a recording is": (lambda d: seconds_of(d, "x"), WAV),
    "a calibration": (lambda d: full_scale_from(d, "x", 94.0), WAV),
    "levels typed": (_text(read_entries), b"74,8; 74.6; between 62 and 66; 70..72"),
    "bands typed": (_text(read_bands), b"63: 84, 125: 86.5, 1k: 70 dB(A)"),
    "a length typed": (_text(lambda t: read_quantity(t, LENGTHS)), b"2 ft 6 1/2 in"),
}


@pytest.mark.parametrize("name", READERS)
@pytest.mark.filterwarnings("ignore:Corrupt EXIF data")
def test_whatever_a_reader_is_given_it_reads_or_refuses(name: str):
    read, whole = READERS[name]
    rng = np.random.default_rng(sum(name.encode()))
    read(whole)
    for i in range(CASES_EACH):
        break_it = altered_json if whole[:1] in b"[{" and i % 2 else mangled
        with contextlib.suppress(BadInput):
            read(break_it(whole, rng))


def files(rng: np.random.Generator) -> Iterator[bytes]:
    sound = tone(440, 0.4, 8000)
    sources = [as_wav(sound, 8000, s) for s in ("PCM_16", "PCM_24", "FLOAT")] + [as_wav(sound, 8000, "PCM_16", "FLAC")]
    sources += [text.encode(e) for text, _ in DIALECTS.values() for e in ("utf-8", "utf-16")]
    for i in range(CASES):
        yield mangled(sources[i % len(sources)], rng)


def test_broken_files_give_one_sentence(tmp_path: Path, capsys: pytest.CaptureFixture[str]):
    file = tmp_path / "broken.bin"
    refused = 0
    for i, data in enumerate(files(np.random.default_rng(2026))):
        file.write_bytes(data)
        code = main(["analyse", str(file)])
        out, err = capsys.readouterr()
        if code == 2:
            refused += 1
            assert (out, err.count("\n")) == ("", 1), (i, err)
            assert "broken.bin" in err
            assert "Traceback" not in err
        else:
            assert (code, err) == (0, "")
            assert "NaN" not in out
            assert "Infinity" not in out
    assert CASES * 0.2 < refused < CASES


def test_a_file_of_two_gigabytes_is_refused_unread(tmp_path: Path, capsys: pytest.CaptureFixture[str]):
    file = tmp_path / "long.wav"
    with file.open("wb") as out:
        out.write(as_wav(tone(440, 0.4, 8000), 8000))
        out.truncate(2_000_000_000)
    assert main(["analyse", str(file)]) == 2
    assert "larger than 1.9 GB" in capsys.readouterr().err
    assert math.isclose(file.stat().st_blocks * 512 / 1e6, 0, abs_tol=1)  # nothing was filled in
