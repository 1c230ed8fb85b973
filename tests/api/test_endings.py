"""Commands end when they are done and at once when they are stopped: no thread or process of the solver outlives who asked."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import pytest

from sphagnum.core.cutting.layout import cut
from sphagnum.core.cutting.model import CutInput
from sphagnum.core.cutting.strips import SOLVER
from sphagnum.core.report import Stop
from sphagnum.core.schema import parse

SPHAGNUM = Path(sys.executable).parent / "sphagnum"
RUNS = 100 if os.environ.get("HARDEN") == "full" else 3


def roll(seconds: float, count: int = 5) -> dict[str, Any]:
    """Pieces of two outlines for a roll: what the compiled solver presses."""
    return {"gap_mm": 0, "seconds": seconds,
            "stock": [{"id": "roll", "width_mm": 1000, "length_mm": 10000, "roll": True, "quantity": 1, "price": 60}],
            "pieces": [{"id": "A", "outline_mm": [[0, 0], [400, 0], [380, 250], [0, 260]], "quantity": count, "rotate": "any"},
                       {"id": "B", "outline_mm": [[0, 0], [300, 0], [150, 450]], "quantity": count, "rotate": "any"}]}


def running() -> dict[int, tuple[int, str]]:
    """What runs now: of each process its parent and its command line."""
    found = subprocess.run(["ps", "-ww", "-eo", "pid,ppid,args"], capture_output=True, text=True, check=True).stdout
    return {int(pid): (int(parent), args) for pid, parent, args in (x.split(None, 2) for x in found.splitlines()[1:])}


def solvers(of: int) -> set[int]:
    """Processes of the strip solver that run for a process, by their numbers: others beside it have their own."""
    now = running()

    def within(pid: int) -> bool:
        return pid == of or (pid in now and within(now[pid][0]))
    return {pid for pid, (_, args) in now.items() if SOLVER in args and within(pid) and pid != of}


def gone(pids: set[int], patience_s: float = 3.0) -> bool:
    """Whether none of some solvers runs any more."""
    end = time.monotonic() + patience_s
    while time.monotonic() < end:
        if not any(SOLVER in running().get(pid, (0, ""))[1] for pid in pids):
            return True
        time.sleep(0.1)
    return False


def pressing(folder: Path) -> tuple[subprocess.Popen[bytes], set[int]]:
    """A long cut and its solver, which runs by now."""
    file = folder / "long.json"
    file.write_text(json.dumps(roll(30.0, 6)))
    run = subprocess.Popen([SPHAGNUM, "cut", str(file)], stdout=subprocess.PIPE, stderr=subprocess.PIPE)
    end = time.monotonic() + 60
    while not (found := solvers(run.pid)) and time.monotonic() < end:
        time.sleep(0.05)
    assert found
    return run, found


@pytest.fixture
def pieces(tmp_path: Path) -> Path:
    file = tmp_path / "pieces.json"
    file.write_text(json.dumps(roll(1.6)))
    return file


def test_cut_on_a_roll_ends_well_however_often_it_is_run(pieces: Path) -> None:
    """5 of 50 runs aborted with status 134: the solver's thread still ran when Python left."""
    for n in range(0, RUNS, 5):
        batch = [subprocess.Popen([SPHAGNUM, "cut", str(pieces)], stdout=subprocess.PIPE, stderr=subprocess.PIPE)
                 for _ in range(min(5, RUNS - n))]
        for one in batch:
            out, err = one.communicate(timeout=60)
            assert (one.returncode, err) == (0, b""), err
            assert len(json.loads(out)["used"][0]["placements"]) == 10


def test_what_is_wrong_in_one_share_ends_the_others_and_the_command(tmp_path: Path) -> None:
    """1 of 40 runs waited for good: a worker told to end as it began had swallowed that, or taken a lock with it."""
    lines = tmp_path / "stacks.jsonl"
    lines.write_text("{}\n" * 3000)
    for n in range(0, RUNS, 5):
        batch = [subprocess.Popen([SPHAGNUM, "predict", "--many", str(lines)], stdout=subprocess.PIPE, stderr=subprocess.PIPE)
                 for _ in range(min(5, RUNS - n))]
        for one in batch:
            out, err = one.communicate(timeout=90)
            assert (one.returncode, out, b"line 1" in err, err.count(b"\n")) == (2, b"", True, 1), err


def test_a_cut_that_is_interrupted_stops_at_once_and_leaves_nothing_running(tmp_path: Path) -> None:
    run, pids = pressing(tmp_path)
    run.send_signal(signal.SIGINT)
    out, err = run.communicate(timeout=20)  # far from the minute it would take
    assert (run.returncode, out) == (130, b""), err
    assert gone(pids)


def test_a_killed_command_takes_its_solver_with_it(tmp_path: Path) -> None:
    run, pids = pressing(tmp_path)
    run.kill()
    run.wait(timeout=10)
    assert gone(pids)


def test_a_search_that_is_stopped_or_whose_layout_is_let_go_leaves_nothing_running() -> None:
    pids: set[int] = set()

    def stop(_share: float, _words: str, _so_far: object = None) -> None:
        pids.update(solvers(os.getpid()))
        if pids:
            raise Stop
    with pytest.raises(Stop):
        cut(parse(CutInput, roll(20.0, 6)), report=stop)
    assert gone(pids)


def test_a_solver_that_gives_up_leaves_the_layout_there_was() -> None:
    # as wide as the roll: the solver takes none of these
    wide = [{"id": "W", "outline_mm": [[0, 0], [1000, 0], [1000, 300], [0, 310]], "quantity": 2, "rotate": "none"}]
    found = cut(parse(CutInput, {**roll(2.0), "pieces": wide}))
    assert len(found.used[0].placements) == 2
    assert found.unplaced == ()
