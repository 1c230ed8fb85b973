"""Which rules of the trade speak up for a case: data and tests joined, gravest first, overrides kept."""

from __future__ import annotations

from collections.abc import Mapping

from . import jobs, layers, places
from .case import Case, Found, Rule, Spoken, Test

__all__ = ["ORDER", "TESTS", "Case", "Found", "Rule", "Spoken", "speak"]
TESTS: dict[str, Test] = {**layers.TESTS, **places.TESTS, **jobs.TESTS}
ORDER = {"danger": 0, "warn": 1, "info": 2, "good": 3}


def speak(rules: tuple[Rule, ...], case: Case, overrides: Mapping[str, str] | None = None) -> tuple[Spoken, ...]:
    """The rules that apply to a case, gravest first, those somebody goes against last. KeyError for a rule without a test."""
    against = overrides or {}
    out = []
    for rule in rules:
        found = TESTS[rule.when](case)
        if found is not None:
            filled = rule.model_dump(exclude={"id", "when", "text"})
            out.append(Spoken(rule=rule.id, text=rule.text.format(**found.words), operations=found.mend,
                              overridden=against.get(rule.id, ""), **filled))
    return tuple(sorted(out, key=lambda s: (bool(s.overridden), ORDER[s.severity])))
