"""Commands of whole jobs: each from a file to one printed result."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ..core.errors import BadInput
from ..core.figures.job_figures import JobFigures
from ..core.job.shelf import Shelf
from ..core.report import Report, silent
from .files import read_bytes
from .path_commands import solver_kept_silent
from .plan_command import JobPlans, run_plan_of_job


def run_plan_of(
    name: str, seconds: float, only: Sequence[str], without: Sequence[str], stock: bool, shelf: Shelf, report: Report = silent
) -> JobPlans:
    """``plan --job JOB.json``."""
    with solver_kept_silent():
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
