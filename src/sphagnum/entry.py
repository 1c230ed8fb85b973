"""The ``sphagnum`` command from its first instant: a signal ends it quietly with its usual status, whatever is loaded by then."""

from __future__ import annotations

import gc
import os
import signal
import sys
from typing import Any

GARBAGE_AFTER = 20_000
"""Objects made before the first look for garbage: what is loaded is none, and looking through it at every turn takes as long."""
INTERRUPTED, ENDED = 128 + signal.SIGINT, 128 + signal.SIGTERM


_told: list[int] = []
"""Signals that came: code of others may turn what they raise into errors of its own."""


def _end(number: int, _frame: Any) -> None:
    """Ends what runs in order, so that what was begun is cleared away."""
    _told.append(number)
    raise KeyboardInterrupt if number == signal.SIGINT else SystemExit(ENDED)


def main() -> int:
    """Entry of the command; the exit status: 0 done, 2 refused with one line, 130 and 143 ended by a signal, 141 by a pipe."""
    signal.signal(signal.SIGINT, lambda *_: os._exit(INTERRUPTED))  # while it is loaded there is nothing to clear away
    signal.signal(signal.SIGTERM, lambda *_: os._exit(ENDED))
    gc.set_threshold(GARBAGE_AFTER)
    from .cli import main as run

    try:
        signal.signal(signal.SIGINT, _end)
        signal.signal(signal.SIGTERM, _end)
        status = run()
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        signal.signal(signal.SIGTERM, signal.SIG_IGN)
    except KeyboardInterrupt:
        status = INTERRUPTED
    except Exception:
        if not _told:
            raise
        status = 128 + _told[0]
    except SystemExit as ended:
        status = ended.code if isinstance(ended.code, int) else 1 if ended.code else 0
    gc.freeze()  # what is left goes with the process: to look through it once more takes a tenth of a short command
    return status


if __name__ == "__main__":
    sys.exit(main())
