"""The one shape of a refusal: what is wrong, where, and how to mend it."""

from __future__ import annotations

import logging
from collections.abc import Iterator
from contextlib import contextmanager


class BadInput(ValueError):
    """Input that cannot be used. Reads as one sentence: ``where: what; mend``."""

    def __init__(self, what: str, where: str = "", mend: str = "") -> None:
        self.what, self.where, self.mend = what, where, mend
        super().__init__(self.sentence)

    @property
    def sentence(self) -> str:
        """One line, fit for standard error or a message on the screen."""
        start = f"{self.where}: " if self.where else ""
        end = f"; {self.mend}" if self.mend else ""
        return " ".join(f"{start}{self.what}{end}".split())

    def at(self, place: str) -> BadInput:
        """The same refusal with ``place`` put before where it happened."""
        joined = f"{place}: {self.where}" if self.where else place
        return BadInput(self.what, joined, self.mend)

    def __reduce__(self) -> tuple[type[BadInput], tuple[str, str, str]]:
        return BadInput, (self.what, self.where, self.mend)  # so that it crosses from one process to another whole


@contextmanager
def refusing(what: str, where: str, mend: str) -> Iterator[None]:
    """Whatever a library stumbles over in a file somebody else wrote is that file's refusal; the log keeps what it was."""
    try:
        yield
    except BadInput:
        raise
    except Exception as error:
        logging.getLogger("sphagnum").info("refused %s: %r", where, error)
        raise BadInput(what, where, mend) from error
