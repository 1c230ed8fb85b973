"""Two thousand broken recordings and logs: each gives one clear sentence or sound figures, never a trace."""

from __future__ import annotations

import math
import os
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from signals import DIALECTS, as_wav, tone
from sphagnum.cli import main

CASES = 2000 if os.environ.get("HARDEN") == "full" else 700


def mangled(data: bytes, rng: np.random.Generator) -> bytes:
    """The file cut, with bytes changed, repeated, dropped or put in."""
    out = bytearray(data)
    kind = int(rng.integers(5))
    if kind == 0:
        return bytes(out[: int(rng.integers(len(out)))])
    head = min(len(out), 200) if rng.random() < 0.7 else len(out)
    for _ in range(int(rng.integers(1, 12))):
        at = int(rng.integers(head))
        if kind == 1:
            out[at] = int(rng.integers(256))
        elif kind == 2:
            out[at:at] = rng.integers(0, 256, int(rng.integers(1, 9)), dtype=np.uint8).tobytes()
        elif kind == 3:
            del out[at : at + int(rng.integers(1, 9))]
        else:
            out[at : at + 4] = b"\xff\xff\xff\xff"
        head = min(head, len(out))
        if not head:
            break
    return bytes(out)


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
