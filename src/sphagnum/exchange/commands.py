"""Commands of ways, plans and jobs: each from a file to one printed result."""

from __future__ import annotations

import contextlib
import os
import sys
from collections.abc import Iterator, Sequence
from typing import Any

from ..core.errors import BadInput
from ..core.figures.job_figures import JobFigures
from ..core.job.shelf import Shelf
from ..core.paths.budget import Budget, Paths, trace
from ..core.planning.model import PlanInput, PlanPath, PlanResult
from ..core.planning.plan import plan
from ..core.report import Report, silent
from ..core.schema import parse
from ..core.stacks.model import Stack
from ..core.stacks.named import resolved
from .files import read_bytes, read_json
from .plan_command import JobPlans, run_plan_of_job


def run_trace(name: str, shelf: Shelf) -> Budget:
    """``trace PATHS.json``."""
    paths = parse(Paths, read_json(read_bytes(name), name), name)
    try:
        named = tuple(
            p if p.stack is None else p.model_copy(update={"stack": _resolve(shelf, p.stack, i)})
            for i, p in enumerate(paths.paths)
        )
        return trace(paths.model_copy(update={"paths": named}), shelf.repeatability("typed"))
    except BadInput as error:
        raise error.at(name) from None


def _resolve(shelf: Shelf, stack: Stack, place: int, where: str = ".stack") -> Stack:
    try:
        return resolved(stack, shelf.materials)
    except BadInput as error:
        raise error.at(f"paths[{place}]{where}") from None


def run_plan(name: str, shelf: Shelf, report: Report = silent) -> PlanResult:
    """``plan PLAN.json``."""
    data = parse(PlanInput, read_json(read_bytes(name), name), name)
    try:
        with _solver_kept_silent():
            paths = tuple(_resolved(p, i, shelf) for i, p in enumerate(data.paths))
            return plan(data.model_copy(update={"paths": paths}), report)
    except BadInput as error:
        raise error.at(name) from None


@contextlib.contextmanager
def _solver_kept_silent() -> Iterator[None]:
    """Standard output of this process points elsewhere: the solver now and then writes to it past Python."""
    sys.stdout.flush()
    kept = os.dup(1)
    aside = os.open(os.devnull, os.O_WRONLY)
    os.dup2(aside, 1)
    try:
        yield
    finally:
        os.dup2(kept, 1)
        os.close(kept)
        os.close(aside)


def _resolved(path: PlanPath, i: int, shelf: Shelf) -> PlanPath:
    options = tuple(
        x if x.stack is None else x.model_copy(update={"stack": _resolve(shelf, x.stack, i, f", option '{x.id}'")})
        for x in path.options)
    own = None if path.stack is None else _resolve(shelf, path.stack, i)
    return path.model_copy(update={"stack": own, "options": options})


def run_plan_of(
    name: str, seconds: float, only: Sequence[str], without: Sequence[str], stock: bool, shelf: Shelf, report: Report = silent
) -> JobPlans:
    """``plan --job JOB.json``."""
    with _solver_kept_silent():
        return run_plan_of_job(name, seconds, only, without, stock, shelf, report)


def run_show(name: str, stage: str, surface: int | None, shelf: Shelf) -> dict[str, Any]:
    """``show JOB.json --stage …``: what the interface's stage would say of a job file; the board gives its card."""
    from ..core.stages.views import stage_view
    from .job_file import read_job

    document = read_job(read_bytes(name), name, shelf).document
    if surface is not None and surface not in {s.id for s in document.surfaces}:
        known = ", ".join(f"{s.id} {s.name}" for s in document.surfaces[:8]) or "none"
        raise BadInput(f"there is no surface {surface}", name, f"there are: {known}")
    if surface is not None and stage not in ("build", "cut"):
        raise BadInput("only counts with --stage build or cut", "--surface", "leave it out")
    return stage_view(JobFigures(document, shelf), stage, surface)
