"""How a figure came about: the record behind "show the working"."""

from __future__ import annotations

from .schema import Strict


class WorkingInput(Strict):
    """One input of a computation, as shown to a person."""

    name: str
    value: str


class Working(Strict):
    """Formula by name, inputs, source, range of validity and expected accuracy of a figure."""

    figure: str
    formula: str
    inputs: tuple[WorkingInput, ...]
    source: str
    accuracy: str
    valid: str = ""


def inputs(**named: object) -> tuple[WorkingInput, ...]:
    """Inputs from keyword arguments; underscores in a name read as spaces."""
    return tuple(WorkingInput(name=k.replace("_", " "), value=str(v)) for k, v in named.items())
