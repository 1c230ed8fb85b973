"""What stays bare beside a lining: no damping is credited there, one share for sound and kilograms, and where pieces end."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from sphagnum.catalogue.load import shelf
from sphagnum.core.figures.job_figures import JobFigures
from sphagnum.core.figures.lays import (
    bending_wave_m,
    beside_gaps,
    panel_loss,
    planned_lay,
    present_lay,
    stack_of,
    with_gaps,
    without_gaps,
)
from sphagnum.core.figures.loads import job_load
from sphagnum.core.figures.many import losses_of
from sphagnum.core.figures.path_levels import a_levels, path_rows
from sphagnum.core.job.document import JobDocument
from sphagnum.core.levels.bands import PREDICTED_HZ
from sphagnum.core.schema import parse
from sphagnum.core.stacks.known import predict_cached
from sphagnum.core.stages.build.view import build
from sphagnum.core.stages.cut.view import cut_view
from sphagnum.core.surfaces.geometry import areas, gap_width_mm
from sphagnum.core.surfaces.patches import patches
from sphagnum.demo import rows, van

HZ = np.array(PREDICTED_HZ)
SQUARE = [[0, 0], [1000, 0], [1000, 1000], [0, 1000]]


def panel(layers: list[dict[str, Any]], keep_clear: list[dict[str, Any]] | None = None, **surface: Any) -> JobDocument:
    return parse(JobDocument, {
        "job": {"id": 1, "version": 1, "name": "Gaps"}, "conditions": rows({"name": "on"}),
        "surfaces": rows({"name": "Skin", "outline_mm": SQUARE, "substrate": {"material": "steel", "thickness_mm": 0.8},
                          "keep_clear": keep_clear or [], **surface}),
        "alternatives": rows({"surface_id": 1, "layers": layers}), "paths": rows({"name": "Skin", "surface_id": 1})})


def layer(material: str, mm: float, coverage: float = 1.0) -> dict[str, Any]:
    return {"material": material, "thickness_mm": mm, "coverage": coverage}


HEAVY = [layer("butyl-foil-heavy", 4.0, 0.8), layer("cotton-felt", 20), layer("vinyl-10", 5)]


def test_bare_arches_cap_the_gain_where_no_wave_averages() -> None:
    """13 % of the demo's arches are bare by their own outline; 13.7 dB were shown above 500 Hz and 8.2 for the path, 6.1 with the
    gaps wholly bare."""
    doc = parse(JobDocument, van())
    arch = patches(doc.surfaces[0])[0]
    gaps = beside_gaps(arch, planned_lay(doc, arch), shelf())
    assert gaps is not None
    size = areas(arch)
    assert gaps.covered == pytest.approx(size.treatable_m2 / size.gross_m2)  # its pieces reach all that may be covered
    gain = panel_loss(arch, planned_lay(doc, arch), shelf())[0] - panel_loss(arch, present_lay(doc, arch), shelf())[0]
    cap = 10 * np.log10(1 / (1 - gaps.covered))
    # from where the wave is shorter than the gap is wide the bare skin rules, but for what still averages
    assert (gain[HZ >= 4000] < cap + 1.0).all()
    assert (np.diff(gain[HZ >= 1000]) <= 0.05).all()
    rows_ = path_rows(JobFigures(doc, shelf()))
    path = float(a_levels(rows_.now)[0] - a_levels(rows_.planned)[0])
    assert 6.1 < path < 8.2


def test_a_gap_is_its_own_panel_for_short_waves_and_shares_what_is_round_it_for_long_ones() -> None:
    hole = [{"kind": "module", "x_mm": 400, "y_mm": 400, "width_mm": 200, "height_mm": 200, "margin_mm": 0}]
    doc = panel(HEAVY, hole)
    patch = patches(doc.surfaces[0])[0]
    lay = planned_lay(doc, patch)
    gaps = beside_gaps(patch, lay, shelf())
    assert gap_width_mm(patch, 0.96) == pytest.approx(200, rel=0.02)
    wave = bending_wave_m(patch, shelf())
    # 0.8 mm of steel at 500 Hz: 2π·(B/(m′·ω²))^¼
    stiffness = 210e9 * 0.8e-3**3 / 12 / (1 - 0.3**2)
    assert wave[10] == pytest.approx(2 * np.pi * (stiffness / (7850 * 0.8e-3)) ** 0.25 / (2 * np.pi * 500) ** 0.5, rel=0.02)
    assert gaps.alone == pytest.approx(0.2**2 / (0.2**2 + (wave / 2) ** 2), rel=0.03)
    assert (np.diff(gaps.alone) > 0).all()
    assert gaps.alone[0] < 0.6
    assert gaps.alone[-1] > 0.98
    # by hand: covered, and what is bare partly with its surroundings and partly alone
    whole, shared, bare = (np.array(predict_cached(stack_of(patch, x, shelf())).transmission_loss_db)
                           for x in (lay, gaps.shared, gaps.bare))
    rest = gaps.alone * 10 ** (-bare / 10) + (1 - gaps.alone) * 10 ** (-shared / 10)
    by_hand = -10 * np.log10(0.96 * 10 ** (-whole / 10) + 0.04 * rest)
    assert panel_loss(patch, lay, shelf())[0] == pytest.approx(by_hand, abs=0.01)
    assert {p.layer.material for p in gaps.bare.placed} == set()  # no piece of damping lies where nothing may
    assert {p.layer.material for p in gaps.shared.placed} == {"butyl-foil-heavy"}
    # the bounds: wholly averaged, wholly bare
    high, low = (with_gaps(whole, shared, bare, np.full(21, x), 0.96) for x in (0.0, 1.0))
    assert (by_hand <= high + 0.01).all()
    assert (by_hand >= low - 0.01).all()
    assert without_gaps(patch, lay, shelf()) == pytest.approx(whole)


def test_many_at_once_are_what_one_by_one_is_with_gaps_too() -> None:
    hole = [{"kind": "module", "x_mm": 300, "y_mm": 100, "width_mm": 120, "height_mm": 300, "margin_mm": 10}]
    docs = [panel(x, hole) for x in (HEAVY, HEAVY[:1], HEAVY[1:], [layer("vinyl-5", 2.5, 0.5)])]
    patch = patches(docs[0].surfaces[0])[0]
    lays = [planned_lay(d, patches(d.surfaces[0])[0]) for d in docs]
    found = losses_of(patch, lays, shelf())
    for lay, loss in zip(lays, found.loss_db, strict=True):
        assert loss == pytest.approx(panel_loss(patch, lay, shelf())[0], abs=0.011)


def test_what_stood_before_stays_in_the_gap_and_new_damping_does_not() -> None:
    hole = [{"kind": "module", "x_mm": 400, "y_mm": 400, "width_mm": 200, "height_mm": 200, "margin_mm": 0}]
    doc = panel(HEAVY, hole, present=[layer("bitumen-sheet", 2.0)])
    patch = patches(doc.surfaces[0])[0]
    gaps = beside_gaps(patch, planned_lay(doc, patch), shelf())
    assert [p.layer.material for p in gaps.bare.placed] == ["bitumen-sheet"]
    assert [p.layer.material for p in gaps.shared.placed] == ["bitumen-sheet", "butyl-foil-heavy"]


@pytest.mark.parametrize(("asked", "reached"), [(0.98, 1.0), (1.0, 1.0), (0.5, 0.5), (0.93, 0.93)])
def test_kilograms_and_sound_use_the_share_of_the_pieces_and_both_are_shown(asked: float, reached: float) -> None:
    """0.98 asked and 1.00 reached: a lining is cut to the outline; half of it that is meant is cut as half."""
    job = JobFigures(panel([layer("vinyl-5", 2.5, asked)]), shelf())
    shown = build(job, 1).layers[0]
    assert shown.coverage == asked
    assert shown.reached == pytest.approx(reached, abs=0.005)
    cut = cut_view(job, 1).surface.layers[0]
    assert (cut.wanted, cut.reached) == (asked, shown.reached)
    pieces = sum(p.area_m2 for p in cut.pieces) if hasattr(cut.pieces[0], "area_m2") else shown.reached
    assert pieces == pytest.approx(reached, abs=0.06)
    assert job_load(job).kg == pytest.approx(4.9 * shown.reached, abs=0.12)
    gaps = beside_gaps(patches(job.doc.surfaces[0])[0], planned_lay(job.doc, job.doc.surfaces[0]), shelf())
    assert (gaps is None) == (reached == 1.0)
    if gaps is not None:
        assert gaps.covered == pytest.approx(shown.reached, abs=0.001)


def test_a_band_left_at_the_edge_is_as_narrow_as_it_is() -> None:
    bare = patches(panel([layer("vinyl-5", 2.5)]).surfaces[0])[0]
    assert gap_width_mm(bare, 1.0) == 0.0
    # 2 % of a square metre along 4 m of edge: 5 mm
    assert gap_width_mm(bare, 0.98) == pytest.approx(5.0)
    strip = [{"kind": "cable run", "x_mm": 0, "y_mm": 500, "width_mm": 1000, "height_mm": 40, "margin_mm": 0}]
    crossed = patches(panel([layer("vinyl-5", 2.5)], strip).surfaces[0])[0]
    assert gap_width_mm(crossed, 0.96) == pytest.approx(40, rel=0.05)  # as wide as it is, not as long
