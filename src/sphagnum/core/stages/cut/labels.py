"""Labels of pieces: letters of the surface, no two alike in a job."""

from __future__ import annotations

from itertools import chain, count

from ...job.document import JobDocument


def prefixes(doc: JobDocument) -> dict[int, str]:
    """What the labels of each surface's pieces begin with: letters of its name, no two alike in a job."""
    out: dict[int, str] = {}
    taken = set[str]()
    for surface in doc.surfaces:
        words = ["".join(c for c in w if c.isalpha()).upper() for w in surface.name.split()]
        words = [w for w in words if w] or ["P"]
        short = ["".join(w[:n] for w in words[:2]) for n in range(1, 6)]
        out[surface.id] = next(t for t in chain(short, (f"{short[0]}{letters(n)}" for n in count(1))) if t not in taken)
        taken.add(out[surface.id])
    return out


def letters(number: int) -> str:
    """1 → A, 26 → Z, 27 → AA."""
    text = ""
    while number:
        number, rest = divmod(number - 1, 26)
        text = chr(65 + rest) + text
    return text


def copy_label(label: str, copy: int) -> str:
    return label if copy == 0 else f"{label}{letters(copy).lower()}"


def free_label(label: str, taken: set[str]) -> str:
    """A label nobody has yet, made from one that may be taken; it is taken then."""
    free = next(x for x in chain([label], (f"{label} ({n})" for n in count(2))) if x not in taken)
    taken.add(free)
    return free
