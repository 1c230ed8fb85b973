"""A live capture over an instrument made for the test: steadiness, logs, losses, giving up, hands-free."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
import pytest

from signals import until
from sphagnum.core.errors import BadInput
from sphagnum.core.levels.weighting import weighting_db
from sphagnum.instruments import capture as live
from sphagnum.instruments.capture import Capture
from sphagnum.instruments.microphone import Microphone
from sphagnum.instruments.protocol import Identity, LostInstrument, Sample


class Script:
    """An instrument that plays levels; None is a loss of the link."""

    def __init__(self, *runs: list[float] | None) -> None:
        self.runs, self.begun, self.closed = list(runs), 0, False
        self.go, self.hold = threading.Event(), threading.Event()

    def identify(self) -> Identity:
        return Identity(name="Script", kind="test", serial="1", calibrated=True)

    def settings(self) -> dict[str, str]:
        return {"weighting": "A"}

    def samples(self) -> Iterator[Sample]:
        self.go.wait(20)
        self.begun += 1
        while self.runs:
            run = self.runs.pop(0)
            if run is None:
                raise LostInstrument("the script broke off")
            for i, level in enumerate(run):
                yield Sample(i * 0.125, level, level, level + 5, level > 100, tuple([level - 10.0] * 33))
        self.hold.wait(20)

    def close(self) -> None:
        self.closed = True
        self.hold.set()


def started(
    *runs: list[float] | None, keep: Callable[[Any], object] | None = None, log: bool = False, arm: bool = False
) -> Capture:
    """A capture that logs or is armed before the first level comes."""
    capture = Capture(Script(*runs), keep)
    if log:
        capture.start_log()
    if arm:
        capture.arm(True)
    capture.instrument.go.set()
    return capture


@pytest.fixture(autouse=True)
def hasty(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(live, "RETRY_S", 0.01)


def test_the_view_tells_level_range_and_steadiness():
    capture = started([60.0] * 40 + [70.0, 72.0] + [60.0] * 90)
    view = until(lambda: (v := capture.view()).level_db == 60.0 and v.steady and v)
    assert (view.low_db, view.high_db, view.overload, view.unit) == (60.0, 60.0, False, "dB(A)")
    assert len(view.trace_db) == 132
    assert 72.0 in view.trace_db
    assert view.bands_db[0] == 50.0
    capture.stop()
    assert capture.instrument.closed


def test_a_changing_level_is_not_steady():
    capture = started([60.0 + 0.1 * i for i in range(100)])
    view = until(lambda: (v := capture.view()).level_db == pytest.approx(69.9) and v)
    assert not view.steady
    capture.stop()


def test_a_log_is_the_energy_mean_of_what_came_over_a_loss():
    capture = started([50.0] * 8, [60.0] * 8, None, [70.0] * 8, log=True)
    until(lambda: capture.view().losses == 1 and len(capture.samples) == 24)
    assert "is back; 1 gap" in capture.view().said
    logged = capture.stop_log()
    assert logged.mean_dba == pytest.approx(10 * np.log10((1e5 + 1e6 + 1e7) / 3), abs=0.01)
    assert (logged.losses, logged.seconds) == (1, 3.0)
    assert capture.instrument.begun == 2
    assert capture.stop_log() is None
    capture.stop()


def test_it_gives_up_after_many_tries_and_keeps_what_came():
    capture = started([61.0] * 4, *[None] * (live.RETRIES + 5), log=True)
    view = until(lambda: (v := capture.view()).state == "ended" and v)
    assert "what came is kept" in view.said
    assert view.level_db == 61.0
    until(lambda: capture.instrument.closed)


def test_hands_free_keeps_once_per_steady_stretch():
    kept = []
    capture = started([60.0] * 10, [60.0 + i % 7 for i in range(40)], [74.0] * 200, keep=kept.append, arm=True)
    until(lambda: len(capture.samples) == 250)
    until(lambda: len(kept) == capture.kept)
    assert 0 < len(kept) <= 2
    assert kept[-1].mean_dba == pytest.approx(74.0, abs=live.STEADY_SPREAD_DB)
    assert capture.view().kept == len(kept)
    capture.arm(False)
    assert not capture.view().armed
    capture.stop()


def test_overload_is_seen_and_counted():
    capture = started([90.0] * 4 + [105.0] * 2, log=True)
    view = until(lambda: (v := capture.view()).overload and v)
    assert view.overload
    until(lambda: len(capture.samples) == 6)
    assert capture.stop_log().overloads == 2
    capture.stop()


def test_the_microphone_refuses_what_is_no_sound_and_records_only_when_asked():
    for rate in (100.0, 1e6):
        with pytest.raises(BadInput, match="out of range"):
            Microphone(rate, None)
    microphone = Microphone(8000.0, 110.0)
    block = (0.1 * np.sin(np.arange(2000) / 3)).astype("<f4").tobytes()
    for bad in (b"", b"odd", np.full(4, np.nan, dtype="<f4").tobytes()):
        with pytest.raises(BadInput):
            microphone.take(bad)
    microphone.take(block)
    assert microphone.record(True).size == 0
    microphone.take(block)
    assert microphone.record(False).size == 2000
    microphone.take(block)
    assert microphone.record(False).size == 0
    microphone.close()
    levels = [s.fast_dba for s in microphone.samples()]
    assert len(levels) == 6
    tone_hz = 8000 / (2 * np.pi * 3)
    assert levels[-1] == pytest.approx(90.0 + float(weighting_db(np.array(tone_hz), "A")), abs=0.5)
    assert microphone.identify().calibrated
