"""Stacks by the thousand: lines in, lines out in order, shared over the processors, with memory that stays bounded."""

from __future__ import annotations

import os
from collections import deque
from collections.abc import Iterator, Mapping, Sequence

from ..beside import Hand, begin, let_go, result
from ..core.errors import BadInput
from ..core.materials.model import Material
from ..core.schema import parse
from ..core.stacks.model import Stack
from ..core.stacks.named import resolved
from ..core.stacks.predict import AtStack, predict_many
from .files import read_json

MOST_TOGETHER = 10_000
"""Lines to a share at most: enough alike among them to compute together, few enough for the memory."""
FEW = 500
"""Fewer lines than this are not worth a second process."""

Line = tuple[int, str]


def predict_lines(lines: Sequence[str], name: str, materials: Mapping[str, Material]) -> Iterator[str]:
    """One printed result for each line that is not blank, in order. Raises BadInput naming the first bad line met."""
    numbered = [(n, line) for n, line in enumerate(lines, start=1) if line.strip()]
    if not numbered:
        raise BadInput("there is no stack in it", name, "put one stack on each line")
    workers = min(os.cpu_count() or 1, 8)
    if len(numbered) < FEW or workers == 1:
        yield from _share(numbered, name, materials)
        return
    size = min(MOST_TOGETHER, -(-len(numbered) // workers))
    shares = ((numbered[i : i + size], name, materials) for i in range(0, len(numbered), size))
    begun: deque[Hand] = deque()
    try:
        for share in shares:
            if len(begun) == workers:
                yield from result(begun.popleft())
            begun.append(begin(_share, *share))
        while begun:
            yield from result(begun.popleft())
    finally:
        let_go(begun)


def _share(lines: list[Line], name: str, materials: Mapping[str, Material]) -> list[str]:
    stacks = []
    for number, line in lines:
        where = f"{name}: line {number}"
        stack = parse(Stack, read_json(line.encode(), where), where)
        try:
            stacks.append(resolved(stack, materials))
        except BadInput as error:
            raise error.at(where) from None
    try:
        return [p.model_dump_json() for p in predict_many(stacks)]
    except AtStack as error:
        raise error.at(f"{name}: line {lines[error.index][0]}") from None
