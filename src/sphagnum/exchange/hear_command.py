"""``hear HEAR.json DIR``: a change written as two sounds of one gain."""

from __future__ import annotations

import io
from pathlib import Path

import soundfile

from ..core.errors import BadInput
from ..core.levels.bands import Floats
from ..core.levels.hearing import FULL_SCALE_DB, HeardFiles, HearInput, hear
from ..core.levels.signals import RATE_HZ
from ..core.schema import parse
from ..instruments.recordings import read_samples
from .files import read_bytes, read_json, source_of, write_whole

BEFORE, AFTER = "before.wav", "after.wav"


def run_hear(name: str, folder: Path) -> HeardFiles:
    """Writes before and after into a folder, made where it is missing. BadInput for what cannot be made or written."""
    data = parse(HearInput, read_json(read_bytes(name), name), name)
    try:
        pair = hear(data, None if data.recording is None else _recorded(name, data.recording))
    except BadInput as error:
        raise error.at(name) from None
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        why = (error.strerror or "unknown").lower()
        raise BadInput(f"it cannot be made ({why})", str(folder), "choose another folder") from None
    write_whole({folder / BEFORE: _wav(pair.before), folder / AFTER: _wav(pair.after)})
    return HeardFiles(before=BEFORE, after=AFTER, full_scale_db=FULL_SCALE_DB, gain_db=pair.gain_db,
                      seconds=round(pair.before.size / RATE_HZ, 3))


def _recorded(name: str, recording: str) -> tuple[Floats, float]:
    """The samples of a recording named in a file: beside that file, or where the command was given."""
    beside = Path(name).parent / recording
    path = beside if name != "-" and beside.exists() else Path(recording)
    return read_samples(source_of(str(path)), recording, None)


def _wav(samples: Floats) -> bytes:
    """A WAV of 24 bits."""
    out = io.BytesIO()
    soundfile.write(out, samples, RATE_HZ, format="WAV", subtype="PCM_24")
    return out.getvalue()
