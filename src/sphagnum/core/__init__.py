"""The job's rules and computation. What a script may use stands in ``__all__``; docs/core.md shows it at work.

Nothing is loaded before it is asked for, so that a rating does not wait for a prediction.
"""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from .cutting.layout import cut
    from .cutting.model import CutInput, CutResult
    from .errors import BadInput
    from .figures.job_figures import JobFigures
    from .job.document import JobDocument
    from .job.shelf import Shelf
    from .levels.comparison import Comparison, Item, Terms, compare
    from .levels.decibels import energy_mean, energy_sum, subtract_background
    from .levels.hearing import HearInput, hear
    from .levels.rating import Ratings, rate
    from .paths.budget import Budget, Paths, trace
    from .paths.desk import work_out
    from .planning.model import PlanInput, PlanResult
    from .planning.plan import plan
    from .schema import parse
    from .stacks.absorption import Absorption, Lining, absorb
    from .stacks.heat import HeatLayer, through
    from .stacks.model import Stack
    from .stacks.predict import Prediction, predict, predict_many
    from .stages.views import stage_view

_FROM = {
    "cutting.layout": ("cut",), "cutting.model": ("CutInput", "CutResult"), "errors": ("BadInput",),
    "figures.job_figures": ("JobFigures",), "job.document": ("JobDocument",), "job.shelf": ("Shelf",),
    "levels.comparison": ("Comparison", "Item", "Terms", "compare"),
    "levels.decibels": ("energy_mean", "energy_sum", "subtract_background"), "levels.rating": ("Ratings", "rate"),
    "levels.hearing": ("HearInput", "hear"), "paths.budget": ("Budget", "Paths", "trace"), "paths.desk": ("work_out",),
    "planning.model": ("PlanInput", "PlanResult"), "planning.plan": ("plan",), "schema": ("parse",),
    "stacks.absorption": ("Absorption", "Lining", "absorb"), "stacks.heat": ("HeatLayer", "through"),
    "stacks.model": ("Stack",), "stacks.predict": ("Prediction", "predict", "predict_many"), "stages.views": ("stage_view",),
}
_HOME = {name: module for module, names in _FROM.items() for name in names}

__all__ = [
    "Absorption", "BadInput", "Budget", "Comparison", "CutInput", "CutResult", "HearInput", "HeatLayer", "Item", "JobDocument",
    "JobFigures", "Lining", "Paths", "PlanInput", "PlanResult", "Prediction", "Ratings", "Shelf", "Stack", "Terms", "absorb",
    "compare", "cut", "energy_mean", "energy_sum", "hear", "parse", "plan", "predict", "predict_many", "rate", "stage_view",
    "subtract_background", "through", "trace", "work_out",
]


def __getattr__(name: str) -> Any:
    if name not in _HOME:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    return getattr(import_module(f".{_HOME[name]}", __name__), name)
