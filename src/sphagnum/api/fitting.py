"""Fit beside its view: the order on paper, and the days to look again as a calendar."""

from __future__ import annotations

from datetime import date

from flask import Response, request

from ..core.stages.fit.afterwards import look_again
from ..core.stages.fit.done import finished_on
from ..core.stages.fit.view import order
from . import schemas as s
from .files import download, slug
from .shared import api, job_figures, reader, sends


@api.get("/jobs/<int:job_id>/order.pdf", responses=sends("application/pdf"))
def get_order(path: s.JobPath) -> Response:
    """The work order on paper, with a code beside each step that opens it here."""
    from ..exchange.order_sheets import order_sheets  # what prints is loaded when something is printed first

    job = job_figures(path.job_id)
    data = order_sheets(order(job), job.doc.job.name, f"{request.host_url}jobs/{path.job_id}/fit", reader())
    return download(data, "application/pdf", f"{slug(job.doc.job.name)}-work-order.pdf")


@api.get("/jobs/<int:job_id>/look-again.ics", responses=sends("text/calendar"))
def get_look_again(path: s.JobPath) -> Response:
    """The days to look again, counted from the last step that was ticked, else from today."""
    from ..exchange.calendar_file import calendar_file

    job = job_figures(path.job_id)
    data = calendar_file(look_again(job, finished_on(job) or date.today()), job.doc.job.name)
    return download(data, "text/calendar", f"{slug(job.doc.job.name)}-look-again.ics")
