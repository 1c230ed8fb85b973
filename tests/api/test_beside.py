"""Works shared with a second process: all that they give, in order, whatever becomes of that process or this."""

from __future__ import annotations

import multiprocessing
import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

import pytest

from sphagnum.beside import together
from sphagnum.core.errors import BadInput


def meeting(mark: Path, here: bool) -> None:
    """Both processes are at work from here on: each leaves its mark and waits for the other's."""
    ours, theirs = (mark.with_name(f"{mark.name} {side}") for side in (("here", "there") if here else ("there", "here")))
    ours.touch()
    until = time.monotonic() + 60
    while not theirs.exists() and time.monotonic() < until:
        time.sleep(0.01)


def test_two_processes_give_all_works_in_their_order_and_each_once(tmp_path: Path) -> None:
    def work(i: int, here: bool) -> tuple[int, bool, int]:
        meeting(tmp_path / "mark", here)
        (tmp_path / str(i)).touch(exist_ok=False)  # a second time there is one already
        return i, here, os.getpid()
    got = list(together([partial(work, i) for i in range(12)]))
    assert [i for i, _, _ in got] == list(range(12))
    assert {here for _, here, _ in got} == {True, False}
    assert all((pid == os.getpid()) == here for _, here, pid in got)


def test_the_other_goes_on_while_nobody_takes_what_it_gives(tmp_path: Path) -> None:
    def work(i: int, here: bool) -> bytes:
        meeting(tmp_path / "mark", here)
        (tmp_path / f"{i}{here}").touch()
        until = time.monotonic() + 60
        while here and len([*tmp_path.glob("*False")]) < 5 and time.monotonic() < until:
            time.sleep(0.01)
        return bytes([i]) * 2**20  # more than a pipe holds
    assert [x[0] for x in together([partial(work, i) for i in range(6)])] == list(range(6))
    assert len([*tmp_path.glob("*True")]) == 1


def test_what_a_work_gave_stays_as_it_was_then(tmp_path: Path) -> None:
    kept = [bytes(2**20)]  # one that the other process goes on with

    def work(i: int, here: bool) -> tuple[bool, list[bytes]]:
        meeting(tmp_path / "mark", here)
        kept.append(bytes([i]))
        until = time.monotonic() + 60
        while here and not (tmp_path / "last").exists() and time.monotonic() < until:
            time.sleep(0.01)
        if not here and len(kept) == 6:
            (tmp_path / "last").touch()
        return here, kept
    got = list(together([partial(work, i) for i in range(6)]))
    assert [len(found) for here, found in got if not here] == [2, 3, 4, 5, 6]


def test_what_cannot_be_passed_on_is_told(tmp_path: Path) -> None:
    def work(_: int, here: bool) -> object:
        meeting(tmp_path / "mark", here)
        return None if here else lambda: None
    with pytest.raises(Exception, match=r"[Pp]ickle"):
        list(together([partial(work, i) for i in range(8)]))


def test_what_a_process_was_ended_over_is_done_here(tmp_path: Path) -> None:
    def work(i: int, here: bool) -> int:
        meeting(tmp_path / "mark", here)
        if not here:
            os.kill(os.getpid(), signal.SIGKILL)
        return i
    assert list(together([partial(work, i) for i in range(10)])) == list(range(10))
    assert (tmp_path / "mark there").exists()


@pytest.mark.parametrize("wrong", [True, False])
def test_what_a_work_raises_is_raised_wherever_it_was_done(wrong: bool, tmp_path: Path) -> None:
    def work(i: int, here: bool) -> int:
        meeting(tmp_path / "mark", here)
        if here is wrong:
            raise BadInput("it will not do", "there", "mend it")
        return i
    works: list[Callable[[bool], int]] = [partial(work, i) for i in range(10)]
    with pytest.raises(BadInput, match="it will not do"):
        list(together(works))
    assert multiprocessing.active_children() == []


def test_whoever_wants_no_more_leaves_nothing_running(tmp_path: Path) -> None:
    def work(i: int, here: bool) -> int:
        meeting(tmp_path / "mark", here)
        if not here and i:  # the first is waited for, whoever has it
            time.sleep(600)
        return i
    begun = together([partial(work, i) for i in range(10)])
    next(begun)
    assert len(multiprocessing.active_children()) == 1
    begun.close()  # type: ignore[attr-defined]
    assert multiprocessing.active_children() == []


ENDED = """
import os, sys, time
from sphagnum.beside import together
def work(here):
    if not here:
        print(os.getpid(), flush=True)
    time.sleep(600)
list(together([work] * 4))
"""


def test_a_process_beside_another_ends_with_it() -> None:
    with subprocess.Popen([sys.executable, "-c", ENDED], stdout=subprocess.PIPE, text=True) as parent:
        assert parent.stdout is not None
        other = int(parent.stdout.readline())
        os.kill(other, 0)
        parent.kill()
    until = time.monotonic() + 30
    while (state := _state(other)) not in ("", "Z") and time.monotonic() < until:
        time.sleep(0.02)
    assert state in ("", "Z")


def _state(pid: int) -> str:
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0]
    except OSError:
        return ""
