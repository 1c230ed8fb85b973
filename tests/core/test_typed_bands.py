"""Bands as they are typed and pasted, an octave's energy over its thirds, dB(A) un-weighted at once; sources that go by speed."""

from __future__ import annotations

import numpy as np
import pytest

from sphagnum.catalogue.load import shelf
from sphagnum.core.errors import BadInput
from sphagnum.core.levels.bands import A_WEIGHTING_DB, NOMINAL_HZ, PREDICTED_A_DB
from sphagnum.core.levels.decibels import energy_sum
from sphagnum.core.levels.typed_bands import c_weighting_db, level_in, look_like_bands, read_bands, thirds_of

FLAT = np.zeros(21)


@pytest.mark.parametrize(("text", "bands", "octaves", "weighted"), [
    ("63: 84, 125: 86, 250: 80.5", {63: 84, 125: 86, 250: 80.5}, True, False),
    ("63 Hz\t84\n125 Hz\t86,5\n250 Hz\t80", {63: 84, 125: 86.5, 250: 80}, True, False),
    ("31,5;63;125;250\n80;84;86;81,5", {31.5: 80, 63: 84, 125: 86, 250: 81.5}, True, False),
    ("Frequency,Level dB(A)\n63,60.1\n125,70\n250,71\n500,72", {63: 60.1, 125: 70, 250: 71, 500: 72}, True, True),
    ("63 125 250 500 1k 2k 4k\n84 86 80 78 74 70 66", {63: 84, 125: 86, 250: 80, 500: 78, 1000: 74, 2000: 70, 4000: 66}, True,
     False),
    ("50=61 63=62 80=60 dB(A)", {50: 61, 63: 62, 80: 60}, False, True),
    ("1 k: 80; 2 kHz: 81; 4k = 79", {1000: 80, 2000: 81, 4000: 79}, True, False),
])
def test_bands_are_read_however_they_are_written(text: str, bands: dict[float, float], octaves: bool, weighted: bool) -> None:
    found = read_bands(text)
    assert found is not None
    assert (found.level_db, found.octaves, found.a_weighted) == (bands, octaves, weighted)


@pytest.mark.parametrize("text", ["74.8; 74.6", "73.9..75.8", "74 75 76 77 78 79 80", "0,74.1\n1,74.2\n2,75", "74.8 dB(A)",
                                  "60: 84, 125: 86, 250: 80"])
def test_levels_and_logs_are_no_bands(text: str) -> None:
    assert read_bands(text) is None


@pytest.mark.parametrize(("text", "words"), [("63: 84, 63: 85, 125: 80", "63 Hz stands twice"),
                                             ("63: 840, 125: 85, 250: 80", "840 dB is out of range")])
def test_what_is_no_band_is_said(text: str, words: str) -> None:
    with pytest.raises(BadInput, match=words):
        read_bands(text)


def test_an_octave_is_spread_by_the_source_and_adds_up_again() -> None:
    road = shelf().source("road-80")
    typed = read_bands("63: 84, 125: 86, 250: 80, 500: 78, 1000: 74, 2000: 70, 4000: 66, 8000: 60")
    assert typed is not None
    thirds = thirds_of(typed, road)
    for hz, level in typed.level_db.items():
        at = NOMINAL_HZ.index(hz)
        assert energy_sum([v for v in thirds[at - 1:at + 2] if v is not None]) == pytest.approx(level, abs=0.01)
    at = NOMINAL_HZ.index(2000.0)  # the road falls from 1.6 to 2.5 kHz, and so do its thirds: as the source, not as a flat third
    assert thirds[at - 1] - thirds[at + 1] == pytest.approx(road[15] - road[17], abs=0.02)  # type: ignore[operator]
    assert thirds[NOMINAL_HZ.index(8000.0)] == pytest.approx(60 - 10 * np.log10(3), abs=0.01)  # kept, though not predicted
    assert thirds[:4] == (None,) * 4


def test_dba_bands_are_unweighted_each_by_its_own_and_their_sum_is_the_level() -> None:
    typed = read_bands("63: 50, 125: 60, 250: 61, 500: 62", "A")
    assert typed is not None
    thirds = thirds_of(typed, FLAT)
    assert level_in("LAeq", thirds) == pytest.approx(energy_sum([50, 60, 61, 62]), abs=0.01)
    single = read_bands("50: 50, 63: 60, 80: 61", "A")
    assert single is not None
    assert thirds_of(single, FLAT)[NOMINAL_HZ.index(63.0)] == pytest.approx(60 - A_WEIGHTING_DB[NOMINAL_HZ.index(63.0)], abs=0.01)
    assert level_in("low band", thirds_of(single, FLAT)) == pytest.approx(
        energy_sum([50 + 30.2, 60 + 26.2, 61 + 22.5]), abs=0.01)


def test_c_weighting_is_that_of_the_standard() -> None:
    """IEC 61672-1:2013, table 3, column C (recalled): −3.0 at 31.5 Hz, −0.8 at 63 Hz, 0 at 1 kHz, −3.0 at 8 kHz."""
    for hz, want in ((31.62, -3.0), (63.1, -0.8), (1000.0, 0.0), (7943.0, -3.0)):
        assert c_weighting_db(hz) == pytest.approx(want, abs=0.05)


def test_seven_to_ten_levels_far_apart_are_asked_about() -> None:
    assert look_like_bands([84, 86, 80, 78, 74, 70, 66])
    assert not look_like_bands([74.8, 74.6, 75.0, 74.1, 74.9, 75.2, 74.4])
    assert not look_like_bands([84, 86, 80, 78, 74, 70])


def test_a_source_by_speed_is_the_sum_of_its_parts_each_by_its_own_law() -> None:
    """From 80 to 120 km/h tyres grow by 33·lg 1.5 = 5.8 dB and wind by 60·lg 1.5 = 10.6: the mix by something between, and most
    where the wind is."""
    kept = shelf()
    slow, fast = kept.source("driving", 80.0), kept.source("driving", 120.0)
    grown = fast - slow
    assert kept.source("tyres", 120.0) - kept.source("tyres", 80.0) == pytest.approx(5.81, abs=0.01)
    assert kept.source("wind", 120.0) - kept.source("wind", 80.0) == pytest.approx(10.57, abs=0.01)
    assert (grown > 5.2).all()
    assert (grown < 10.6).all()
    assert np.ptp(grown) > 1.0  # another shape, not only louder: a preset of 80 does not serve 120
    whole = energy_sum(fast + PREDICTED_A_DB) - energy_sum(slow + PREDICTED_A_DB)
    assert 5.8 < whole < 9.0
