"""Commands about levels: ratings, recordings and logs, comparisons; they load nothing of stacks and jobs."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, NamedTuple

from ..core.errors import BadInput
from ..core.levels.comparison import SETUP_DB, Comparison, Item, Terms, compare, middle_of_range
from ..core.levels.logs import analyse_log, inside
from ..core.levels.rating import Ratings, rate
from ..core.levels.run_figures import LogAnalysis, RecordingAnalysis
from ..core.levels.statistics import run_uncertainty
from ..core.levels.typed import last_digit
from ..instruments.log_reader import LevelLog, read_log
from .files import is_recording, peek, read_bytes, read_curve, source_of

if TYPE_CHECKING:
    from ..core.levels.decay import Decay, Excitation

_RANGE = re.compile(r"^([+\-]?\d+(?:[.,]\d+)?)\.\.([+\-]?\d+(?:[.,]\d+)?)$")
_LEVEL = re.compile(r"^[+\-]?\d+(?:[.,]\d+)?$")


class Window(NamedTuple):
    """Which part of a log counts, s."""

    start: float | None = None
    end: float | None = None
    steady: bool = False


def run_rate(name: str) -> Ratings:
    """``rate CURVE.csv``."""
    return rate(read_curve(read_bytes(name), name))


class Scale(NamedTuple):
    """How recordings get their level: a known full scale, a calibrator's recording, or neither (relative)."""

    full_scale_db: float | None = None
    calibration: str | None = None
    calibration_db: float = 94.0

    def full_scale(self) -> float | None:
        """What a sine of peak 1 reads, dB; None for relative levels."""
        if self.calibration is None:
            return self.full_scale_db
        from ..instruments.recordings import full_scale_from  # the filters take a second to load

        return full_scale_from(source_of(self.calibration), self.calibration, self.calibration_db)


def run_analyse(
    name: str, column: str | None, interval_s: float | None, window: Window, scale: Scale
) -> LogAnalysis | RecordingAnalysis:
    """``analyse FILE`` for recordings and level logs."""
    if is_recording(peek(name)):
        if column is not None or interval_s is not None:
            raise BadInput("a recording has no columns", name, "leave --column and --interval out")
        return _recording(name, window, scale.full_scale())
    if scale != Scale():
        raise BadInput("a level log has its scale already", name, "leave --full-scale-db and --calibration out")
    return _analyse(_log(name, column, interval_s), name, window)


def _recording(name: str, window: Window, full_scale_db: float | None) -> RecordingAnalysis:
    from ..core.levels.recording import analyse_recording
    from ..instruments.recordings import read_history

    history = read_history(source_of(name), name, alone=True)
    try:
        return analyse_recording(history, full_scale_db, (window.start, window.end), window.steady)
    except BadInput as error:
        raise error.at(name) from None


def run_decay(name: str, excitation: str, window: Window) -> Decay:
    """``analyse FILE --decay``: how long a room rings, of a recording of a clap, a balloon or a noise that stops."""
    from ..core.levels.decay import analyse_decay
    from ..instruments.recordings import read_samples

    if window.steady:
        raise BadInput("a decay is not steady", "--steady", "leave it out")
    samples, rate = read_samples(source_of(name), name, None)
    start, end = (None if s is None else round(s * rate) for s in (window.start, window.end))
    asked: dict[str, Excitation] = {"impulse": "impulse", "noise": "stopped noise"}
    try:
        return analyse_decay(samples[start:end], rate, asked.get(excitation))
    except BadInput as error:
        raise error.at(name) from None


def _log(name: str, column: str | None = None, interval_s: float | None = None) -> LevelLog:
    return read_log(read_bytes(name), name, column, interval_s)


def _analyse(log: LevelLog, name: str, window: Window) -> LogAnalysis:
    try:
        return analyse_log(log.run, (window.start, window.end), window.steady)
    except BadInput as error:
        raise error.at(name) from None


class Conditions(NamedTuple):
    """How the readings of ``compare`` were taken."""

    background: str | None = None
    background_after: str | None = None
    repeatability_db: float = 0.8
    different_instrument_db: float | None = None
    setup_db: float = SETUP_DB
    afresh: bool = False


def run_compare(before: list[str], after: list[str], window: Window, taken: Conditions, scale: Scale) -> Comparison:
    """``compare BEFORE… --against AFTER…``: recordings, logs, typed levels and ranges."""
    full_scale_db = scale.full_scale()
    still = [None if x is None else _item(x, window, full_scale_db).level_db for x in (taken.background, taken.background_after)]
    terms = Terms(still[0], still[1], taken.repeatability_db, taken.different_instrument_db,
                  setup_db=taken.setup_db, own_backgrounds=still[0] is None and still[1] is not None)
    first, second = ([_item(x, window, full_scale_db)._replace(set_up=i if taken.afresh else 0) for i, x in enumerate(names)]
                     for names in (before, after))
    return compare(first, second, terms)


def _item(text: str, window: Window, full_scale_db: float | None) -> Item:
    found = _RANGE.match(text.strip())
    if found:
        low, high = (_level(x, text) for x in found.groups())
        if low > high:
            raise BadInput("the range runs backwards", text, "give the lower level first")
        return middle_of_range(low, high)._replace(resolution_db=min(map(last_digit, found.groups())))
    if _LEVEL.match(text.strip()):
        return Item(_level(text, text), resolution_db=last_digit(text))
    if is_recording(peek(text)):
        heard = _recording(text, window, full_scale_db)
        return Item(heard.LAeq, "LAeq", 0.0, 0.0, full_scale_db is None, heard.bands.level_db)
    log = _log(text)
    got = _analyse(log, text, window)
    return Item(got.Leq, log.quantity, run_db=run_uncertainty(inside(log.run, *got.window_s)))


def _level(text: str, where: str) -> float:
    value = float(text.replace(",", "."))
    if not -50 <= value <= 200:
        raise BadInput(f"{value:g} dB is out of range", where, "levels lie within −50 to 200 dB")
    return value
