"""What stands beside kilograms and money in Build: offcuts taken, an offer, warmth in a box, seams, mirrored sides, shakers."""

from __future__ import annotations

import math
from typing import Any

import pytest

from sphagnum.catalogue.load import shelf
from sphagnum.core.cutting.rows import Offcut
from sphagnum.core.figures.goods import goods_of
from sphagnum.core.figures.job_figures import JobFigures
from sphagnum.core.figures.lays import planned_lay, stack_of
from sphagnum.core.job.document import JobDocument
from sphagnum.core.job.shelf import Shelf, shelf_of
from sphagnum.core.job.workshop import Workshop, WorkshopDocument
from sphagnum.core.paths.enclosure import airflow_m3_s, natural_vent_m2, rise_in_box_k
from sphagnum.core.schema import parse
from sphagnum.core.stacks.predict import predict
from sphagnum.core.stages.build.view import BuildView, build
from sphagnum.core.stages.cut.view import cut_view
from sphagnum.core.surfaces.geometry import alike
from sphagnum.core.surfaces.patches import patches
from sphagnum.core.surfaces.pieces import inside_pieces
from sphagnum.core.surfaces.rows import Surface


def rectangle(width: float, height: float) -> list[list[float]]:
    return [[0, 0], [width, 0], [width, height], [0, height]]


def job(layers: list[dict[str, Any]], own: Shelf | None = None, **more: Any) -> JobFigures:
    """One steel panel of 1 × 0.5 m with a plan."""
    panel = {"id": 1, "version": 1, "name": "Panel", "outline_mm": rectangle(1000, 500),
             "substrate": {"material": "steel", "thickness_mm": 0.8}}
    plan = {"id": 1, "version": 1, "surface_id": 1, "layers": layers}
    body = {"job": {"id": 1, "version": 1, "name": "Panel", **more.pop("job", {})},
            "surfaces": [panel | more.pop("panel", {}), *more.pop("others", ())], "alternatives": [plan], **more}
    return JobFigures(parse(JobDocument, body), own or shelf())


def meter(view: BuildView, label: str) -> Any:
    return next(m for m in view.meters if m.label == label)


def test_an_offcut_taken_saves_a_sheet_and_one_that_is_only_kept_changes_nothing():
    damping = [{"material": "butyl-foil", "thickness_mm": 2.0}]
    rest = {"id": 1, "version": 1, "material": "butyl-foil", "thickness_mm": 2.0, "width_mm": 600, "length_mm": 800,
            "place": "rack 2"}
    keeps = WorkshopDocument(workshop=parse(Workshop, {"id": 1, "version": 1}), offcuts=(parse(Offcut, rest),))
    without, only_kept = (cut_view(job(damping, own), None) for own in (shelf(), shelf_of(shelf(), keeps)))
    with_it = cut_view(job(damping, shelf_of(shelf(), keeps), offcuts_taken=[rest]), None)
    assert only_kept.money == without.money
    assert [o.place for o in only_kept.offcuts] == ["rack 2"]
    used = [s for s in with_it.sheets if s.offcut]
    assert [s.offcut for s in used] == ["offcut kept, rack 2"]
    assert used[0].pieces
    # every piece lies on something once, and what the rest holds is not bought
    labels = [p.label for s in with_it.sheets for p in s.pieces]
    assert sorted(labels) == sorted(p.label for s in without.sheets for p in s.pieces)
    sheets = sum(not s.offcut for s in with_it.sheets)
    assert sheets < len(without.sheets)
    price = next(f.price for f in shelf().material("butyl-foil").stock if f.thickness_mm == 2.0)
    assert price is not None
    assert with_it.money == pytest.approx(price * sheets)
    other = cut_view(job(damping, offcuts_taken=[rest | {"thickness_mm": 4.0}]), None)
    assert other.money == without.money


def test_an_offer_adds_up_line_by_line():
    charges = parse(Workshop, {"id": 1, "version": 1, "labour_per_hour": 40, "margin_percent": 10, "tax_percent": 20})
    own = shelf_of(shelf(), WorkshopDocument(workshop=charges))
    measures = [{"id": 1, "version": 1, "name": "Feet", "effect_db": 3, "money": 50, "hours": 1}]
    layers = [{"material": "vinyl-5", "thickness_mm": 2.5}]
    view = build(job(layers, own, measures=measures), 1)
    cut = cut_view(job(layers, own, measures=measures), None)
    assert view.offer is not None
    material, labour, put_on, tax = (x.money for x in view.offer.lines)
    assert material == pytest.approx(cut.money + sum(b.money or 0 for b in cut.used_up), abs=0.005)  # the measure's 50 among it
    assert labour / 40 == pytest.approx(meter(view, "Work, whole job").value)
    assert put_on == pytest.approx(0.1 * (material + labour), abs=0.0051)
    assert tax == pytest.approx(0.2 * (material + labour + put_on), abs=0.0051)
    assert view.offer.total == pytest.approx(material + labour + put_on + tax)
    assert [x.label for x in view.offer.lines] == ["Material", view.offer.lines[1].label, "Put on both, 10 %", "Tax, 20 %"]
    slow = build(job(layers, shelf_of(shelf(), WorkshopDocument(workshop=charges.model_copy(update={"pace": 2.0}))),
                     measures=measures), 1)
    assert slow.offer == view.offer  # who learns is slower, and charges no more for it
    assert build(job(layers, measures=measures), 1).offer is None  # nobody said what an hour costs


def test_a_box_gets_as_warm_as_its_vents_and_walls_let_it():
    # 1900 W, walls that carry nothing: the vent that carries 10 K away lets it get 10 K warmer
    area = natural_vent_m2(airflow_m3_s(1900, 10), 1.0, 10, 303.0)
    assert rise_in_box_k(1900, 0, area, 1.0) == pytest.approx(10, abs=0.01)
    assert rise_in_box_k(1900, 50, 0, 1.0) == pytest.approx(38)  # 1900 W over 50 W/K
    assert rise_in_box_k(0, 5, 0, 1.0) == pytest.approx(0, abs=1e-6)
    form = {"heat_w": 1900, "vent_cm2": 2e4 * area, "height_m": 1.25, "rise_k": 8, "wall_u": 0.01}
    kept = {"id": 1, "version": 1, "calculation": "hood", "name": "box", "form": form}
    box = job([], job={"kind": "enclosure"}, calculations=[kept])
    found = meter(build(box, 1), "Warmer inside than outside")
    assert 8 < found.value < 10  # the panel carries a little
    assert found.left == pytest.approx(8 - found.value, abs=0.06)
    assert all("Warmer" not in m.label for m in build(job([], job={"kind": "enclosure"}), 1).meters)


def test_what_bears_it_is_held_against_what_it_may_carry():
    view = build(job([{"material": "vinyl-5", "thickness_mm": 2.5}], job={"limits": {"carries_kg": 2}}), 1)
    found = meter(view, "On its axles")
    assert (found.limit, found.value) == (2, meter(view, "Added weight, whole job").value)
    assert found.left is not None
    assert found.left == pytest.approx(2 - found.value, abs=0.06)


def test_the_other_side_is_known_by_its_shape():
    left = parse(Surface, {"id": 1, "version": 1, "name": "a", "substrate": {"material": "steel", "thickness_mm": 1},
                           "outline_mm": [[0, 0], [900, 0], [700, 500], [0, 500]]})
    right = left.model_copy(update={"outline_mm": ((500, 20), (1400, 20), (1400, 520), (700, 520))})
    assert alike(left, right)
    assert alike(right, left)
    assert not alike(left, left.model_copy(update={"outline_mm": ((0, 0), (900, 0), (690, 500), (0, 500))}))
    other = {"id": 2, "version": 1, "name": "b", "substrate": {"material": "steel", "thickness_mm": 1},
             "outline_mm": rectangle(1000, 500)}
    glass = other | {"id": 3, "substrate": {"material": "glass", "thickness_mm": 4}}
    assert build(job([], others=[other, glass]), 1).alike == (2,)


def test_damping_lies_round_the_loudspeaker_that_shakes_the_panel():
    door = {"outline_mm": rectangle(1200, 700), "keep_clear": [
        {"kind": "loudspeaker", "at_mm": [300, 250], "diameter_mm": 165}]}

    def middle(panel: dict[str, Any]) -> float:
        steel = {"material": "steel", "thickness_mm": 1}
        shape = parse(Surface, {"id": 1, "version": 1, "name": "d", "substrate": steel, **panel})
        cover = inside_pieces(shape, (500, 800), 0.25)
        weights = [p.area for p in cover.pieces]
        assert cover.share == pytest.approx(0.25, abs=0.06)
        return sum(p.centroid.x * a for p, a in zip(cover.pieces, weights, strict=True)) / sum(weights)

    assert abs(middle(door) - 300) < 120
    fixing = {**door, "keep_clear": [{**door["keep_clear"][0], "kind": "fixing"}]}  # type: ignore[dict-item]
    assert abs(middle(fixing) - 600) < 120


def test_battens_tie_as_studs_do_and_are_bought_as_battens():
    def board(kind: str) -> list[dict[str, Any]]:
        return [{"id": "1", "material": "air-gap", "thickness_mm": 25.0, "tie": {"kind": kind, "spacing_mm": 250.0}},
                {"id": "2", "material": "gypsum-board", "thickness_mm": 12.5}]

    panel = {"outline_mm": rectangle(3000, 2500), "substrate": {"material": "gypsum-board", "thickness_mm": 12.5}}
    curves, goods = [], []
    for kind in ("battens", "wood-studs", "channels"):
        made = job(board(kind), panel=panel)
        (patch,) = patches(made.doc.surfaces[0])
        curves.append(predict(stack_of(patch, planned_lay(made.doc, patch), shelf())).transmission_loss_db)
        goods.append({g.material: g.amount for g in goods_of(patch, made.doc.alternatives[0].layers, None, shelf())})
    assert curves[0] == curves[1] != curves[2]
    assert goods[0]["timber-batten"] == pytest.approx((2.5 / 0.25 + 1) * 3.0)  # eleven rows across, no rails
    assert "timber-stud" not in goods[0]


def test_seams_of_a_barrier_are_counted_and_said_to_be_taped():
    layers = [{"id": "1", "material": "vinyl-5", "thickness_mm": 2.5}]
    wide = {"outline_mm": rectangle(4000, 2000)}
    for more, taped in (([], False), ([{"id": "2", "material": "seam-tape", "thickness_mm": 1}], True)):
        view = build(job([*layers, *more], panel=wide), 1)
        found = next(x for x in view.section if x.id == "1")
        # a roll 1.22 m wide covers 2 m in two strips
        assert (found.seams, found.taped) == (math.ceil(2000 / 1220) - 1, taped)
