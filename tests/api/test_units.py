"""One system of units everywhere: every view, sentence and paper of a job is walked in both for a unit of the other."""

from __future__ import annotations

import io
import os
import re
from collections.abc import Iterator
from typing import Any

import pytest
from flask.testing import FlaskClient
from pypdf import PdfReader

from sphagnum.catalogue.load import shelf
from sphagnum.core.quantities import FOOT_MM, INCH_MM, LENGTHS, MASSES, POUND_KG, read_quantity
from sphagnum.core.worded import IMPERIAL, OPENS, System, bare, in_mm, marked, of, shortened, worded
from sphagnum.demo import seed
from worked import AUTHOR

FULL = os.environ.get("MATRIX") == "full"
STAGES = ("listen", "trace", "build", "cut", "fit", "prove", "plan-offered", "builds-view", "overview")
OF_THE_OTHER = {
    "imperial": re.compile(r"\d\s?(?:mm|cm|m|cm²|m²|m³|kg|kg/m²|kg/m³|m³/h)(?![\w²³/·])"),
    "metric": re.compile(r"\d\s?(?:in|ft|lb|in²|ft²|ft³|lb/ft²|ft³/min)(?![\w²³/·])"),
}
OWN_WORDS = {"document", "note", "source", "formula", "valid", "accuracy"}
"""What somebody typed stands as it was typed; formulas and their sources are in SI."""


def reads_in(client: FlaskClient, system: System) -> None:
    """The workshop reads in a system from here on."""
    own = client.get("/api/workshop").json["document"]["workshop"]
    step = {"collection": "workshops", "row": own["id"], "version": own["version"],
            "operations": [{"op": "set", "at": ["units"], "value": system}]}
    made = client.post("/api/workshop/edits", json={"steps": [step]}, headers=AUTHOR)
    assert made.status_code == 200, made.json


def sentences(found: Any, at: str = "") -> Iterator[tuple[str, str]]:
    if isinstance(found, dict):
        for key, value in found.items():
            if key not in OWN_WORDS:
                yield from sentences(value, f"{at}.{key}")
    elif isinstance(found, list):
        for value in found:
            yield from sentences(value, at)
    elif isinstance(found, str):
        yield at, found


def names_of(document: dict[str, Any]) -> list[str]:
    """Names of things are names, whatever figure is in them: longest first."""
    rows = [row for found in document.values() if isinstance(found, list) for row in found if isinstance(row, dict)]
    own = [str(row.get(key) or "") for row in rows for key in ("name", "place", "what", "size")]
    return sorted({m.name for m in shelf().materials.values()} | {n for n in own if n}, key=len, reverse=True)


def without(names: list[str], text: str) -> str:
    for name in names:
        text = re.sub(re.escape(name), "", text, flags=re.IGNORECASE)
    return text


@pytest.mark.broad
@pytest.mark.parametrize("system", ["metric", "imperial"] if FULL else ["imperial"])
def test_no_view_and_no_paper_speaks_in_the_other_system(client: FlaskClient, system: System):
    seed(client.application.config["STORE"])
    reads_in(client, system)
    seen, wrong = 0, []
    for n in (1, 2, 6, 7) if FULL and system == "imperial" else (2, 6):  # what speaks metric by itself is the danger
        document = client.get(f"/api/jobs/{n}").json["document"]
        names, first = names_of(document), next((x["id"] for x in document["surfaces"]), None)
        for stage in STAGES:
            answer = client.get(f"/api/jobs/{n}" if stage == "overview" else f"/api/jobs/{n}/{stage}")
            if answer.status_code != 200:
                continue
            assert OPENS not in answer.text
            for at, text in sentences(answer.json):
                seen += bool(re.search(r"\d (?:mm|kg|m²|in|lb|ft²)\b", text))
                if OF_THE_OTHER[system].search(without(names, text)):
                    wrong.append((stage, at, text))
        for kind in ("svg", "dxf") if first else ():
            assert OPENS.encode() not in client.get(f"/api/jobs/{n}/surfaces/{first}/pieces.{kind}").data
        for paper in ("report.pdf", "buying.pdf", "cut-sheets.pdf", "labels.pdf", "order.pdf", f"surfaces/{first}/pieces.pdf"):
            answer = client.get(f"/api/jobs/{n}/{paper}")
            if answer.status_code == 200:
                text = " ".join(page.extract_text() for page in PdfReader(io.BytesIO(answer.data)).pages)
                assert OPENS not in text
                found = OF_THE_OTHER[system].search(text := without(names, text.replace("\n", " ")))
                if found:
                    wrong.append((paper, text[found.start() - 30 : found.end() + 10]))
    assert not wrong, "\n".join(sorted({str(x) for x in wrong}))
    assert seen > 20


@pytest.mark.parametrize(("system", "told"), [("metric", "more than 50 m away"), ("imperial", "more than 164 ft away")])
def test_a_refusal_is_worded_too(client: FlaskClient, system: System, told: str):
    seed(client.application.config["STORE"])
    reads_in(client, system)
    outline = [[0, 0], [60_000, 0], [60_000, 900], [0, 900]]
    step = {"collection": "surfaces", "values": {"name": "Hall", "outline_mm": outline,
                                                 "substrate": {"material": "steel", "thickness_mm": 0.8}}}
    refused = client.post("/api/jobs/1/edits", json={"steps": [step]}, headers=AUTHOR)
    assert refused.status_code == 422
    assert OPENS not in refused.text
    assert told in refused.json["what"]


def test_a_name_is_cut_before_a_quantity_never_within_it():
    name = f"Found: vinyl {in_mm(2.5)}, felt {in_mm(20)}"
    for most in range(12, len(name) + 2):
        short = shortened(name, most)
        assert len(short) <= most
        assert short.count("⟨") == short.count("⟩")
    assert shortened(name, 34) == "Found: vinyl ⟨2.5 mm⟩, felt…"
    assert shortened(name, len(name)) == name


@pytest.mark.parametrize(("said", "metric", "imperial"), [
    (f"lapped {in_mm(30)}", "lapped 30 mm", "lapped 1 3/16 in"), (of(3, "m", ".1f"), "3.0 m", "9.8 ft"),
    (in_mm(600, 1200), "600 × 1200 mm", "23 5/8 × 47 1/4 in"), (of(44.3, "kg"), "44.3 kg", "97.7 lb"),
    (f"{of(0.0276, 'm²', '.2f')} bare", "0.03 m² bare", "0.32 ft² bare"), (bare(325, 800), "325 · 800", "12 25/32 · 31 1/2"),
    (marked(1290, 1220), "1290 × 1220 mm", "50 25/32 × 48 1/32 in"), (of(5, "dB"), "5 dB", "5 dB"),
    (of("10 to 20", "kg/m²"), "10 to 20 kg/m²", "2.05 to 4.1 lb/ft²"), (in_mm(0.8), "0.8 mm", "0.031 in"),
])
def test_a_quantity_is_worded_in_the_reader_s_system(said: str, metric: str, imperial: str):
    assert (worded(said, "metric"), worded(said, "imperial")) == (metric, imperial)


def test_what_is_worded_is_read_back_as_the_same_quantity():
    for mm in (0.8, 3.0, 12.5, 25.4, 571.0, 1220.0, 2500.0):
        assert read_quantity(worded(in_mm(mm), "imperial"), LENGTHS) == pytest.approx(mm, abs=0.4, rel=0.02)
    assert read_quantity(worded(of(44.3, "kg"), "imperial"), MASSES) == pytest.approx(44.3, abs=0.03)
    exact = {"mm": 1 / INCH_MM, "m": 1e3 / FOOT_MM, "m²": (1e3 / FOOT_MM) ** 2, "kg": 1 / POUND_KG}
    assert {u: IMPERIAL[u].each for u in exact} == pytest.approx(exact)
