"""Build side by side: alternatives in a table, the school of coverage, the other schools on one surface."""

from __future__ import annotations

from flask import Response

from ..core.stages.build.coverage import CoverageView, coverage
from ..core.stages.build.schools import SchoolView, names, school
from ..core.stages.build.swaps import Swaps, swaps
from ..core.stages.build.table import Table, table
from . import schemas as s
from .shared import answer, api, job_figures


@api.get("/jobs/<int:job_id>/alternatives-table", responses={200: Table})
def get_table(path: s.JobPath, query: s.TableQuery) -> Response:
    """The alternatives of a surface side by side."""
    return answer(table(job_figures(path.job_id), query.surface_id, query.zone))


@api.get("/jobs/<int:job_id>/coverage", responses={200: CoverageView})
def get_coverage(path: s.JobPath, query: s.CoverageQuery) -> Response:
    """What damping gives from none to all of a surface."""
    return answer(coverage(job_figures(path.job_id), query.surface_id, query.alternative_id, query.layer))


@api.get("/jobs/<int:job_id>/swaps", responses={200: Swaps})
def get_swaps(path: s.JobPath, query: s.CoverageQuery) -> Response:
    """What could lie in a layer's place."""
    return answer(swaps(job_figures(path.job_id), query.surface_id, query.alternative_id, query.layer))


@api.get("/jobs/<int:job_id>/schools", responses={200: s.Schools})
def get_schools(path: s.JobPath) -> Response:
    """The schools of the trade that concern a job."""
    return answer(s.Schools(schools=names(job_figures(path.job_id))))


@api.get("/jobs/<int:job_id>/schools/<school>", responses={200: SchoolView})
def get_school(path: s.SchoolPath, query: s.TableQuery) -> Response:
    """A school's ways computed for a surface."""
    return answer(school(job_figures(path.job_id), path.school, query.surface_id, query.zone))
