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


def test_two_processes_give_all_works_in_their_order_and_each_once(tmp_path: Path) -> None:
    def work(i: int, here: bool) -> tuple[int, bool, int]:
        with (tmp_path / str(i)).open("x"):  # a second time there is one already
            time.sleep(0.03)
        return i, here, os.getpid()
    got = list(together([partial(work, i) for i in range(12)]))
    assert [i for i, _, _ in got] == list(range(12))
    assert {here for _, here, _ in got} == {True, False}
    assert all((pid == os.getpid()) == here for _, here, pid in got)


def test_what_a_process_was_ended_over_is_done_here() -> None:
    def work(i: int, here: bool) -> int:
        time.sleep(0.02)
        if not here and i > 3:
            os.kill(os.getpid(), signal.SIGKILL)
        return i
    assert list(together([partial(work, i) for i in range(10)])) == list(range(10))


def test_what_a_work_raises_is_raised_wherever_it_was_done_and_nothing_runs_on() -> None:
    def work(i: int, here: bool) -> int:
        time.sleep(0.02)
        if not here:
            raise BadInput("it will not do", "there", "mend it")
        return i
    works: list[Callable[[bool], int]] = [partial(work, i) for i in range(10)]
    with pytest.raises(BadInput, match="it will not do"):
        list(together(works))
    begun = together([partial(work, i) for i in range(10)])
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
