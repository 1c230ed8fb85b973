"""The process that does work: takes a task from its pipe, tells how far it is, gives the result; ends with its parent."""

from __future__ import annotations

import gc
import multiprocessing
import os
import signal
import time
from collections.abc import Callable, Mapping
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from ..core.errors import BadInput

EVERY_S = 0.15
"""Reports come no closer together than this, but for the first result."""


def serve_pipe(pipe: Connection, environment: Mapping[str, str]) -> None:
    """Do one task after another until the pipe is closed; ``environment`` is the asking process's: the one this is forked from
    has kept that of its own beginning.

    Says ``("ready",)`` once it has loaded what work needs. Takes ``(kind, input as JSON)``; sends ``("told", share, words,
    result so far or None)``, then ``("done", result, MB it has grown by)`` or ``("refused", sentence)``, results as JSON.
    """
    os.environ.clear()
    os.environ.update(environment)
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # a key at the terminal is for the server, which ends its workers
    multiprocessing.current_process().daemon = False  # it may have another beside it, which ends with it
    os.nice(5)  # whoever sits before the page comes first; beside other work on the machine it still comes forward
    from .kinds import KINDS  # here, so that what it loads is loaded in the worker

    gc.freeze()  # what is loaded stays shared with the process it was forked from: looking through it would copy it
    began_mb = held_mb()
    try:
        pipe.send(("ready",))
    except OSError:
        return
    while True:
        try:
            name, text = pipe.recv()
        except (EOFError, OSError):
            return
        kind = KINDS[name]
        try:
            result = kind.do(kind.given.model_validate_json(text), _Reporter(pipe))
            pipe.send(("done", result.model_dump_json(), held_mb() - began_mb))
        except BadInput as error:
            pipe.send(("refused", error.sentence))
        except (BrokenPipeError, EOFError):
            return
        except Exception as error:
            pipe.send(("refused", f"this could not be worked out ({type(error).__name__})"))


def held_mb(process: int | None = None) -> float:
    """Memory a process (this one, if none is named) holds of its own, MB; 0 where the system does not tell."""
    try:
        text = Path(f"/proc/{process or 'self'}/smaps_rollup").read_text()
    except OSError:
        return 0.0
    return sum(int(line.split()[1]) for line in text.splitlines() if line.startswith("Private_")) / 1024


class _Reporter:
    """Sends reports, not too often; the first result at once."""

    def __init__(self, pipe: Connection) -> None:
        self.pipe, self.last, self.given = pipe, 0.0, False

    def __call__(self, share: float, words: str, so_far: Callable[[], Any] | None = None) -> None:
        first = so_far is not None and not self.given
        now = time.monotonic()
        if not first and now - self.last < EVERY_S:
            return
        self.last, self.given = now, self.given or so_far is not None
        self.pipe.send(("told", share, words, so_far().model_dump_json() if so_far is not None else None))
