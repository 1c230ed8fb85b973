"""The compiled strip solver in a process of its own: a request on standard input, better and better strips on standard output.

Run as a file, so that it loads nothing but the solver. Its threads end with this process, whoever asked and however that ended.
"""

from __future__ import annotations

import json
import os
import signal
import sys
import threading
from typing import Any

import spyrrow

EVERY_S = 0.1
FEASIBLE = (spyrrow.ReportType.ExplFeas, spyrrow.ReportType.CmprFeas, spyrrow.ReportType.Final)


def told(solution: spyrrow.StripPackingSolution) -> None:
    """One strip as a line: of each piece its item, its turn in degrees and where it is moved to, mm."""
    placed = [[int(p.id), p.rotation, *p.translation] for p in solution.placed_items]
    os.write(1, (json.dumps(placed) + "\n").encode())


def main() -> None:
    """Serve one request: ``height_mm``, ``gap_mm``, ``seconds``, ``seed``, ``items`` as (corners, how many, angles or null)."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # who asked is told, and ends this
    asked: dict[str, Any] = json.load(sys.stdin)
    items = [spyrrow.Item(str(k), [(x, y) for x, y in corners], count, angles)
             for k, (corners, count, angles) in enumerate(asked["items"])]
    # one search, one core: the others are for whoever waits
    config = spyrrow.StripPackingConfig(total_computation_time=max(1, asked["seconds"]), min_items_separation=asked["gap_mm"],
                                         seed=asked["seed"], num_workers=1)
    queue, solved = spyrrow.ProgressQueue(), []

    def solve() -> None:
        try:
            solved.append(spyrrow.StripPackingInstance("", asked["height_mm"], items).solve(config, queue))
        except BaseException:  # a panic of the solver is no Exception
            return

    thread = threading.Thread(target=solve, daemon=True)
    thread.start()
    while thread.is_alive():
        thread.join(EVERY_S)
        better = [s for kind, s in queue.drain() if kind in FEASIBLE]
        if better:
            told(better[-1])
    if solved:
        told(solved[0])


if __name__ == "__main__":
    parent = os.getppid()

    def orphaned() -> None:
        """Ends this process when whoever asked is gone."""
        while os.getppid() == parent:
            threading.Event().wait(0.5)
        os._exit(1)

    threading.Thread(target=orphaned, daemon=True).start()
    try:
        main()
    except BrokenPipeError:
        pass
    finally:
        os._exit(0)  # the solver's own threads are not waited for: they end here
