"""The commands of single stacks and linings, which load nothing of jobs."""

from __future__ import annotations

from collections.abc import Mapping

from ..core.errors import BadInput
from ..core.materials.model import Material
from ..core.schema import parse
from ..core.stacks.absorption import Absorption, Lining, absorb
from ..core.stacks.model import Stack
from ..core.stacks.named import resolved, resolved_lining
from ..core.stacks.predict import Prediction, predict
from .files import read_bytes, read_json
from .many import predict_lines

MOST_LINES_BYTES = 128 * 2**20
"""Of a file of stacks: about a hundred thousand lines, in bounded memory."""


def run_predict(name: str, materials: Mapping[str, Material]) -> Prediction:
    """``predict STACK.json``."""
    stack = parse(Stack, read_json(read_bytes(name), name), name)
    try:
        return predict(resolved(stack, materials))
    except BadInput as error:
        raise error.at(name) from None


def run_predict_many(name: str, materials: Mapping[str, Material]) -> str:
    """``predict --many STACKS.jsonl``: one result per line that is not blank, in order."""
    lines = read_bytes(name, MOST_LINES_BYTES).decode("utf-8-sig", "replace").split("\n")
    return "\n".join(predict_lines(lines, name, materials))


def run_absorb(name: str, materials: Mapping[str, Material]) -> Absorption:
    """``absorb LINING.json``."""
    lining = parse(Lining, read_json(read_bytes(name), name), name)
    try:
        return absorb(resolved_lining(lining, materials))
    except BadInput as error:
        raise error.at(name) from None
