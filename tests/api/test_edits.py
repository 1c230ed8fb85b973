"""Edits cross one another: nothing is lost, nothing of others is taken silently, and everything can be taken back."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sphagnum.catalogue.load import shelf
from sphagnum.core.errors import BadInput
from sphagnum.core.job.document import JobDocument
from sphagnum.core.job.operations import AddItem, MoveItem, Operation, RemoveItem, SetField, Stretch, apply, differences, merge
from sphagnum.core.job.pins import pinned
from sphagnum.core.schema import parse
from sphagnum.demo import van
from sphagnum.store.connect import database_url, open_store
from sphagnum.store.documents import Read, read, store_document
from sphagnum.store.edits import Conflict, Editor, Hand, OneEdit
from sphagnum.store.undo import Blocked, redo, undo

A, B = Hand("a", "a1"), Hand("b", "b1")


class Desk:
    """A job in a store, and hands that edit it; read again after edits, it is what it is read as a whole."""

    before: Read | None = None

    def __init__(self, folder: Path) -> None:
        self.store = open_store(database_url(folder))
        self.job = store_document(self.store, pinned(parse(JobDocument, van()), shelf()))

    @property
    def doc(self) -> JobDocument:
        with self.store() as session:
            whole, self.before = read(session, self.job), read(session, self.job, self.before)
        assert whole == self.before
        return whole.document

    def does(self, hand: Hand, *edits: OneEdit) -> Any:
        return Editor(self.store, hand).together(self.job, edits)

    def undo(self, hand: Hand, **how: int) -> str:
        return undo(Editor(self.store, hand), self.job, **how)

    def redo(self, hand: Hand, **how: int) -> str:
        return redo(Editor(self.store, hand), self.job, **how)


@pytest.fixture
def desk(tmp_path: Path) -> Desk:
    return Desk(tmp_path)


def on(collection: str, row: Any, *operations: Operation, **more: Any) -> OneEdit:
    return OneEdit(collection, (row.id, row.version), operations=operations, **more)


def to(value: Any, *at: str) -> SetField:
    return SetField(at=at, value=value)


def test_layers_zones_and_context_from_one_stale_copy_all_stay(desk: Desk):
    seen = desk.doc
    plan, surface, round_ = seen.alternatives[0], seen.surfaces[1], seen.rounds[0]
    for i in range(3):
        desk.does(A, on("alternatives", plan, AddItem(op="add", at=("layers",), item={
            "id": f"n{i}", "material": "vinyl-5", "thickness_mm": 2.5})))
    for zone in surface.keep_clear:
        desk.does(A, on("surfaces", surface, RemoveItem(op="remove", at=("keep_clear",), id=zone.id)))
    for item in ("rain", "wind", "load", "road", "tyres", "speed"):
        desk.does(A, on("rounds", round_, to(f"new {item}", "context", item)))
    desk.does(A, on("surfaces", surface, Stretch(op="stretch", at=("outline_mm",), axis=0, to_mm=800)))
    desk.does(A, on("surfaces", surface, Stretch(op="stretch", at=("outline_mm",), axis=1, to_mm=1300)))
    now = desk.doc
    assert [x.id for x in now.alternatives[0].layers] == [*(x.id for x in plan.layers), "n0", "n1", "n2"]
    assert now.surfaces[1].keep_clear == ()
    assert now.rounds[0].context["rain"] == "new rain"
    assert all(now.rounds[0].context[i] == f"new {i}" for i in ("wind", "load", "road", "tyres", "speed"))
    assert max(x for x, _ in now.surfaces[1].outline_mm) == 800
    assert max(y for _, y in now.surfaces[1].outline_mm) == 1300


def test_two_hands_conflict_only_on_the_same_field_of_the_same_item(desk: Desk):
    plan = desk.doc.alternatives[0]
    first, second = plan.layers[0].id, plan.layers[1].id
    desk.does(B, on("alternatives", plan, to(0.5, "layers", first, "coverage")))
    desk.does(A, on("alternatives", plan, to(15.0, "layers", second, "thickness_mm")))
    desk.does(A, on("alternatives", plan, to(2.0, "layers", first, "thickness_mm")))
    with pytest.raises(Conflict) as asked:
        desk.does(A, on("alternatives", plan, to(0.9, "layers", first, "coverage")))
    assert next(iter(asked.value.sent.values())) == 0.9
    desk.does(A, on("alternatives", plan, to(0.9, "layers", first, "coverage"), force=True))
    desk.does(B, on("alternatives", desk.doc.alternatives[0], RemoveItem(op="remove", at=("layers",), id=second)))
    with pytest.raises(Conflict, match="stale"):
        desk.does(A, on("alternatives", plan, to(10.0, "layers", second, "thickness_mm")))
    got = {x.id: (x.thickness_mm, x.coverage) for x in desk.doc.alternatives[0].layers}
    assert got[first] == (2.0, 0.9)
    assert second not in got


def test_an_edit_sent_twice_counts_once_and_a_gesture_is_one_step(desk: Desk):
    plan = desk.doc.alternatives[0]
    once = Hand("a", "a1", edit="e-1")
    rows = [desk.does(once, OneEdit("positions", values={"name": "Cab"})) for _ in range(2)]
    assert rows[0] == rows[1]
    assert sum(p.name == "Cab" for p in desk.doc.positions) == 1
    for i in range(30):
        desk.does(Hand("a", "a1", f"g{i}", "drag 7"), on("alternatives", plan, to(0.5 + i / 100, "layers", "1", "coverage")))
    assert desk.doc.alternatives[0].layers[0].coverage == pytest.approx(0.79)
    desk.undo(A)
    assert desk.doc.alternatives[0].layers[0].coverage == 0.8
    desk.undo(A)
    assert [p.name for p in desk.doc.positions][-1] != "Cab"
    with pytest.raises(BadInput, match="nothing of yours"):
        desk.undo(A)


def test_undo_reaches_any_depth_and_redo_comes_back_exactly(desk: Desk):
    plan = desk.doc.alternatives[0]
    states = [desk.doc]
    edits = [on("alternatives", plan, MoveItem(op="move", at=("layers",), id="1", after="3")),
             on("alternatives", plan, to(0.4, "layers", "1", "coverage")),
             on("alternatives", plan, RemoveItem(op="remove", at=("layers",), id="2")),
             OneEdit("positions", values={"name": "Cab"}), on("rounds", states[0].rounds[0], remove=True),
             OneEdit("alternatives", values={"surface_id": states[0].surfaces[0].id, "name": "C"}),
             on("jobs", states[0].job, to(12.0, "limits", "hours"))]
    for edit in [*edits, *(on("alternatives", plan, to(0.1 + i / 10, "layers", "3", "coverage")) for i in range(5))]:
        desk.does(A, edit)
        states.append(desk.doc)
    again = Desk.__new__(Desk)
    again.store, again.job = desk.store, desk.job  # another session: what can be undone is kept, not remembered
    for state in reversed(states[:-1]):
        again.undo(A)
        assert bare(again.doc) == bare(state)
    for state in states[1:]:
        again.redo(A)
        assert bare(again.doc) == bare(state)
    again.undo(A)
    desk.does(A, OneEdit("positions", values={"name": "New"}))
    with pytest.raises(BadInput, match="bring back"):
        again.redo(A)


def bare(doc: JobDocument) -> dict[str, Any]:
    """All of a job but the versions of its rows."""
    return {name: [{k: v for k, v in row.items() if k != "version"} for row in rows] if isinstance(rows, list) else
            {k: v for k, v in rows.items() if k != "version"} for name, rows in doc.model_dump(mode="json").items()}


def test_what_others_built_on_mine_is_asked_about_and_never_taken_silently(desk: Desk):
    place = desk.does(A, OneEdit("positions", values={"name": "Cab"}))[0]["id"]
    doc = desk.doc
    at = {"position_id": place, "condition_id": doc.conditions[0].id, "round_id": doc.rounds[0].id}
    desk.does(B, OneEdit("readings", values={**at, "level_db": 71.5}))
    with pytest.raises(Blocked, match=r"reading 71.5 dB to place “Cab”") as asked:
        desk.undo(A)
    assert desk.doc.readings[-1].level_db == 71.5
    desk.undo(A, force=asked.value.edit)
    assert (len(desk.doc.positions), len(desk.doc.readings)) == (len(doc.positions) - 1, len(doc.readings))
    desk.redo(A)
    assert (desk.doc.positions[-1].name, desk.doc.readings[-1].level_db) == ("Cab", 71.5)


def test_a_step_in_the_way_can_be_skipped_and_a_parent_that_went_is_said(desk: Desk):
    plan = desk.doc.alternatives[1]
    desk.does(A, on("jobs", desk.doc.job, to("first", "note")))
    desk.does(A, on("alternatives", plan, to("Mine", "name")))
    desk.does(B, on("alternatives", desk.doc.alternatives[1], to("Theirs", "name")))
    with pytest.raises(Blocked, match="somebody else changed name") as asked:
        desk.undo(A)
    assert desk.undo(A, skip=asked.value.edit).startswith("changed job")
    assert (desk.doc.alternatives[1].name, desk.doc.job.note) == ("Theirs", van()["job"]["note"])
    goal = desk.doc.goals[0]
    desk.does(A, on("goals", goal, remove=True))
    desk.does(B, on("positions", desk.doc.positions[0], remove=True))
    with pytest.raises(Blocked, match="belonged to is gone") as gone:
        desk.undo(A)
    assert not gone.value.forcible


def test_removing_what_somebody_meanwhile_built_on_is_asked_about(desk: Desk):
    place, doc = desk.doc.positions[0], desk.doc
    with desk.store() as session:
        from sphagnum.store.documents import revision
        seen = revision(session, desk.job)
    desk.does(B, OneEdit("readings", values={"position_id": place.id, "condition_id": doc.conditions[0].id,
                                             "round_id": doc.rounds[0].id, "level_db": 60.0}))
    with pytest.raises(Conflict) as asked:
        desk.does(A._replace(seen=seen), on("positions", place, remove=True))
    assert "reading 60 dB" in asked.value.what
    desk.does(A._replace(seen=seen), on("positions", place, remove=True, force=True))
    assert place.id not in {p.id for p in desk.doc.positions}


def test_a_tick_taken_back_stays_in_the_history(desk: Desk):
    surface = desk.doc.surfaces[0].id
    before = len(desk.doc.step_events)
    desk.does(A, OneEdit("step_events", values={"phase": "clean", "surface_id": surface, "what": "done", "device": "tablet"}))
    desk.undo(A)
    assert [e.what for e in desk.doc.step_events[before:]] == ["done", "undone"]
    desk.redo(A)
    assert [e.what for e in desk.doc.step_events[before:]] == ["done", "undone", "done"]


def test_over_the_wire_edits_fold_dedup_redo_and_say_what_blocks(send: Callable[..., Any], client: Any, take_in: Any):
    job = take_in(van())
    plan = send("GET", f"/jobs/{job}")[1]["document"]["alternatives"][0]
    steps = {"steps": [
        {"collection": "surfaces", "values": {"name": "Lid", "outline_mm": [[0, 0], [300, 0], [300, 200], [0, 200]],
                                              "substrate": {"material": "steel", "thickness_mm": 1}}},
        {"collection": "paths", "values": {"name": "Lid", "surface_id": "#0"}},
        {"collection": "surfaces", "row": "#0", "operations": [{"op": "add", "at": ["flags"], "item": "hot"}]},
        {"collection": "alternatives", "row": plan["id"], "version": plan["version"], "values": {"name": "Renamed"}}]}
    heads = {"X-Author": "a", "X-Tab": "t", "X-Edit": "w1"}
    answers = [client.post(f"/api/jobs/{job}/edits", json=steps, headers=heads).get_json() for _ in range(2)]
    assert answers[0] == answers[1]
    assert answers[0]["rows"][1]["surface_id"] == answers[0]["rows"][0]["id"]
    doc = send("GET", f"/jobs/{job}")[1]["document"]
    assert [s["flags"] for s in doc["surfaces"] if s["name"] == "Lid"] == [["hot"]]
    send("PATCH", f"/jobs/{job}/alternatives/{plan['id']}", {"version": 99, "changes": {"name": "B's"}}, "b")
    blocked = client.post(f"/api/jobs/{job}/undo", headers={"X-Author": "a"})
    assert blocked.status_code == 409
    step = blocked.get_json()["step"]
    assert client.post(f"/api/jobs/{job}/undo?force={step}", headers={"X-Author": "a"}).status_code == 200
    assert "Lid" not in [s["name"] for s in send("GET", f"/jobs/{job}")[1]["document"]["surfaces"]]
    assert client.post(f"/api/jobs/{job}/redo", headers={"X-Author": "a"}).status_code == 200
    for bad in ({"collection": "surfaces", "row": "#5"}, {"collection": "jobs", "remove": True}, {"collection": "cellars"},
                {"collection": "paths", "row": 1, "operations": [{"op": "set", "at": ["version"], "value": 4}]}):
        status, body = send("POST", f"/jobs/{job}/edits", {"steps": [bad]})
        assert status in (404, 422), body
        assert body["what"]


ITEMS = st.lists(st.sampled_from("abcdef"), unique=True, max_size=6)


def content(names: list[str], value: int) -> dict[str, Any]:
    return {"layers": [{"id": n, "t": value + i} for i, n in enumerate(names)], "name": value}


@given(ITEMS, ITEMS, ITEMS, st.integers(0, 3), st.integers(0, 3))
def test_merging_what_nobody_else_touched_gives_exactly_what_was_wanted(base, wanted, theirs, one, two):
    a, b = content(base, one), content(wanted, two)
    assert merge(a, a, b) == (b, [])
    merged, blocked = merge(content(theirs, one), a, b, force=True)
    kept = {i["id"] for i in merged["layers"]}
    assert {path[1] for path in blocked} <= {n for n in base if n not in theirs}
    assert {n for n in wanted if n not in base} <= kept
    assert kept <= {*theirs, *wanted}
    assert not kept & {n for n in base if n not in wanted}


@given(st.permutations("abcde"), st.lists(st.tuples(st.sampled_from("abcde"), st.sampled_from(["", *"abcde"])), max_size=5))
def test_moves_keep_every_item_and_put_it_where_told(names, moves):
    now = content(list(names), 0)
    for name, after in itertools.takewhile(lambda m: m[0] != m[1], moves):
        now = apply(now, MoveItem(op="move", at=("layers",), id=name, after=after))
        order = [i["id"] for i in now["layers"]]
        assert sorted(order) == sorted(names)
        assert order.index(name) == (order.index(after) + 1 if after else 0)
    assert differences(now, now) == {}
