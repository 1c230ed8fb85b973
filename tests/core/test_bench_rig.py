"""The Bench beside its statistics: a recording cut into readings, a signal, own properties, predictions, what is argued over."""

from __future__ import annotations

import io
import math
from typing import Any

import numpy as np
import pytest
import soundfile

from sphagnum.catalogue.load import shelf
from sphagnum.core.bench.expected import by_spectrum_db, dose_words, predicted
from sphagnum.core.bench.model import Run
from sphagnum.core.bench.own import RING, DensityIn, LossIn, Measured, ResistivityIn, StiffnessIn, composite_loss, measured
from sphagnum.core.bench.paper import bench_paper
from sphagnum.core.bench.played import bench_signal, even_gains_db
from sphagnum.core.bench.recorded import stretches
from sphagnum.core.bench.rows import SeriesKept, order_of
from sphagnum.core.bench.view import bench
from sphagnum.core.builds.model import Sheet
from sphagnum.core.errors import BadInput
from sphagnum.core.figures.lays import panel_loss, planned_lay
from sphagnum.core.job.document import JobDocument
from sphagnum.core.job.shelf import Shelf
from sphagnum.core.job.workshop import WorkshopIn
from sphagnum.core.levels.bands import PREDICTED_HZ
from sphagnum.core.levels.decibels import a_weighted
from sphagnum.core.levels.recording import History
from sphagnum.core.levels.signals import RATE_HZ
from sphagnum.core.schema import parse
from sphagnum.core.surfaces.patches import patches
from sphagnum.demo import van
from sphagnum.demo_bench import bench_series
from sphagnum.instruments.recordings import read_history

BANDS = (125.0, 500.0, 2000.0)
ON = "2026-11-30"


def recorded(samples: np.ndarray[Any, Any]) -> History:
    out = io.BytesIO()
    soundfile.write(out, samples, RATE_HZ, format="WAV", subtype="PCM_24")
    return read_history(out.getvalue(), "series.wav")


def one_take(differences: list[tuple[float, ...]], kind: Any) -> np.ndarray[Any, Any]:
    """Readings one after another in a quiet room, each band lowered by what is on, silence between."""
    rng, parts = np.random.default_rng(3), []
    still = lambda s: rng.normal(0, 1e-5, round(s * RATE_HZ))  # noqa: E731
    for lowered in differences:
        signal = bench_signal(BANDS, kind, {f"{f:g}": -d for f, d in zip(BANDS, lowered, strict=True)})
        kept = signal[:(6 if kind == "noise" else 9) * RATE_HZ]
        parts += [still(1.8), kept + still(len(kept) / RATE_HZ)]
    return np.concatenate([*parts, still(1.8)])


@pytest.mark.parametrize("kind", ["noise", "bands", "tones"])
def test_one_recording_is_cut_by_its_silences_into_readings_that_differ_by_what_was_put_on(kind: str) -> None:
    put_on = [(0.0, 0.0, 0.0), (12.0, 20.0, 26.0), (3.0, 9.0, 30.0), (0.0, 0.0, 0.0)]
    history = recorded(one_take(put_on, kind))
    found = stretches(history, BANDS, kind != "noise", 9)
    assert len(found) == 4
    levels = np.array([s.level_db for s in found], dtype=float)
    for one, lowered in zip(levels[1:], put_on[1:], strict=True):
        less = levels[0] - one
        if kind == "noise":  # bands played at once are lowered together where their peak would pass full scale
            less = less - np.mean(less - np.array(lowered))
        assert less == pytest.approx(lowered, abs=0.5)
    assert found[0].from_s == pytest.approx(1.8, abs=0.3)
    with pytest.raises(BadInput, match=r"4 stretches of sound in it, and 3 readings to come"):
        stretches(history, BANDS, kind != "noise", 3)
    with pytest.raises(BadInput, match="no silences part"):
        stretches(recorded(np.random.default_rng(1).normal(0, 0.1, 8 * RATE_HZ)), BANDS, False, 9)


def test_gains_make_the_bands_alike_at_the_empty_opening() -> None:
    runs = [Run(sample=None, level_db=(70.0, 80.0, 75.0)), Run(sample="a", level_db=(1.0, 2.0, 3.0)),
            Run(sample=None, level_db=(71.0, 81.0, None))]
    gains = even_gains_db(BANDS, runs)
    assert gains == {"125": 0.0, "500": -10.0, "2000": -4.5}
    bands = np.split(bench_signal(BANDS, "bands", gains), 3)
    rms = [10 * math.log10(float(np.mean(np.square(x)))) for x in bands]
    assert np.array(rms) - rms[0] == pytest.approx([0.0, -10.0, -4.5], abs=0.1)
    assert even_gains_db(BANDS, runs[1:2]) == {}


def own(procedure: Any, **given: Any) -> Measured:
    return measured(parse(procedure, given, "own"), shelf().materials, ON)


def test_own_properties_are_those_of_a_hand_and_a_slip_is_said() -> None:
    """8 kg on 0.04 m² are 200 kg/m²; 40 Hz: 4π²·200·1600 = 12.63 MN/m³, times 5 mm 0.0632 MPa; with the air of 5 mm,
    0.1013/(0.9·0.005) = 22.5 MN/m³ more. 2 l/min through 100 cm² are 3.33 mm/s; 25 Pa over 50 mm: 150 000 Pa·s/m²."""
    swing = {"kind": "stiffness", "material": "pe-foam", "thickness_mm": 5.0, "mass_kg": 8.0, "width_mm": 200.0,
             "length_mm": 200.0}
    one = own(StiffnessIn, **swing, hz=[40.0, 40.0, 40.0])
    assert one.value == pytest.approx(0.0632, rel=1e-3)
    assert one.interval95[0] == pytest.approx(one.value, rel=1e-3)
    with_air = own(StiffnessIn, **swing, hz=[40.0], flow_kpa_s_m2=20.0)
    assert with_air.value == pytest.approx((12.633 + 22.517) * 0.005, rel=1e-3)
    assert with_air.interval95[1] / with_air.value == pytest.approx(1.4, abs=0.01)  # read once: 10 % of the frequency stands in
    assert any("far from the" in n for n in one.notes)
    through = own(ResistivityIn, kind="resistivity", material="stone-wool", thickness_mm=50.0, area_cm2=100.0,
                  flow_l_min=[2.0, 2.0], pressure_pa=[25.0, 25.0])
    assert through.value == pytest.approx(150_000, rel=1e-3)
    # turbulence adds with the flow: drawn back to 0.5 mm/s it is gone
    speeds = np.array([2.0, 4.0, 8.0, 12.0])
    u = speeds / 6e4 / 0.01
    drawn = own(ResistivityIn, kind="resistivity", material="stone-wool", thickness_mm=50.0, area_cm2=100.0,
                flow_l_min=speeds.tolist(), pressure_pa=((15_000 + 2e5 * u) * 0.05 * u).tolist())
    assert drawn.value == pytest.approx(15_000 + 2e5 * 0.0005, rel=2e-3)
    weighed = own(DensityIn, kind="density", material="mdf", thickness_mm=12.0, width_mm=500.0, length_mm=400.0, kg=[1.8, 1.8])
    assert weighed.value == pytest.approx(750, rel=1e-3)
    assert weighed.property == "density_kg_m3"
    assert [(i.name, i.value) for i in weighed.working.inputs] == [
        ("thickness", "⟨12 mm⟩"), ("width", "⟨500 mm⟩"), ("length", "⟨400 mm⟩"), ("readings of the scale", "⟨1.8, 1.8 kg⟩")]
    for wrong, words in (({"material": "mdf"}, "no dynamic modulus"), ({"material": "no-such"}, "no material")):
        with pytest.raises(BadInput, match=words):
            own(StiffnessIn, **{**swing, **wrong}, hz=[40.0])


def test_a_loss_factor_comes_back_from_the_ring_it_makes() -> None:
    strip = {"kind": "loss", "material": "bitumen-sheet", "thickness_mm": 2.6, "panel": "steel", "panel_mm": 0.8, "hz": 200.0}
    given = parse(LossIn, {**strip, "bare_s": [1.0], "damped_s": [1.0]}, "own")
    band = PREDICTED_HZ.index(200)
    bare, both = composite_loss(given, shelf().materials, None, band), composite_loss(given, shelf().materials, 0.35, band)
    found = own(LossIn, **strip, bare_s=[RING / (200 * bare)] * 3, damped_s=[RING / (200 * both)] * 3)
    assert found.value == pytest.approx(0.35, rel=0.02)
    assert found.reference == f"measured in the shop on {ON}, 3 readings: 0.350 ± 0.000"
    with pytest.raises(BadInput, match="rings no shorter"):
        own(LossIn, **strip, bare_s=[0.2], damped_s=[0.3])
    with pytest.raises(BadInput, match="no loss of this sheet"):
        own(LossIn, **strip, bare_s=[2.0], damped_s=[0.01])


def test_what_was_measured_in_the_shop_narrows_what_is_expected_of_it() -> None:
    """To first order: e² less (slope·ln 1.5)², with (slope·ln 1.1)², the slope by the property alone."""
    known = shelf()
    layers = [{"id": "a", "material": "pe-foam", "thickness_mm": 5.0}, {"id": "b", "material": "vinyl-5", "thickness_mm": 2.5}]
    raw = {**van(), "surfaces": [{**van()["surfaces"][0], "zones": [], "present": []}], "paths": [], "leaks": [],
           "block_offs": [], "alternatives": [{"id": 1, "version": 1, "surface_id": 1, "layers": layers, "chosen": True}]}
    doc = parse(JobDocument, raw)
    lay, patch = planned_lay(doc, doc.surfaces[0]), patches(doc.surfaces[0])[0]

    def with_foam(**of: Any) -> Shelf:
        foam = known.materials["pe-foam"]
        changed = foam.model_copy(update={**of, "properties": foam.properties.model_copy(update=of.pop("properties", {}))})
        return known.model_copy(update={"materials": {**known.materials, "pe-foam": changed}})
    before, measured_ = (panel_loss(patch, lay, x)[1] for x in (known, with_foam(sources={"youngs_dynamic_mpa": "measured"})))
    stiffer = panel_loss(patch, lay, with_foam(properties={"youngs_dynamic_mpa": 0.6 * 1.1}))[1]
    first, then = (a_weighted(-np.array(x.transmission_loss_db)) for x in (before, stiffer))
    slope = (then - first) / math.log(1.1)
    by_hand = before.expected_error_db**2 + slope**2 * (math.log(1.1)**2 - math.log(1.5)**2)
    assert abs(slope) > 1
    assert measured_.expected_error_db == pytest.approx(max(by_hand, (0.6 * before.expected_error_db)**2)**0.5, abs=0.03)
    assert measured_.expected_error_db < before.expected_error_db
    assert measured_.transmission_loss_db == before.transmission_loss_db


def test_a_sample_is_predicted_at_its_size_weighed_and_a_finding_is_beyond_both_uncertainties() -> None:
    board = (Sheet(material="mdf", thickness_mm=12.0),)
    sure = predicted(board, (125.0, 250.0, 500.0, 1000.0, 2000.0), 0.09, shelf().materials, None)
    assert sure is not None
    assert sure.level_db[0] < sure.level_db[3]
    assert sure.finding == ""
    near, far = sure.all + 0.5 * sure.within_db, sure.all - 3 * sure.within_db
    at = lambda v: predicted(board, (125.0, 250.0, 500.0, 1000.0, 2000.0), 0.09, shelf().materials, (v, (v - 1, v + 1)))  # noqa: E731
    assert at(near).finding == ""  # type: ignore[union-attr]
    assert "less than predicted, beyond both uncertainties" in at(far).finding  # type: ignore[union-attr]
    assert predicted((), BANDS, 0.09, shelf().materials, None) is None
    assert by_spectrum_db((10.0, 10.0, None), BANDS, np.zeros(21)) == 10.0
    assert by_spectrum_db((None, None, None), BANDS, np.zeros(21)) is None
    low = np.where(np.array(PREDICTED_HZ) < 200, 30.0, 0.0)
    assert by_spectrum_db((5.0, 20.0, 30.0), BANDS, low) == pytest.approx(5.0, abs=0.1)
    # a cartridge of 825 ml on 1.5 m², a square foot of it
    assert dose_words(0.0929, 825, 1.5, 310) == "6.2 % of it: 51 ml, ⟨19 mm⟩ of its stroke."


def test_the_demo_s_series_answers_what_is_argued_over_and_is_a_page() -> None:
    kept = parse(SeriesKept, {"id": 1, "version": 1, **bench_series()}, "series")
    view = bench((kept,), shelf())
    [card] = view.cards
    myth = next(m for m in view.myths if m.question == "compound")
    assert any("Board 12 mm and Board, damping compound are not told apart" in a or
               "Board, damping compound and Board 12 mm are not told apart" in a for a in myth.answers)
    assert [m.answers for m in view.myths if m.question != "compound"] == [()] * 4
    said = next(s for s in card.samples if s.sample == "Board 12 mm")
    assert said.predicted is not None
    assert said.mass_kg_m2 == pytest.approx(8.4, abs=0.7)
    assert said.of_source_db is not None
    paper = bench_paper(kept, card, WorkshopIn(), ON)
    text = paper.model_dump_json()
    assert "no rating" in text
    for name in (s.name for s in kept.samples):
        assert name in text
    laid = parse(SeriesKept, {"id": 1, "version": 1, **bench_series(), "kind": "laid round the source"}, "series")
    other = bench((laid,), shelf()).cards[0]
    assert "nothing of blocking" in other.compares
    assert all(s.predicted is None for s in other.samples)
    assert order_of(kept)[0] is None
