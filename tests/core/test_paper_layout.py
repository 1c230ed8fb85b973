"""On paper no text leaves its page or lies on another: crowded rules, long names, several scripts, many pictures."""

from __future__ import annotations

import io
import os
import random
from datetime import date
from functools import lru_cache, partial
from typing import Any

import pypdfium2
import pytest
from PIL import Image
from pypdf import PdfReader
from reportlab.pdfgen.canvas import Canvas
from test_promises import LINED, STEEL, one_way

from cases import rest_broad
from sphagnum.catalogue.load import shelf
from sphagnum.core.figures.job_figures import JobFigures
from sphagnum.core.job.document import JobDocument
from sphagnum.core.job.shelf import shelf_charging
from sphagnum.core.job.workshop import WorkshopIn
from sphagnum.core.papers.blocks import Paper
from sphagnum.core.schema import parse
from sphagnum.core.stages.cut.view import cut_view
from sphagnum.core.stages.fit.done import fit_view
from sphagnum.core.stages.papers.asked import PlanAsked
from sphagnum.core.stages.papers.offer import offer
from sphagnum.core.stages.papers.offer_paper import offer_paper
from sphagnum.core.stages.papers.report import report
from sphagnum.core.surfaces.drawn import DrawnShape
from sphagnum.core.worded import view_in
from sphagnum.demo import van
from sphagnum.exchange import report_style
from sphagnum.exchange.buying_list import buying_pdf
from sphagnum.exchange.cut_sheets import cut_sheets, labels
from sphagnum.exchange.drawings.tiles import tiles_of
from sphagnum.exchange.order_sheets import order_sheets
from sphagnum.exchange.papers.html import html
from sphagnum.exchange.papers.pdf import pdf
from sphagnum.exchange.papers.plain import comma_separated, guarded
from sphagnum.exchange.papers.texts import shown

JOBS = int(os.environ.get("SWEEP_PAPERS", "12"))
SCRIPTS = (("Wäscherei", "Łódź", "quiet", "workshop", "door", "Unterfahrschutz"), ("Φούρνος", "ήχος", "τοίχος"),
           ("Пекарня", "стена", "шум"), ("מאפייה", "קיר", "רעש"), ("مخبز", "جدار", "ضوضاء"))
WORKSHOP = parse(WorkshopIn, {"labour_per_hour": 48, "margin_percent": 15, "tax_percent": 20, "name": "Moss & Panel",
                              "address": "2 Fen Lane\nPeatmouth", "terms": [{"block": "excluded", "text": "Paint and glass."}]})


@lru_cache(maxsize=1)
def picture(_name: str = "") -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (900, 640), "#8a7a66").save(out, "JPEG")
    return out.getvalue()


def words(rng: random.Random, most: int) -> str:
    signs = rng.choice(SCRIPTS)
    return " ".join(rng.choice(signs) for _ in range(rng.randint(1, most)))[:110]


def random_job(rng: random.Random) -> dict[str, Any]:
    """A job with much in it: rounds near one another, names in several scripts, up to sixty pictures."""
    levels = [75.0 + rng.choice((0.0, -0.2, 3.0, -8.0)) * i + rng.uniform(-0.5, 0.5) for i in range(rng.randint(1, 6))]
    rounds = [{"id": i, "version": 1, "name": words(rng, 5), "follows_id": i - 1 or None, "taken_on": f"2026-11-{i:02d}",
               "state": "as found" if i == 1 else "finished" if i == len(levels) else "in between",
               "changed": words(rng, 9) if i > 1 else ""} for i in range(1, len(levels) + 1)]
    readings = [{"id": 10 * i + k, "version": 1, "round_id": i, "position_id": 1, "condition_id": 1,
                 "level_db": round(x + 0.2 * k, 1), "bands_db": [round(50 + x / 4 + rng.uniform(-9, 9), 1) for _ in range(33)]}
                for i, x in enumerate(levels, start=1) for k in range(rng.randint(1, 3))]
    surfaces = [{"id": i, "version": 1, "name": words(rng, 8), "count": rng.randint(1, 2), "substrate": STEEL,
                 "outline_mm": [[0, 0], [w := rng.randint(300, 2200), 0], [w, h := rng.randint(200, 1500)], [0, h]]}
                for i in range(1, rng.randint(2, 4))]
    goal = {"id": 1, "version": 1, "position_id": 1, "condition_id": 1, **rng.choice((
        {"aim": "change by", "value": 1.0}, {"aim": "change by", "value": 15.0}, {"aim": "reach", "value": 71.0}))}
    photos = [{"id": i, "version": 1, "file": f"{i:064x}.jpg", "caption": words(rng, 12),
               "when": rng.choice(("", "before", "after")), "surface_id": rng.choice([None, *(s["id"] for s in surfaces)])}
              for i in range(1, rng.choice((1, 2, 12, 61)))]
    job = one_way(rounds=rounds, readings=readings, goals=[goal], surfaces=surfaces, photos=photos, alternatives=[
        {"id": s["id"], "version": 1, "surface_id": s["id"], "name": words(rng, 6), "layers": LINED, "chosen": True}
        for s in surfaces],
        paths=[{"id": s["id"], "version": 1, "name": words(rng, 7), "surface_id": s["id"]} for s in surfaces],
        remarks=[{"id": 1, "version": 1, "round_id": 1, "role": "driver", "words": words(rng, 20)}])
    job["job"] |= {"name": words(rng, 7), "customer": words(rng, 6), "workshop": words(rng, 6)}
    return job


def papers(n: int) -> list[Paper]:
    doc = parse(JobDocument, random_job(random.Random(n)))
    job = JobFigures(doc, shelf_charging(shelf(), WORKSHOP))
    less = PlanAsked(name=words(random.Random(n), 4)[:80], chosen={"1": 0})
    plans = [PlanAsked(name="as planned"), less][: 1 + n % 2] if len(doc.surfaces) > 1 else [PlanAsked(name="as planned")]
    made = offer(job, doc, plans, date(2026, 11, 29), 30)
    offered = offer_paper(made, job, doc, plans)
    return [view_in(p, "metric") for p in (offered, report(job, doc, None, "own"))]


def boxes(page: Any) -> list[tuple[float, float, float, float]]:
    """Where text lies on a page: left, bottom, right, top, a little less than its signs are high."""
    text = page.get_textpage()
    out = []
    for i in range(text.count_rects()):
        left, bottom, right, top = text.get_rect(i)
        tall = top - bottom
        if right - left > 0.6 and tall > 0.6:
            out.append((left + 0.3, bottom + 0.2 * tall, right - 0.3, top - 0.2 * tall))
    return out


@pytest.mark.parametrize("n", rest_broad(range(JOBS), range(6)))
def test_no_text_leaves_its_page_or_lies_on_another(n: int) -> None:
    for paper in papers(n):
        data = pdf(paper, picture)
        pages = pypdfium2.PdfDocument(data)
        for number in range(len(pages)):
            page = pages[number]
            width, height = page.get_size()
            found = boxes(page)
            assert len(found) > 1, "an empty page"
            for i, (a, b, c, d) in enumerate(found):
                assert a > 30, (number, a)
                assert c < width - 30, (number, c)
                assert 15 < b < d < height - 15, (number, b, d)
                for e, f, g, h in found[i + 1:]:
                    assert min(c, g) - max(a, e) < 0.5 or min(d, h) - max(b, f) < 0.5, (number, (a, b, c, d), (e, f, g, h))
            said = page.get_textpage().get_text_range()  # beside letters from right to left a reader may turn figures round
            assert f"{number + 1} of {len(pages)}" in said or f"{len(pages)} of {number + 1}" in said


def test_a_paper_has_its_title_language_and_bookmarks_and_names_a_script_it_cannot_print() -> None:
    offered, told = papers(1)
    seen = PdfReader(io.BytesIO(pdf(told, picture)))
    assert seen.metadata is not None
    assert seen.metadata.title == told.title
    assert seen.root_object["/Lang"] == "en"
    assert next(str(x.title) for x in seen.outline) == told.sections[0].title  # type: ignore[union-attr]
    strange = offered.model_copy(update={"title": f"{offered.title} 静かな"})
    text = " ".join(p.extract_text() for p in PdfReader(io.BytesIO(pdf(strange, picture))).pages)
    assert "no font here has its signs: Chinese or Japanese, Hiragana" in text
    assert "静かな" in html(strange, picture).decode()


def test_a_page_of_twenty_pictures_is_small_and_asks_nobody() -> None:
    _, told = papers(3)
    page = html(told, picture).decode()
    assert len(page) < 8 * 2**20
    assert "<script" not in page
    assert "http" not in page.replace("http-equiv", "")


@pytest.mark.parametrize(("cell", "kept"), [
    ("=1+1", "'=1+1"), ("@x", "'@x"), ("\tx", "'\tx"), ("\rx", "'\rx"), ("-x", "'-x"), ("−4.2", "-4.2"), ("+3", "+3"),
    ("x=1", "x=1")])
def test_cells_are_no_formulas_and_numbers_stay_numbers(cell: str, kept: str) -> None:
    assert guarded(cell) == kept


def test_decimal_commas_come_with_semicolons() -> None:
    offered, _ = papers(0)
    rows = comma_separated(offered, decimal_comma=True).decode("utf-8-sig").splitlines()
    assert all(row.count(";") >= 1 for row in rows)
    assert any("h, " in row or ",0" in row or ",5" in row for row in rows)


def test_before_and_after_on_the_first_page_are_of_one_place() -> None:
    photos = [{"id": i, "version": 1, "file": f"{i:064x}.jpg", "surface_id": surface, "when": when,
               "caption": f"S{surface} {when}"}
              for i, (surface, when) in enumerate(((1, "before"), (2, "before"), (2, "after"), (3, "after")), start=1)]
    surfaces = [{**one_way()["surfaces"][0], "id": n, "name": f"S{n}"} for n in (1, 2, 3)]
    doc = parse(JobDocument, one_way(photos=photos, surfaces=surfaces))
    found = report(JobFigures(doc, shelf()), doc, None, "customer")
    first = next(b for s in found.sections for b in s.blocks if b.kind == "photographs")
    assert [p.caption for p in first.pictures] == ["Before: S2 before", "After: S2 after"]


@pytest.mark.parametrize(("line", "printed"), [
    ("דלת (שמאל): work order", "(לאמש) תלד: work order"),  # what is said around a name keeps its direction
    ("1. Clean: קיר (ימין) 12 mm", "1. Clean: 12 (ןימי) ריק mm"),
    ("הדלת [של (הרכב)] כאן", "ןאכ [(בכרה) לש] תלדה"),  # its brackets close what they opened
    ("Panel (left), [2]", "Panel (left), [2]"),
])
def test_a_line_is_laid_as_it_is_read(line: str, printed: str) -> None:
    assert shown(line) == printed


def test_whoever_prints_has_the_fonts_alone(monkeypatch: pytest.MonkeyPatch) -> None:
    """What prints seeks in its font files: of all ways to a printed page no two are ever at it at one time."""
    held, save = [], Canvas.save
    monkeypatch.setattr(Canvas, "save", lambda canvas: (held.append(report_style.PRESS.locked()), save(canvas))[1])
    job, link = JobFigures(parse(JobDocument, van()), shelf()), "http://127.0.0.1"
    view, order, names = cut_view(job, None), fit_view(job), {s.id: s.name for s in job.doc.surfaces}
    square = DrawnShape(id="Lid", outline_mm=((0, 0), (100, 0), (100, 100), (0, 100)))
    ways = [partial(buying_pdf, view, "Van", "", "metric"), partial(labels, view, names, "Van", link, "metric"),
            partial(cut_sheets, view, names, "Van", "metric"), partial(order_sheets, order, "Van", link, "metric"),
            partial(pdf, papers(0)[0], picture), partial(tiles_of, (square,), "A4", "metric")]
    assert all(way().startswith(b"%PDF") for way in ways)
    assert held == [True] * len(ways)
    assert not report_style.PRESS.locked()
