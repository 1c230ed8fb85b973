"""Figures that must not get worse: a quieter box that runs hotter is seen."""

from __future__ import annotations

from ...job.document import JobDocument
from ...levels.rows import Round, SideEffect
from ...schema import Strict
from ...words import signed


class SideEffectView(Strict):
    """One figure in two rounds; ``good`` None where the loads differ or one reading is missing."""

    name: str
    unit: str
    before: float | None
    after: float | None
    good: bool | None
    words: str


def side_effects(doc: JobDocument, before: Round | None, after: Round | None) -> tuple[SideEffectView, ...]:
    """Every figure noted in either round."""
    rows = {key: {s.name.strip().lower(): s for s in doc.side_effects if r is not None and s.round_id == r.id}
            for key, r in (("before", before), ("after", after))}
    out = []
    for name in dict.fromkeys([*rows["before"], *rows["after"]]):
        a, b = rows["before"].get(name), rows["after"].get(name)
        one = a or b
        assert one is not None
        good, words = _judged(a, b)
        out.append(SideEffectView(name=one.name, unit=one.unit, before=a.value if a else None, after=b.value if b else None,
                                  good=good, words=words))
    return tuple(out)


def _judged(a: SideEffect | None, b: SideEffect | None) -> tuple[bool | None, str]:
    if a is None or b is None:
        return None, f"read it {'before' if a is None else 'after'} the work too"
    if a.load.strip().lower() != b.load.strip().lower():
        return None, f"the load differs ({a.load or 'not noted'}, {b.load or 'not noted'})"
    change = b.value - a.value
    worse = change if a.worse == "higher" else -change
    unit = f" {a.unit}" if a.unit else ""
    if worse > a.allowed_change:
        return False, f"{signed(change)}{unit}: more than the {a.allowed_change:g}{unit} allowed"
    return True, f"{signed(change)}{unit}"
