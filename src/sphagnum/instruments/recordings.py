"""Reads WAV and FLAC in blocks, so that an hour needs little memory; refuses what is too large before reading it."""

from __future__ import annotations

import io
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO

import numpy as np
import soundfile

from ..beside import begin, let_go, result
from ..core.errors import BadInput, refusing
from ..core.levels.bands import Floats
from ..core.levels.bank import Bank
from ..core.levels.recording import History, Meter, calibrator_level
from ..core.report import Report, silent

MOST_BYTES = 1_900_000_000
LEAST_RATE, MOST_RATE, MOST_CHANNELS = 8_000, 192_000, 8
MOST_HOURS = 4.0
"""Of one channel at 48 kHz; of more channels, or at a higher rate, the less. A few kilobytes can hold days of silence."""
BLOCK = 1 << 17
LONG_S = 30.0
"""Recordings longer than this are worth a second process."""
# the largest positive value of a whole-number format, one step below 1; floating formats clip at 1
FULL_SCALE = {"PCM_U8": 1 - 2**-7, "PCM_S8": 1 - 2**-7, "PCM_16": 1 - 2**-15, "PCM_24": 1 - 2**-23, "PCM_32": 1 - 2**-31}


@contextmanager
def _opened(source: Path | bytes, name: str) -> Iterator[soundfile.SoundFile]:
    file: BinaryIO
    if isinstance(source, bytes):
        size, file = len(source), io.BytesIO(source)
    else:
        size = source.stat().st_size
        if size > MOST_BYTES:
            raise BadInput(f"the file is larger than {MOST_BYTES / 1e9:.1f} GB", name, "split the recording")
        file = source.open("rb")
    with file:
        try:
            with soundfile.SoundFile(file) as sound:
                _check(sound, name)
                yield sound
        except soundfile.LibsndfileError:
            raise BadInput("this is not a sound WAV or FLAC recording", name, "record or export it again") from None


def _check(sound: soundfile.SoundFile, name: str) -> None:
    if sound.format not in ("WAV", "WAVEX", "RF64", "FLAC"):
        raise BadInput(f"{sound.format} is not read here", name, "give WAV or FLAC")
    if not LEAST_RATE <= sound.samplerate <= MOST_RATE:
        raise BadInput(f"a sampling rate of {sound.samplerate} Hz is out of range", name,
                       f"record at {LEAST_RATE} to {MOST_RATE} Hz")
    if sound.channels > MOST_CHANNELS:
        raise BadInput(f"{sound.channels} channels are too many", name, f"give up to {MOST_CHANNELS}")
    hours = sound.frames * sound.channels / 48_000 / 3600
    if hours > MOST_HOURS:
        length = sound.frames / sound.samplerate / 3600
        raise BadInput(f"it holds {length:.1f} h of {sound.channels} channels at {sound.samplerate} Hz, too much at once", name,
                       "cut it, or record one channel at 48 kHz")


def seconds_of(source: Path | bytes, name: str) -> float:
    """How long a recording is, s. BadInput for what is none."""
    with _opened(source, name) as sound:
        return float(sound.frames / sound.samplerate)


def read_history(source: Path | bytes, name: str, alone: bool = False, report: Report = silent) -> History:
    """The history of a recording; ``report`` is told how far it is. BadInput with one sentence for what cannot be used.

    ``alone``: this process has no other threads, so that a long recording's bands may be filtered in a second process, which
    reads the file for itself; threads would wait for one another at every block.
    """
    with _opened(source, name) as sound:
        apart = alone and isinstance(source, Path) and sound.frames > LONG_S * sound.samplerate
        meter = Meter(sound.samplerate, sound.channels, FULL_SCALE.get(sound.subtype, 1.0), bands=not apart)
        try:
            if not apart:
                for block in _blocks(sound):
                    meter.feed(block)
                    report(sound.tell() / max(sound.frames, 1), "reading it")
                return meter.history()._replace(cut_short=_cut_short(source))
            assert isinstance(source, Path)
            bands = begin(_bands, source, name)
            try:
                for block in _blocks(sound):
                    meter.feed(block)
                return meter.history(result(bands))._replace(cut_short=_cut_short(source))
            finally:
                let_go([bands])
        except BadInput as error:
            raise error.at(name) from None


def _blocks(sound: soundfile.SoundFile) -> Iterator[Floats]:
    """The samples (channels, samples) in blocks."""
    while True:
        with refusing("it breaks off where it cannot be read", "", "record it again"):
            block = sound.read(BLOCK, dtype="float64", always_2d=True)
        if not block.shape[0]:
            return
        yield np.ascontiguousarray(block.T)


def _bands(source: Path, name: str) -> Floats:
    """The bands of a recording alone."""
    with _opened(source, name) as sound:
        bank = Bank(sound.samplerate, sound.channels)
        for block in _blocks(sound):
            bank.feed(np.nan_to_num(block))  # what is no number is refused where the levels are read
        return bank.result()


def _cut_short(source: Path | bytes) -> bool:
    """Whether a WAV's header promises more bytes than there are (a recorder that writes as it goes promises none)."""
    if isinstance(source, bytes):
        start, size = source[:8], len(source)
    else:
        with source.open("rb") as file:
            start = file.read(8)
        size = source.stat().st_size
    promised = int.from_bytes(start[4:8], "little")
    return start[:4] == b"RIFF" and 0 < promised < 0xFFFFFFFF and promised + 8 > size + 1


def full_scale_from(source: Path | bytes, name: str, calibrator_db: float) -> float:
    """What a sine of peak 1 reads, dB, from a recording of a calibrator at ``calibrator_db``."""
    history = read_history(source, name)
    try:
        return calibrator_db - calibrator_level(history)
    except BadInput as error:
        raise error.at(name) from None




MOST_SAMPLES_S = 1800.0


def read_samples(source: Path | bytes, name: str, window_s: tuple[float, float] | None) -> tuple[Floats, float]:
    """The samples of a window (mean of the channels), shape (samples,), and the sampling rate, Hz; up to half an hour."""
    with _opened(source, name) as sound:
        start, end = window_s or (0.0, sound.frames / sound.samplerate)
        if end - start > MOST_SAMPLES_S:
            raise BadInput("it is longer than half an hour", name, "choose a shorter window")
        sound.seek(min(round(start * sound.samplerate), sound.frames))
        block = sound.read(round((end - start) * sound.samplerate), dtype="float64", always_2d=True)
        if not block.size or not np.isfinite(block).all():
            raise BadInput("it holds no sound that can be used", name, "record it again")
        return np.asarray(block.mean(axis=1)), float(sound.samplerate)
