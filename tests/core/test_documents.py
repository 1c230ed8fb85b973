"""What the papers show is run: docs/core.md, and the examples in docstrings of the core's front door."""

from __future__ import annotations

import doctest
from pathlib import Path

import pytest

from sphagnum import core

ROOT = Path(__file__).parents[2]


def test_the_examples_of_the_core_run_as_printed():
    failed, tried = doctest.testfile(str(ROOT / "docs" / "core.md"), module_relative=False, optionflags=doctest.ELLIPSIS)
    assert failed == 0
    assert tried >= 20


def test_the_front_door_leads_where_it_says():
    assert set(core.__all__) == set(core._HOME)
    assert all(getattr(core, name) is not None for name in core.__all__)
    with pytest.raises(AttributeError, match="no attribute 'secret'"):
        core.secret  # noqa: B018


@pytest.mark.parametrize("name", ["predict", "absorb", "rate", "compare", "cut", "energy_mean", "subtract_background"])
def test_kernel_functions_say_what_they_take_and_show_it(name: str):
    function = getattr(core, name)
    runner = doctest.DocTestRunner()
    found = doctest.DocTestFinder(recurse=False).find(function, name, globs=dict(vars(core)) | {
        n: getattr(core, n) for n in core.__all__})
    assert sum(runner.run(t).attempted for t in found) >= 1, f"{name} shows no example"
    assert runner.summarize(verbose=False).failed == 0
    words = function.__doc__
    assert any(unit in words for unit in ("dB", "mm", "Hz", "share", "m²"))
