"""Drawings at 1:1: out and in again unchanged, foreign ones read, hostile ones refused, paper that measures true."""

from __future__ import annotations

import io
import json
import math
import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

import ezdxf
import numpy as np
import pypdf
import pypdfium2
import pytest
from ezdxf import units
from flask.testing import FlaskClient
from shapely import Polygon

from sphagnum.cli import main
from sphagnum.core.surfaces.drawn import ReadDrawing
from sphagnum.demo import van
from sphagnum.exchange.draw_command import read_drawing

SHAPES = {"shapes": [
    {"id": "RD1", "outline_mm": [[-20.0, -30.5], [480, 0], [480, 390.25], [0, 390]], "layer": "damping",
     "label": "RD1, ‘rear’ door & left",
     "holes_mm": [[[100, 100], [160, 100], [160, 150], [100, 150]], [[200, 200], [260, 200], [230, 250]]]},
    {"id": "RD2", "outline_mm": [[600, 0], [900, 0], [900, 300], [750, 420], [600, 300]], "holes_mm": [], "layer": "barrier",
     "label": ""},
    {"id": "lies in RD2", "outline_mm": [[650, 50], [700, 50], [700, 90]], "holes_mm": [], "layer": "barrier",
     "label": "another"}]}


def run(capsys: pytest.CaptureFixture[str], *args: object) -> Any:
    assert main([str(a) for a in args]) == 0, capsys.readouterr().err
    return json.loads(capsys.readouterr().out)


def refused(capsys: pytest.CaptureFixture[str], *args: object) -> str:
    assert main([str(a) for a in args]) == 2
    out, err = capsys.readouterr()
    assert out == ""
    assert err.count("\n") == 1
    return err


def written(tmp_path: Path, body: dict[str, Any]) -> Path:
    path = tmp_path / "shapes.json"
    path.write_text(json.dumps(body), "utf-8")
    return path


@pytest.mark.parametrize("kind", ["svg", "dxf"])
def test_out_and_in_again_changes_nothing(kind: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = tmp_path / f"out.{kind}"
    run(capsys, "draw", written(tmp_path, SHAPES), file)
    again = run(capsys, "read", file)
    assert again == {"shapes": SHAPES["shapes"], "ignored": []}
    assert ReadDrawing.model_validate(again)
    if kind == "dxf":
        doc = ezdxf.readfile(file)
        assert doc.header["$INSUNITS"] == 4
        assert {"damping", "barrier"} <= {layer.dxf.name for layer in doc.layers}
    else:
        assert re.search(rb'width="920\.000mm"', file.read_bytes())


def svg(body: str, size: str = 'width="200mm" height="100mm" viewBox="0 0 200 100"') -> bytes:
    return f'<svg xmlns="http://www.w3.org/2000/svg" {size}>{body}</svg>'.encode()


def test_a_foreign_svg_is_read_with_its_unit_transforms_curves_and_holes(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    file = tmp_path / "in.svg"
    file.write_bytes(svg("""
      <g id="felt" transform="translate(10 20) scale(2)"><rect id="a" x="0" y="0" width="20" height="10"/></g>
      <g id="vinyl"><circle cx="120" cy="50" r="40"/><circle cx="120" cy="50" r="10"/>
        <path id="arc" d="M0 60 a10 10 0 0 1 20 0 z"/></g>
      <path id="open" d="M0 0 L10 0 L10 10"/><text x="5" y="5">words</text><use href="#a"/>"""))
    got = run(capsys, "read", file)
    by_id = {s["id"]: s for s in got["shapes"]}
    assert sorted(by_id["a"]["outline_mm"]) == [[10, 60], [10, 80], [50, 60], [50, 80]]  # y points up
    assert by_id["a"]["layer"] == "felt"
    ring = next(s for s in got["shapes"] if s["holes_mm"])
    area = Polygon(ring["outline_mm"], ring["holes_mm"]).area
    assert area == pytest.approx(math.pi * (40**2 - 10**2), rel=5e-4)
    assert Polygon(by_id["arc"]["outline_mm"]).area == pytest.approx(math.pi * 50, rel=5e-4)
    assert [i["entity"] for i in got["ignored"]] == ["path open", "text", "use"]
    assert "ends do not meet" in got["ignored"][0]["reason"]
    # inches by its size; no size at all is asked for
    file.write_bytes(svg('<rect id="b" width="1" height="1"/>', 'width="4in" height="2in" viewBox="0 0 4 2"'))
    assert Polygon(run(capsys, "read", file)["shapes"][0]["outline_mm"]).area == pytest.approx(25.4**2, rel=1e-5)
    file.write_bytes(svg('<rect id="b" width="1" height="1"/>', 'viewBox="0 0 4 2"'))
    assert "--unit" in refused(capsys, "read", file)
    assert Polygon(run(capsys, "read", file, "--unit", "cm")["shapes"][0]["outline_mm"]).area == pytest.approx(100)


def test_a_foreign_dxf_is_read_and_one_without_a_unit_asked_about(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    doc = ezdxf.new("R2010", units=units.CM)
    space = doc.modelspace()
    space.add_circle((0, 0), 10, dxfattribs={"layer": "felt"})
    space.add_circle((0, 0), 2, dxfattribs={"layer": "felt"})
    space.add_circle((0, 0), 3, dxfattribs={"layer": "other"})
    space.add_lwpolyline([(30, 0, 0, 0, 1), (34, 0, 0, 0, 1)], close=True)  # two half circles
    space.add_lwpolyline([(50, 0), (60, 0), (60, 5)])
    space.add_line((0, 0), (1, 1))
    doc.blocks.new("door").add_circle((0, 0), 1)
    space.add_blockref("door", (0, 0))
    file = tmp_path / "in.dxf"
    doc.saveas(file)
    got = run(capsys, "read", file)
    areas = sorted(round(Polygon(s["outline_mm"], s["holes_mm"]).area) for s in got["shapes"])
    for area, wanted in zip(areas, sorted([math.pi * (100**2 - 20**2), math.pi * 900, math.pi * 400]), strict=True):
        assert area == pytest.approx(wanted, rel=6e-4)
    assert len(got["ignored"]) == 3
    assert any("block" in i["reason"] for i in got["ignored"])
    doc.header["$INSUNITS"] = 0
    doc.saveas(file)
    assert "--unit" in refused(capsys, "read", file)
    assert run(capsys, "read", file, "--unit", "mm")["shapes"]


BOMB = '<!DOCTYPE svg [<!ENTITY a "xxxxxxxxxx">' + "".join(
    f'<!ENTITY {b} "{"".join(f"&{a};" for _ in range(10))}">' for a, b in ("ab", "bc", "cd")) + ']><svg xmlns="x">&d;</svg>'


@pytest.mark.parametrize(("name", "data", "words"), [
    ("bomb.svg", BOMB.encode(), "entities or a document type"),
    ("script.svg", svg("<script>alert(1)</script>"), "carries a script"),
    ("click.svg", svg('<rect width="1" height="1" onclick="x()"/>'), "carries a script"),
    ("many.svg", svg('<path d="M' + "L".join(f"{i % 997} {i % 991}" for i in range(220_000)) + 'Z"/>'), "points"),
    ("none.svg", b"<html/>", "no SVG"),
    ("torn.svg", svg("<g>")[:-8], "no SVG that can be read"),
    ("none.dxf", b"0\nSECTION\n2\nHEADER\nnonsense", "no DXF that can be read"),
    ("text.txt", b"hello", "neither SVG nor DXF"),
])
def test_hostile_and_broken_files_are_refused_with_one_line(
    name: str, data: bytes, words: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    (tmp_path / name).write_bytes(data)
    assert words in refused(capsys, "read", tmp_path / name)


def test_paper_is_tiled_at_one_to_one_with_a_line_of_100_mm_on_every_page(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    file = tmp_path / "out.pdf"
    run(capsys, "draw", written(tmp_path, SHAPES), file)
    pages = pypdf.PdfReader(io.BytesIO(file.read_bytes())).pages
    # A4 leaves 190 × 263 mm, 10 of them overlap: 500 × 421 mm take 3 × 2, 300 × 420 mm 2 × 2, the last one 1
    assert len(pages) == 3 * 2 + 2 * 2 + 1
    for i, page in enumerate(pages, start=1):
        text = page.extract_text()
        assert f"page {i} of 11" in text
        assert "100 mm" in text
        content = page.get_contents()
        assert content is not None
        lines = re.findall(rb"n ([\d.]+) ([\d.]+) m ([\d.]+) ([\d.]+) l S", content.get_data())
        spans = [float(x2) - float(x1) for x1, y1, x2, y2 in lines if y1 == y2]
        assert any(s == pytest.approx(100 * 72 / 25.4, abs=0.01) for s in spans)
    run(capsys, "draw", written(tmp_path, SHAPES), file, "--page", "A3")
    assert len(pypdf.PdfReader(file).pages) < 11


def test_what_cannot_be_drawn_is_said(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    crossed = {"shapes": [{"id": "x", "outline_mm": [[0, 0], [10, 10], [10, 0], [0, 10]]}]}
    assert "crosses itself" in refused(capsys, "draw", written(tmp_path, crossed), tmp_path / "a.svg")
    assert ".pdf, .svg or .dxf" in refused(capsys, "draw", written(tmp_path, SHAPES), tmp_path / "a.png")
    vast = {"shapes": [{"id": "x", "outline_mm": [[0, 0], [20000, 0], [20000, 20000], [0, 20000]]}]}
    assert "pages" in refused(capsys, "draw", written(tmp_path, vast), tmp_path / "a.pdf")
    assert list(tmp_path.glob("a.*")) == []


def test_a_surfaces_pieces_come_out_of_the_application_at_one_to_one(client: FlaskClient, take_in: Callable[..., int]) -> None:
    number = take_in(van())
    page = client.get(f"/api/jobs/{number}/cut?surface_id=2").get_json()["surface"]
    for kind in ("svg", "dxf"):
        answer = client.get(f"/api/jobs/{number}/surfaces/{page['id']}/pieces.{kind}")
        assert answer.status_code == 200
        shapes = {s.id: s for s in read_drawing(answer.data, f"x.{kind}", None).shapes}
        assert Polygon(shapes["outline"].outline_mm).area == pytest.approx(Polygon(page["outline_mm"]).area, rel=1e-6)
        for layer in page["layers"]:
            for piece in layer["pieces"]:
                assert Polygon(shapes[piece["label"]].outline_mm).equals_exact(Polygon(piece["outline_mm"]), 0.01)
    paper = client.get(f"/api/jobs/{number}/surfaces/{page['id']}/pieces.pdf?layer=0")
    text = " ".join(p.extract_text() for p in pypdf.PdfReader(io.BytesIO(paper.data)).pages)
    assert all(piece["label"] in text for piece in page["layers"][0]["pieces"])
    assert client.get(f"/api/jobs/{number}/surfaces/99/pieces.svg").status_code == 422


def test_the_paper_measures_true(tmp_path: Path, capsys: pytest.CaptureFixture[str]):
    """A shape of 160 × 230 mm rasterised at 20 dots to the millimetre."""
    shapes = {"shapes": [{"id": "a", "outline_mm": [[0, 0], [160, 0], [160, 230], [0, 230]]}]}
    run(capsys, "draw", written(tmp_path, shapes), tmp_path / "true.pdf")
    dark = pypdfium2.PdfDocument(tmp_path / "true.pdf")[0].render(scale=20 * 25.4 / 72, grayscale=True).to_numpy() < 128
    for along, wanted, other in ((0, 160, 230), (1, 230, 160)):
        edges = np.flatnonzero(dark.sum(axis=along) > 0.9 * 20 * other)  # the two that run the other way
        assert (edges[-1] - edges[0]) / 20 == pytest.approx(wanted, abs=0.2)
