"""What the reader of logs understands, and how it is put right: columns, times, gaps, stamps twice, spectra."""

from __future__ import annotations

import pytest

from sphagnum.core.errors import BadInput
from sphagnum.instruments.log_reader import quantity_of, read_log, read_spectrum

SEVERAL = b"Time,LAeq,LCeq,Lpeak\n0,60,70,80\n1,61,71,81\n2,62,72,82\n3,61,71,81\n"


def test_several_level_columns_are_all_named_and_any_may_be_chosen():
    log = read_log(SEVERAL, "log")
    assert [(c.name, c.taken_for) for c in log.columns] == [
        ("Time", "time"), ("LAeq", "level"), ("LCeq", "other"), ("Lpeak", "other")]
    assert log.columns[1].cells == ("60", "61", "62", "61")
    assert read_log(SEVERAL, "log", "lceq").quantity == "LCeq"
    assert read_log(SEVERAL, "log", "4").run.level_db[0] == 80
    with pytest.raises(BadInput, match="use one of: Time, LAeq, LCeq, Lpeak"):
        read_log(SEVERAL, "log", "LZeq")


def test_the_time_column_may_be_set_aside():
    counted = read_log(SEVERAL, "log", interval_s=0.5, time_column="none")
    assert (counted.run.interval_s, counted.run.time_s[-1]) == (0.5, 1.5)
    with pytest.raises(BadInput, match="no time column"):
        read_log(SEVERAL, "log", time_column="none")
    named = read_log(b"a,b\n5,60\n6,61\n8,62\n", "log", "b", time_column="a")
    assert (named.run.interval_s, list(named.run.time_s)) == (1.5, [0.0, 1.0, 3.0])


def test_gaps_and_stamps_twice_are_borne():
    log = read_log(b"s,dB\n0,60\n1,61\n1,63\n2,\n7,62\n8,61\n", "log")
    assert list(log.run.time_s) == [0, 1, 1, 7, 8]
    assert log.run.interval_s == 1.0
    assert list(log.run.level_db) == [60, 61, 63, 62, 61]


@pytest.mark.parametrize(("text", "seconds"), [
    (b"t [ms];dB\n0;60\n125;61\n250;62\n", 0.125), (b"Time;dB\n00:00:00,125;60\n00:00:00,250;61\n00:00:00,375;62\n", 0.125),
    (b"Date/Time,dB\n09/14/2026 10:00:05 PM,60\n09/14/2026 10:00:10 PM,61\n09/14/2026 10:00:15 PM,62\n", 5.0),
    (b"stamp,dB\n2026-09-14T23:59:30Z,60\n2026-09-15T00:00:00Z,61\n2026-09-15T00:00:30Z,62\n", 30.0)])
def test_times_of_many_forms(text: bytes, seconds: float):
    log = read_log(text, "log")
    assert log.run.interval_s == pytest.approx(seconds)
    assert log.run.time_s[-1] == pytest.approx(2 * seconds)


@pytest.mark.parametrize(("name", "quantity"), [("LAeq", "LAeq"), ("dB(A)", "LAeq"), ("dBC", "LCeq"), ("Level [dB C]", "LCeq"),
                                                ("LZF", "LZeq"), ("SPL", None), ("Level", None)])
def test_weighting_from_the_name(name: str, quantity: str | None):
    assert quantity_of(name) == quantity


@pytest.mark.parametrize(("text", "bands"), [
    (b"Hz;dB\n63;80,5\n125;75\n250;70\n", {63.0: 80.5, 125.0: 75.0, 250.0: 70.0}),
    (b"Frequency\tL\n1 kHz\t60\n1.25 kHz\t61\n1.6k\t62\n", {1000.0: 60.0, 1250.0: 61.0, 1600.0: 62.0}),
    (b"31.5,50\n63,60\n125,65\n", {31.5: 50.0, 63.0: 60.0, 125.0: 65.0})])
def test_tables_of_bands_are_spectra(text: bytes, bands: dict[float, float]):
    from sphagnum.core.levels.bands import NOMINAL_HZ

    found = read_spectrum(text, "bands")
    assert {f: v for f, v in zip(NOMINAL_HZ, found, strict=True) if v is not None} == bands


def test_logs_are_no_spectra_and_spectra_stay_in_range():
    assert read_spectrum(SEVERAL, "log") is None
    assert read_spectrum(b"10:00:01,60\n10:00:02,61\n10:00:03,62\n", "log") is None
    with pytest.raises(BadInput, match="900 dB is out of range"):
        read_spectrum(b"Hz,dB\n63,80\n125,900\n250,70\n", "bands")
