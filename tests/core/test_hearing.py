"""A change to hear: by the project's own analysis the two sounds differ as asked, at one gain, and loop without a click."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile

from sphagnum.cli import main
from sphagnum.core.errors import BadInput
from sphagnum.core.levels.bands import PREDICTED_HZ
from sphagnum.core.levels.hearing import HearInput, hear, shaped
from sphagnum.core.schema import parse

BEFORE = {f"{f:g}": 82 - 1.1 * i + 3 * np.sin(i) for i, f in enumerate(PREDICTED_HZ)}
LESS = {f"{f:g}": 4 + 0.7 * i * (0.5 + 0.5 * np.cos(i)) for i, f in enumerate(PREDICTED_HZ)}
AFTER = {k: v - LESS[k] for k, v in BEFORE.items()}
HZ = [f"{f:g}" for f in PREDICTED_HZ]


def written(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], body: dict[str, Any]
) -> tuple[dict[str, Any], list[dict[str, float]]]:
    """What ``hear`` prints, and the bands ``analyse`` reads of both files with the scale that says what they stand for."""
    (tmp_path / "hear.json").write_text(json.dumps(body))
    assert main(["hear", str(tmp_path / "hear.json"), str(tmp_path / "out")]) == 0
    said = json.loads(capsys.readouterr().out)
    read = []
    for name in ("before", "after"):
        scale = str(said["full_scale_db"] - said["gain_db"])
        assert main(["analyse", str(tmp_path / "out" / said[name]), f"--full-scale-db={scale}"]) == 0
        bands = json.loads(capsys.readouterr().out)["bands"]
        read.append({f"{f:g}": v for f, v in zip(bands["frequency_hz"], bands["level_db"], strict=True)})
    return said, read


@pytest.mark.parametrize("character", ["noise", "impulses", "road", "hum"])
def test_sounds_made_from_spectra_have_the_asked_bands_and_differ_by_the_asked_change(
    character: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    said, (before, after) = written(tmp_path, capsys, {
        "before_db": BEFORE, "after_db": AFTER, "character": character, "tone_hz": 100, "seconds": 4})
    info = soundfile.info(tmp_path / "out" / "before.wav")
    assert (info.samplerate, info.subtype, info.channels, info.duration) == (48_000, "PCM_24", 1, 4.0)
    assert said["gain_db"] <= 0
    held = [k for k in HZ if character != "hum" or any(abs(np.log10(n * 100 / float(k))) < 0.045 for n in range(1, 51))]
    for k in held:
        assert before[k] - after[k] == pytest.approx(LESS[k], abs=0.5), (character, k)
        assert before[k] == pytest.approx(BEFORE[k], abs=0.5), (character, k)


def test_a_recording_is_taken_through_the_change_and_shares_its_gain(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    rng = np.random.default_rng(4)
    t = np.arange(44_100 * 3) / 44_100
    sound = shaped(rng.standard_normal(t.size), np.linspace(0, -25, 21)) * 0.02 + 0.3 * np.sin(2 * np.pi * 125 * t)
    soundfile.write(tmp_path / "run.wav", np.column_stack([sound, sound]), 44_100)
    said, (before, after) = written(tmp_path, capsys, {
        "recording": "run.wav", "reduction_db": {"50": 3, "125": 9, "1000": 5, "4000": 12}, "seconds": 6})
    for k, less in {"50": 3, "63": 3, "125": 9, "160": 9, "1000": 5, "4000": 12, "5000": 12}.items():
        assert before[k] - after[k] == pytest.approx(less, abs=0.5), k
    assert said["seconds"] == pytest.approx(6, abs=1.5)


def test_both_loop_without_a_click_and_the_same_seed_gives_the_same_sound() -> None:
    asked = {"before_db": BEFORE, "after_db": AFTER, "seconds": 2}
    one, two = (hear(parse(HearInput, asked)) for _ in range(2))
    assert np.array_equal(one.after, two.after)
    for sound in (one.before, one.after):
        steps = np.abs(np.diff(np.concatenate([sound, sound[:1]])))
        assert steps[-1] <= steps[:-1].max()
        assert np.abs(sound).max() < 1


def test_a_knock_does_not_ring_before_it_comes() -> None:
    knock = np.zeros(48_000)
    knock[24_000] = 1.0
    rung = shaped(knock, np.where(np.arange(21) == 4, 12.0, -6.0))
    before, after = (float(np.sum(np.square(x))) for x in (rung[20_000:23_900], rung[24_000:27_900]))
    assert before < 1e-4 * after


@pytest.mark.parametrize(("body", "words"), [
    ({"before_db": {"50": 60}}, "give one of them"),
    ({"before_db": {"50": 60}, "recording": "a.wav", "reduction_db": {"50": 3}}, "give one of them"),
    ({"before_db": {}, "after_db": {"50": 3}}, "there are no bands"),
    ({"before_db": {"51.7": 60}, "after_db": {"50": 3}}, "not a one-third-octave band"),
    ({"before_db": {"50": 60}, "after_db": {"50": 3}, "character": "hum", "tone_hz": 21, "seconds": 0.5}, "out of range"),
])
def test_what_cannot_be_heard_is_said(body: dict[str, Any], words: str) -> None:
    with pytest.raises(BadInput) as refused:
        hear(parse(HearInput, body))
    assert words in refused.value.sentence


def test_a_recording_too_short_or_silent_is_said(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    for samples, words in ((np.ones(9000) * 0.1, "too short to loop"), (np.zeros(96_000), "silent")):
        soundfile.write(tmp_path / "run.wav", samples, 48_000)
        (tmp_path / "hear.json").write_text(json.dumps({"recording": "run.wav", "reduction_db": {"50": 3}}))
        assert main(["hear", str(tmp_path / "hear.json"), str(tmp_path)]) == 2
        assert words in capsys.readouterr().err
