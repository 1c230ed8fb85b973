"""What is broken on purpose: bytes of a file, values of a document."""

from __future__ import annotations

import copy
import json
import random
from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np

HALF = "half \ud83d a sign"


def mangled(data: bytes, rng: np.random.Generator) -> bytes:
    """The file cut, with bytes changed, repeated, dropped or put in."""
    out = bytearray(data)
    kind = int(rng.integers(5))
    if kind == 0:
        return bytes(out[: int(rng.integers(len(out)))])
    head = min(len(out), 200) if rng.random() < 0.7 else len(out)
    for _ in range(int(rng.integers(1, 12))):
        at = int(rng.integers(head))
        if kind == 1:
            out[at] = int(rng.integers(256))
        elif kind == 2:
            out[at:at] = rng.integers(0, 256, int(rng.integers(1, 9)), dtype=np.uint8).tobytes()
        elif kind == 3:
            del out[at : at + int(rng.integers(1, 9))]
        else:
            out[at : at + 4] = b"\xff\xff\xff\xff"
        head = min(head, len(out))
        if not head:
            break
    return bytes(out)


def leaves(value: Any, at: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """Every place in a document."""
    for key, inner in (value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()):
        yield (*at, key)
        yield from leaves(inner, (*at, key))


def altered(rng: random.Random, content: Any, words: Sequence[str]) -> Any:
    """A document with one or two of its values made others: near ones, far ones, and what is no value."""
    content = copy.deepcopy(content)
    for _ in range(rng.choice((1, 1, 2))):
        at = rng.choice(list(leaves(content)))
        inside = content
        for key in at[:-1]:
            inside = inside[key]
        old, further = inside[at[-1]], [None, -1, 0, 1, 3, 0.5, 1e9, "", "x", HALF, "a\x00b", [], {}, [1, 2], True]
        if isinstance(old, str):
            further = [rng.choice(words), rng.choice(words), old + "\ud800", "nobody-has-this", *further]
        elif isinstance(old, int | float):
            further = [old * 2, old / 10, -old, old + 1, old * 100, *further]
        elif isinstance(old, list) and old:
            further = [old[:-1], old[::-1], [*old, copy.deepcopy(rng.choice(old))], *further]
        inside[at[-1]] = rng.choice(further)
    return content


def altered_json(data: bytes, rng: np.random.Generator) -> bytes:
    """The same of a JSON file."""
    return json.dumps(altered(random.Random(int(rng.integers(2**31))), json.loads(data), ("butyl-foil", "felt", "hood"))).encode()
