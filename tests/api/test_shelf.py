"""The workshop's shelf in and out of files, by the command and by the page: all or nothing, by id or by order number."""

from __future__ import annotations

import csv
import io
import json
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient

from sphagnum.catalogue.load import shelf
from sphagnum.cli import main
from sphagnum.core.errors import BadInput
from sphagnum.core.job.document import JobDocument
from sphagnum.core.job.shelf_changes import plain
from sphagnum.core.materials.model import Material
from sphagnum.core.materials.usual import doubts
from sphagnum.core.quantities import AREAL, DENSITIES, LENGTHS, read_quantity
from sphagnum.core.schema import parse
from sphagnum.core.worded import worded
from sphagnum.demo import van
from sphagnum.exchange.shelf_file import read_shelf, write_shelf
from sphagnum.store.connect import database_url, open_store
from sphagnum.store.documents import store_document
from worked import AUTHOR

EXAMPLE = {
    "id": "butyl-foil", "name": "Butyl damping sheet, aluminium faced", "family": "damping", "roles": ["damping"],
    "properties": {"density_kg_m3": 1500, "youngs_modulus_mpa": 30, "loss_factor": 0.8},
    "sources": {"loss_factor": "data sheet", "density_kg_m3": "typical"}, "parts": [],
    "stock": [{"thickness_mm": 2.0, "form": "sheet", "width_mm": 500, "length_mm": 800, "per_pack": 10, "price": 11.5,
               "supplier": "", "order_number": "", "priced_on": "2026-11-01", "on_hand": 3}],
    "limits": {"most_c": 80, "wet": True}, "hold": "self-adhesive", "retired": False}


def run(capsys: pytest.CaptureFixture[str], *words: object) -> tuple[int, str]:
    """The command's exit code, and what it said."""
    capsys.readouterr()
    code = main(["shelf", *map(str, words)])
    said = capsys.readouterr()
    return code, (said.out or said.err).strip()


def counted(text: str) -> tuple[int, int, int]:
    got = json.loads(text)
    return got["added"], got["changed"], got["same"]


@pytest.mark.parametrize("ending", ["csv", "json"])
def test_what_is_exported_and_imported_again_changes_nothing(tmp_path: Path, capsys: pytest.CaptureFixture[str], ending: str):
    data, file = tmp_path / "data", tmp_path / f"shelf.{ending}"
    assert run(capsys, "export", file, "--data", data)[0] == 0
    assert not data.exists()  # looking at a shelf makes none
    count = len(shelf().materials)
    assert count >= 80
    assert counted(run(capsys, "import", file, "--data", data, "--dry-run")[1]) == (0, 0, count)
    assert not data.exists()
    own = tmp_path / "own.json"
    own.write_text(json.dumps([EXAMPLE, {**EXAMPLE, "id": "=odd", "name": "no id begins so"}]), "utf-8")
    code, said = run(capsys, "import", own, "--data", data)
    assert (code, "[1]: id" in said) == (2, True)
    own.write_text(json.dumps([EXAMPLE, {**EXAMPLE, "id": "mine", "name": "=SUM(A1)", "hold": "+1 -glue"}]), "utf-8")
    assert counted(run(capsys, "import", own, "--data", data)[1]) == (1, 1, 0)
    assert counted(run(capsys, "import", own, "--data", data)[1]) == (0, 0, 2)
    assert run(capsys, "export", file, "--data", data)[0] == 0
    assert counted(run(capsys, "import", file, "--data", data)[1]) == (0, 0, count + 1)
    assert ("'=SUM(A1)" in file.read_text("utf-8")) == (ending == "csv")
    assert counted(run(capsys, "import", file, "--data", tmp_path / "other")[1]) == (1, 1, count - 1)
    kept = read_shelf(file.read_bytes(), "again", {})
    assert {plain(m)["name"] for m in kept.added} >= {"=SUM(A1)"}


def rows_of(*materials: str) -> list[dict[str, str]]:
    data = write_shelf([shelf().material(m) for m in materials], True)
    return list(csv.DictReader(io.StringIO(data.decode())))


def test_the_table_has_a_row_per_form_and_reads_what_a_spreadsheet_makes_of_it():
    rows = rows_of("butyl-foil", "foam-vinyl")
    assert [(r["id"], r["stock.thickness_mm"], r["stock.price"]) for r in rows] == [
        ("butyl-foil", "1.5", "11.5"), ("butyl-foil", "2", "13.8"), ("butyl-foil", "3", "18.9"), ("foam-vinyl", "", "46")]
    assert (rows[1]["name"], rows[3]["parts"]) == ("", "closed-foam@6|vinyl-5@2.5")
    german = "id;stock.thickness_mm;stock.price;limits.most_c\nbutyl-foil;2,0;12,80;85\n"
    changed = read_shelf(german.encode(), "list.csv", shelf().materials).changed[0]
    assert (changed.stock[1].price, changed.limits.most_c, changed.stock[0].price) == (12.8, 85.0, 11.5)


@pytest.mark.parametrize(("text", "says"), [
    ("id,name\nx,Y,Z\n", "row 2: 3 cells under 2 columns"),
    ("id,stock.prise\nbutyl-foil,2\n", "row 1: the column 'stock.prise' is not known; did you mean 'stock.price'?"),
    ("id,stock.price\nbutyl-foil,2\n", "row 2: stock: it is sold in 3 forms, and this does not say which"),
    ("id,stock.thickness_mm,stock.price\nbutyl-foil,2,minus\n", "row 2, column stock.price: 'minus' is not a number"),
    ("id,stock.thickness_mm,stock.price\nbutyl-foil,2,-4\n", "row 2, column stock.price: -4.0 is out of range"),
    ("id,properties.density_kg_m3\nbutyl-foil,9 stone\n", "column properties.density_kg_m3: the unit 'stone' is not known"),
    ("id,limits.wet\nbutyl-foil,perhaps\n", "column limits.wet: 'perhaps' is neither true nor false"),
    ("id,id\na,b\n", "the column 'id' stands twice"), ("name\nFelt\n", "there is no column 'id'"),
    ("id,name,family\nnew,New,gel\n", "'gel' is no family of materials"), ("", "the file is empty"),
    ('[{"id": "a"}, {"id": "a"}]', "name: is missing"), ('[{"id": "butyl-foil"}, {"id": "butyl-foil"}]', "stands twice"),
    ('{"id": "a"}', "this is no list of materials"), ('[{"id": "butyl-foil", "stok": []}]', "did you mean 'stock'?"),
    ('[{"id": "c", "name": "C", "family": "combined", "roles": ["barrier"], "parts": ["none@2"]}]', "no single layer"),
    ('[{"id": "c", "name": "C", "family": "limp", "roles": []}]', "'roles' is empty"),
])
def test_a_list_that_does_not_fit_is_refused_by_row_and_column_and_leaves_all_as_it_was(text: str, says: str):
    with pytest.raises(BadInput) as refusal:
        read_shelf(text.encode(), "list.csv", shelf().materials)
    assert says in refusal.value.sentence


def test_a_suppliers_list_is_read_by_its_own_numbers(tmp_path: Path, capsys: pytest.CaptureFixture[str]):
    data, own, prices = tmp_path / "data", tmp_path / "own.csv", tmp_path / "prices.csv"
    own.write_text("id,stock.thickness_mm,stock.order_number,stock.supplier\nbutyl-foil,2,A-20,North\nbutyl-foil,3,A-30,North\n"
                   "vinyl-5,2.5,A-20,South\n", "utf-8")
    assert counted(run(capsys, "import", own, "--data", data)[1]) == (0, 2, 0)
    prices.write_text("order_number,price,supplier\nA-20,15.1,North\nA-30,21,North\nZ-9,3,North\n", "utf-8")
    code, said = run(capsys, "import", prices, "--data", data, "--match", "order_number")
    assert (code, json.loads(said)) == (0, {"added": 0, "changed": 1, "same": 0, "unknown": ["Z-9"]})
    run(capsys, "export", tmp_path / "out.json", "--data", data)
    butyl = next(m for m in json.loads((tmp_path / "out.json").read_text("utf-8")) if m["id"] == "butyl-foil")
    assert [(f["thickness_mm"], f["price"]) for f in butyl["stock"]] == [(1.5, 11.5), (2.0, 15.1), (3.0, 21.0)]
    prices.write_text("order_number,price\nA-20,15.1\n", "utf-8")
    code, said = run(capsys, "import", prices, "--data", data, "--match", "order_number")
    assert (code, "stands on 2 stock forms" in said) == (2, True)


def test_commands_take_the_shelf_of_a_file_or_of_a_data_directory(tmp_path: Path, capsys: pytest.CaptureFixture[str]):
    heavy = [{"id": "vinyl-5", "properties": {"density_kg_m3": 3920}}]
    (tmp_path / "heavy.json").write_text(json.dumps(heavy), "utf-8")
    stack = tmp_path / "stack.json"
    stack.write_text(json.dumps({"width_m": 1, "height_m": 1, "layers": [{"material": "vinyl-5", "thickness_mm": 2.5}]}), "utf-8")
    masses = []
    assert run(capsys, "import", tmp_path / "heavy.json", "--data", tmp_path / "data")[0] == 0
    for more in ([], ["--shelf", str(tmp_path / "heavy.json")], ["--data", str(tmp_path / "data")]):
        capsys.readouterr()
        assert main(["predict", str(stack), *more]) == 0
        masses.append(json.loads(capsys.readouterr().out)["surface_mass_kg_m2"])
    assert masses == [4.9, 9.8, 9.8]
    assert main(["predict", str(stack), "--data", str(tmp_path), "--shelf", str(tmp_path / "heavy.json")]) == 2


def test_a_job_from_a_shop_with_an_own_material_opens_in_an_empty_one_with_the_same_figures(
        client: FlaskClient, tmp_path: Path, capsys: pytest.CaptureFixture[str]):
    own = {**EXAMPLE, "id": "own-sheet", "name": "Sheet of our own"}
    sheet = {"form": "sheet", "width_mm": 600, "length_mm": 1000, "price": 9.0}
    mat = {"id": "own-mat", "name": "Mat of our own", "family": "combined", "roles": ["barrier"],
           "parts": ["own-sheet@2", "wool-felt@10"], "stock": [sheet]}
    steps = [{"collection": "shelf_materials", "values": {"material": m}} for m in (own, mat)]
    assert client.post("/api/workshop/edits", json={"steps": steps}, headers=AUTHOR).status_code == 200
    number = store_document(client.application.config["STORE"], parse(JobDocument, van()))
    doc = client.get(f"/api/jobs/{number}").json["document"]
    plan = next(a for a in doc["alternatives"] if a["surface_id"] == doc["surfaces"][2]["id"])
    step = {"collection": "alternatives", "row": plan["id"], "version": plan["version"], "operations": [
        {"op": "add", "at": ["layers"], "after": None, "item": {"id": "m", "material": "own-mat", "thickness_mm": 12.0}}]}
    assert client.post(f"/api/jobs/{number}/edits", json={"steps": [step]}, headers=AUTHOR).status_code == 200
    file = tmp_path / "job.json"
    file.write_bytes(client.get(f"/api/jobs/{number}/export.json").data)
    assert main(["import", str(file), "--data", str(tmp_path / "empty")]) == 0
    from sphagnum.api.app import create_app

    there = create_app(open_store(database_url(tmp_path / "empty"))).test_client()
    place = there.get("/api/jobs/1").json["document"]["surfaces"][2]["id"]

    def seen(at: FlaskClient, job: int, surface: int) -> Any:
        view = at.get(f"/api/jobs/{job}/build?surface_id={surface}").json
        return view["curves"], [m for m in view["meters"] if "buy" not in m["label"]], view["rules"]

    here, other = seen(client, number, doc["surfaces"][2]["id"]), seen(there, 1, place)
    assert other[:2] == here[:2]
    offers = there.get("/api/jobs/1/shelf").json
    assert {o["material"] for o in offers["unknown"]} == {"own-sheet", "own-mat"}
    take = there.post("/api/jobs/1/shelf", json={"onto_shelf": ["own-sheet", "own-mat"]}, headers=AUTHOR)
    assert take.status_code == 200
    assert there.get("/api/jobs/1/shelf").json["sentence"] == ""
    retired = there.get("/api/workshop").json["document"]["shelf_materials"][0]
    gone = {"collection": "shelf_materials", "row": retired["id"], "version": retired["version"], "remove": True}
    refused = there.post("/api/workshop/edits", json={"steps": [gone]}, headers=AUTHOR)
    assert (refused.status_code, refused.json["mend"]) == (422, "retire it instead")
    again = {"collection": "shelf_materials", "values": {"material": own}}
    twice = there.post("/api/workshop/edits", json={"steps": [again]}, headers=AUTHOR)
    assert "is used already" in twice.json["what"]


def test_what_is_typed_and_impossible_is_asked_about_with_the_usual_range():
    heavy = parse(Material, {**EXAMPLE, "properties": {**EXAMPLE["properties"], "density_kg_m3": 9000}})
    assert [worded(d.sentence, "metric") for d in doubts(heavy)] == [
        "A density of 9\u202f000 kg/m³ is unusual for damping: 700 to 3\u202f000 kg/m³"]
    assert doubts(heavy.model_copy(update={"sure": ("density_kg_m3",)})) == ()
    # 3.18·10⁻⁹·40^1.53/(45·10⁻⁶)² = 444 and /(10⁻⁶)² = 899 000: 2000 is usual of 40 kg/m³ by its range, 1 000 000 by nothing
    wool = {"id": "w", "name": "W", "family": "porous", "roles": ["absorber"]}
    loose = parse(Material, {**wool, "properties": {"density_kg_m3": 300, "flow_resistivity_pa_s_m2": 2000}})
    assert [d.property for d in doubts(loose)] == ["flow_resistivity_pa_s_m2"]
    assert doubts(parse(Material, {**wool, "properties": {"density_kg_m3": 40, "flow_resistivity_pa_s_m2": 12000}})) == ()
    bare = doubts(parse(Material, wool))
    assert [d.sentence for d in bare] == ["the density is missing, so nothing can be computed with it",
                                          "the flow resistivity is missing, so nothing can be computed with it"]


@pytest.mark.parametrize(("text", "units", "value"), [
    ("3/8 in", LENGTHS, 9.525), ("2 ft 6", LENGTHS, 762.0), ("1 1/2 in", LENGTHS, 38.1),
    ("0,8 mm", LENGTHS, 0.8), ("12", LENGTHS, 12.0),
    ("1,2 m", LENGTHS, 1200.0), ("2½ in", LENGTHS, 63.5), ("5' 3\"", LENGTHS, 1600.2), ("-3 mm", LENGTHS, -3.0),
    ("1 lb/ft²", AREAL, 4.882427636), ("6 lb/ft³", DENSITIES, 96.110780244), ("1 180", LENGTHS, 1180.0),
])
def test_quantities_are_read_with_their_units(text: str, units: Any, value: float):
    assert read_quantity(text, units) == pytest.approx(value, rel=1e-9)


@pytest.mark.parametrize("text", ["5 stone", "1/0 in", "in", "3 mm mm", "1 lb/ft²"])
def test_a_unit_that_is_not_known_is_named(text: str):
    with pytest.raises(ValueError, match=r"mm, cm, m, in or ft|divides by nothing"):
        read_quantity(text, LENGTHS)
