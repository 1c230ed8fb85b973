"""The commands of single stacks and linings, which load nothing of jobs."""

from __future__ import annotations

from ..core.errors import BadInput
from ..core.job.shelf import Shelf
from ..core.schema import parse
from ..core.stacks.absorption import Absorption, Lining, absorb
from ..core.stacks.model import Stack
from ..core.stacks.predict import Prediction, predict
from .files import read_bytes, read_json
from .many import predict_lines

MOST_LINES_BYTES = 128 * 2**20
"""Of a file of stacks: about a hundred thousand lines, in bounded memory."""


def run_predict(name: str, shelf: Shelf) -> Prediction:
    """``predict STACK.json``."""
    stack = parse(Stack, read_json(read_bytes(name), name), name)
    try:
        return predict(shelf.resolve(stack))
    except BadInput as error:
        raise error.at(name) from None


def run_predict_many(name: str, shelf: Shelf) -> str:
    """``predict --many STACKS.jsonl``: one result per line that is not blank, in order."""
    lines = read_bytes(name, MOST_LINES_BYTES).decode("utf-8-sig", "replace").split("\n")
    return "\n".join(predict_lines(lines, name, shelf))


def run_absorb(name: str, shelf: Shelf) -> Absorption:
    """``absorb LINING.json``."""
    lining = parse(Lining, read_json(read_bytes(name), name), name)
    try:
        return absorb(shelf.resolve_lining(lining))
    except BadInput as error:
        raise error.at(name) from None
