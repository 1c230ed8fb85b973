"""Rows that cannot be used: the job opens, they are named above every stage, put right by one press, taken out by another."""

from __future__ import annotations

import json
import os
import sqlite3
from contextlib import closing
from pathlib import Path

import pytest
from playwright.sync_api import Browser, expect

from serving import served
from sphagnum.core.job.document import JobDocument
from sphagnum.core.schema import parse
from sphagnum.store.connect import FILE, database_url, open_store
from sphagnum.store.documents import store_document
from worked import worked_job


@pytest.mark.parametrize("width", [1280, 390] if os.environ.get("MATRIX") == "full" else [390])
@pytest.mark.broad
def test_what_cannot_be_used_is_put_right_and_taken_out(width: int, browser: Browser, tmp_path: Path):
    store_document(open_store(database_url(tmp_path)), parse(JobDocument, worked_job()))
    with closing(sqlite3.connect(tmp_path / FILE)) as link:
        for table, field, value in (("pieces", "material", "butyl-foyl"), ("readings", "level_db", 900)):
            [text] = link.execute(f"SELECT content FROM {table} WHERE id = 1").fetchone()
            link.execute(f"UPDATE {table} SET content = ? WHERE id = 1", [json.dumps({**json.loads(text), field: value})])
        link.commit()
    with served("serve", tmp_path, tmp_path / "server.log") as base:
        page = browser.new_context(viewport={"width": width, "height": 800}).new_page()
        page.goto(f"{base}/jobs/1/listen")
        aside = page.get_by_role("alert", name="What cannot be used")
        expect(aside).to_contain_text("2 things in this job cannot be used")
        expect(aside).to_contain_text("reading 900 dB: level db: 900 is out of range")
        expect(aside).to_contain_text("piece “large”: no material 'butyl-foyl' on the shelf")
        assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
        aside.get_by_role("button", name="Use Butyl damping sheet, aluminium faced there").click()
        expect(aside).to_contain_text("One thing in this job cannot be used")
        aside.get_by_role("button", name="Take it out").click()
        expect(aside).to_have_count(0)
        document = page.request.get(f"{base}/api/jobs/1").json()["document"]
        assert document["pieces"][0]["material"] == "butyl-foil"
        assert len(document["readings"]) == 5
        page.context.close()
