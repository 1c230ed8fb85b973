"""What a search of the shelf found for a patch is where the next search of it begins, and nowhere else."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

import pytest
from test_finding import figures, small, struck

from sphagnum.api.app import create_app
from sphagnum.core.figures.job_figures import JobFigures
from sphagnum.core.job.document import JobDocument
from sphagnum.core.planning.plan import weights_db
from sphagnum.core.schema import parse
from sphagnum.core.stages.plan.ahead import search_ahead
from sphagnum.core.stages.plan.find import find_plans
from sphagnum.core.stages.plan.model import PlansAsked
from sphagnum.core.stages.plan.searched import Searched
from sphagnum.core.stages.plan.unit import Unit, Wish
from sphagnum.core.stages.plan.units import units_of
from sphagnum.store import searched as store
from sphagnum.store.connect import database_url, open_store
from sphagnum.store.documents import store_document
from sphagnum.store.files import FileStore
from sphagnum.work.desk import Desk, result_of


def searched(job: JobFigures, kept: dict[str, str] | None, *also: str, width: float = 1.0) -> list[Unit]:
    where = None if kept is None else Searched(kept.get, kept.__setitem__)
    wish = Wish(weights_db("LAeq"), frozenset(), frozenset(struck(*also)), searched=where, width=lambda _before, _all: width)
    return [*units_of(job, wish)]


def told(units: list[Unit]) -> list[Any]:
    return [(u.name, u.compared, u.narrowed, u.own, u.level_db.round(9).tolist(),
             [(o.name, o.cost, o.barred, o.stack) for o in u.options]) for u in units]


LIMITS = {"added_kg": 12, "money": 90, "hours": 2, "depth_mm": 45}
LOOSER = small()["job"] | {"name": "Another", "note": "later", "limits": LIMITS}
GOAL = [small()["goals"][0] | {"value": 6.5}]


@pytest.mark.broad
def test_the_next_search_begins_where_the_one_before_ended_whatever_is_chosen_by_then():
    kept: dict[str, str] = {}
    first = told(searched(figures(), kept))
    assert len(kept) == 4  # doors, sides, the roof's field and its zone
    before = dict(kept)
    assert told(searched(figures(), kept)) == first == told(searched(figures(), None))
    # what is wanted and what it may cost decide what is chosen, not what there is to choose from
    other = figures(job=LOOSER, goals=GOAL)
    assert told(searched(other, kept)) == told(searched(other, None))
    assert kept == before
    # on a slow machine what is known is not narrowed, and what is narrowed is not kept
    assert told(searched(figures(), kept, width=0.2)) == first
    fresh: dict[str, str] = {}
    assert any(u.narrowed for u in searched(figures(), fresh, width=0.2))
    assert not fresh


@pytest.mark.parametrize("asked", [
    pytest.param(PlansAsked(struck=struck(), seconds=60.0), marks=pytest.mark.broad),
    PlansAsked(struck=struck("vinyl-5"), anew=True, kinds=2, seconds=60.0)])
def test_what_is_searched_ahead_is_all_that_a_search_asked_alike_compares(asked: PlansAsked):
    kept, fresh = dict[str, str](), list[str]()
    ahead = search_ahead(figures(), asked, Searched(kept.get, kept.__setitem__))
    assert len(kept) == 4
    found = find_plans(figures(), asked.model_copy(update={"seconds": 5.0}),
                       searched=Searched(kept.get, lambda key, _: fresh.append(key)))
    assert (found.stacks, fresh) == (ahead.compared, [])


def test_the_newest_search_ahead_of_a_job_goes_on_until_a_plan_is_asked_for(tmp_path: Path):
    desk = Desk(workers=1)
    client = create_app(open_store(database_url(tmp_path)), desk=desk, kept=FileStore(tmp_path / "files")).test_client()
    number = store_document(client.application.config["STORE"], parse(JobDocument, small()))

    def post(what: str, *also: str) -> str:
        asked = {"struck": struck(*also), "seconds": 5.0}
        return client.post(f"/api/jobs/{number}/{what}", json=asked, headers={"X-Author": "a test"}).json["id"]

    def state(key: str) -> str:
        return desk.wait(key, 0).state
    first, other = post("plan-ahead", "vinyl-5"), post("plan-ahead")
    assert state(first) == "cancelled" != state(other)
    assert post("plan-ahead") == other
    assert desk.wait(other, 120).state == "done"
    assert len([*(tmp_path / store.FOLDER).iterdir()]) >= 4
    another = post("plan-ahead", "vinyl-5")
    plan = post("plan")
    assert state(another) == "cancelled"
    found = result_of(desk.wait(plan, 120))
    assert found.stacks == result_of(desk.find(other)).compared
    desk.close()


@pytest.mark.parametrize("change", [
    {"surfaces": [s | {"flags": [*s["flags"], "wet"]} for s in small()["surfaces"]]},
    {"job": small()["job"] | {"limits": LIMITS | {"depth_mm": 20}}},
])
def test_whatever_may_change_what_is_worth_laying_is_searched_anew(change: dict[str, Any]):
    kept: dict[str, str] = {}
    searched(figures(), kept)
    before = set(kept)
    assert told(searched(figures(**change), kept)) == told(searched(figures(**change), None))
    assert len(set(kept) - before) == 4


def test_a_material_left_out_is_searched_without_and_a_broken_note_of_a_search_counts_for_nothing():
    kept: dict[str, str] = {}
    first = told(searched(figures(), kept))
    whole = dict(kept)
    less = searched(figures(), kept, "vinyl-5")
    assert len(kept) == 8
    assert not any("vinyl-5" in o.kinds for u in less for o in u.options)
    broken = {k: text[: len(text) // 2] for k, text in whole.items()}
    assert told(searched(figures(), broken)) == first
    assert broken == whole


def test_notes_of_searches_are_kept_whole_and_the_oldest_go(tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr(store, "MOST_FILES", 3)
    folder = tmp_path / store.FOLDER
    assert store.find(folder, "a1") is None
    for k in range(3):
        store.keep(folder, f"a{k}", f"text {k}")
        os.utime(folder / f"a{k}", (k, k))
    assert store.find(folder, "a0") == "text 0"  # asked for, it is the newest
    store.keep(folder, "a3", "text 3")
    assert sorted(f.name for f in folder.iterdir()) == ["a0", "a2", "a3"]
    (tmp_path / "no-folder").write_text("")
    store.keep(tmp_path / "no-folder", "a1", "text")  # nowhere to keep it: nothing is said, nothing is lost
    assert store.find(tmp_path / "no-folder", "a1") is None
