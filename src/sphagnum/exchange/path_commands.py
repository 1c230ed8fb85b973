"""The commands of ways in and of plans over them, which load nothing of jobs."""

from __future__ import annotations

import contextlib
import os
import sys
from collections.abc import Iterator, Mapping

from ..core.errors import BadInput
from ..core.materials.model import Material
from ..core.paths.budget import Budget, Paths, trace
from ..core.planning.model import PlanInput, PlanPath, PlanResult
from ..core.planning.plan import plan
from ..core.report import Report, silent
from ..core.schema import parse
from ..core.stacks.model import Stack
from ..core.stacks.named import resolved
from .files import read_bytes, read_json


def run_trace(name: str, materials: Mapping[str, Material], repeatability_db: float) -> Budget:
    """``trace PATHS.json``."""
    paths = parse(Paths, read_json(read_bytes(name), name), name)
    try:
        named = tuple(
            p if p.stack is None else p.model_copy(update={"stack": _resolve(materials, p.stack, i)})
            for i, p in enumerate(paths.paths)
        )
        return trace(paths.model_copy(update={"paths": named}), repeatability_db)
    except BadInput as error:
        raise error.at(name) from None


def _resolve(materials: Mapping[str, Material], stack: Stack, place: int, where: str = ".stack") -> Stack:
    try:
        return resolved(stack, materials)
    except BadInput as error:
        raise error.at(f"paths[{place}]{where}") from None


def run_plan(name: str, materials: Mapping[str, Material], report: Report = silent) -> PlanResult:
    """``plan PLAN.json``."""
    data = parse(PlanInput, read_json(read_bytes(name), name), name)
    try:
        with solver_kept_silent():
            paths = tuple(_resolved(p, i, materials) for i, p in enumerate(data.paths))
            return plan(data.model_copy(update={"paths": paths}), report)
    except BadInput as error:
        raise error.at(name) from None


def _resolved(path: PlanPath, i: int, materials: Mapping[str, Material]) -> PlanPath:
    options = tuple(
        x if x.stack is None else x.model_copy(update={"stack": _resolve(materials, x.stack, i, f", option '{x.id}'")})
        for x in path.options)
    own = None if path.stack is None else _resolve(materials, path.stack, i)
    return path.model_copy(update={"stack": own, "options": options})


@contextlib.contextmanager
def solver_kept_silent() -> Iterator[None]:
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
