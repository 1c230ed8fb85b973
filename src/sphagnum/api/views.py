"""Reading: the shelf, the board, a job and its six stages, all computed by the core."""

from __future__ import annotations

from datetime import date

from flask import Response, current_app, request

from ..catalogue.load import shelf as shipped
from ..core.builds.from_desk import build_of
from ..core.errors import BadInput
from ..core.figures.job_figures import JobFigures, Shared
from ..core.figures.measures import MeasuredEffect, effect_between
from ..core.job.broken import set_aside
from ..core.job.document import JobDocument
from ..core.job.preview import Tried, tried
from ..core.paths.desk import DESK, entries, work_out
from ..core.stages.board.learned import learned
from ..core.stages.board.overview import overview
from ..core.stages.build.view import BuildView, build
from ..core.stages.cut.laid_out import bought
from ..core.stages.cut.model import CutView
from ..core.stages.cut.view import cut_view
from ..core.stages.fit.done import fit_view
from ..core.stages.fit.model import FitView
from ..core.stages.listen.view import ListenView, board
from ..core.stages.prove.view import ProveView, prove
from ..core.stages.shelf.view import cards
from ..core.stages.trace.view import TraceView, trace_view
from ..core.working import Answer
from ..store.documents import Missing, Read, revision
from ..store.papers import offers_of
from . import schemas as s
from .cards import A_PAGE, page, repeats
from .shared import (
    answer,
    api,
    as_kept,
    figures_of,
    job_figures,
    kept_answer,
    load,
    own_workshop,
    renewal,
    seen,
    shelf,
    store,
    trial_figures,
)
from .together import Revision, together


@api.get("/shelf", responses={200: s.ShelfPage})
def get_shelf() -> Response:
    """Materials, source spectra, methods of measuring and what to note with a round."""
    kept, own = shelf(), own_workshop().workshop
    return answer(s.ShelfPage(
        materials=cards(kept, shipped(), own.currency), currency=own.currency, units=own.units,
        spectra=tuple(s.SpectrumName(id=x.id, name=x.name, source=x.source, at_km_h=x.at_km_h) for x in kept.spectra.values()),
        methods=tuple(kept.methods.values()),
        offers=kept.offers, simulated_meter=bool(current_app.config.get("SIMULATED_METER")),
    ))


@api.get("/repeatability", responses={200: s.LearnedPage})
def get_repeatability() -> Response:
    """What one reading is worth, by method: the table's figure and what the workshop's own repeats tell."""
    with store()() as session:
        found = repeats(session)
    return answer(s.LearnedPage(methods=learned(found, shelf())))


@api.get("/jobs", responses={200: s.JobCards})
def get_jobs(query: s.BoardQuery) -> Response:
    """A page of the job board; cards older than their jobs are shown as such, and renewed behind the page."""
    with store()() as session:
        found, count = page(session, query.page, query.sort, query.find)
    if renewal().ask(found):
        with store()() as session:
            found, count = page(session, query.page, query.sort, query.find)
    with store()() as session:
        offers = offers_of(session, [f.job.id for f in found], date.today())
    cards = (s.JobCard(job=f.job, overview=None if f.card is None else f.card.overview, older=f.older,
                       offer=offers.get(f.job.id, "")) for f in found)
    return answer(s.JobCards(jobs=tuple(cards), count=count, page_size=A_PAGE,
                             trouble=current_app.extensions.get("trouble", "")))


@api.get("/jobs/<int:job_id>", responses={200: s.JobPage})
def get_job(path: s.JobPath) -> Response:
    """A job: its rows, the goal rule and the line of every stage."""
    with store()() as session:
        found = as_kept(session, path.job_id)
    job = figures_of(found.document)
    return kept_answer(("job", job.number, found.revision, str(found.broken)), lambda: _page(job, found))


def _page(job: JobFigures, kept: Read) -> s.JobPage:
    doc, broken, number = kept
    work: tuple[str, ...] = ()
    try:
        said, work = overview(job), bought(job).work
    except BadInput as error:  # it opens all the same: what is wrong is said, and can be undone
        said = overview(trial_figures(JobDocument(job=doc.job)))
        cannot = BadInput(f"it cannot be worked out: {error.what}", "", error.mend)
        broken = (*broken, set_aside("jobs", doc.job.model_dump(), cannot))
    return s.JobPage(document=doc, overview=said, revision=number, work=work, broken=broken)


@api.get("/jobs/<int:job_id>/revision", responses={200: Revision})
def get_revision(path: s.JobPath) -> Response:
    """A number that rises with every edit."""
    with store()() as session:
        number = revision(session, path.job_id)
    return answer(Revision(revision=number, here=together().here(path.job_id, request.headers.get("X-Tab", "")[:80])))


@api.get("/jobs/<int:job_id>/listen", responses={200: ListenView})
def get_listen(path: s.JobPath, query: s.RoundQuery) -> Response:
    """Listen: the board of a round."""
    chosen = query.round_id
    return seen(path.job_id, lambda job: board(job, chosen))


@api.get("/jobs/<int:job_id>/trace", responses={200: TraceView})
def get_trace(path: s.JobPath, query: s.TraceQuery) -> Response:
    """Trace: the budget of paths, with gates pulled and paths thought away."""
    pairs = [p.split(":") for p in query.pull.split(",") if p]
    pulls = {int(a): min(float(b), 60.0) for a, b in pairs}
    gone = tuple(int(x) for x in query.gone.split(",") if x)
    where = query.condition_id
    return seen(path.job_id, lambda job: trace_view(job, pulls, gone, where))


@api.get("/jobs/<int:job_id>/trace-effect", responses={200: MeasuredEffect})
def get_effect(path: s.JobPath, query: s.RoundsQuery) -> Response:
    """What was read between two rounds, as the effect of a measure."""
    pair = query.before_id, query.after_id
    return answer(effect_between(job_figures(path.job_id).doc, *pair))


@api.get("/desk", responses={200: s.DeskPage})
def get_desk() -> Response:
    """The small calculations of the trade, with their forms."""
    return answer(s.DeskPage(entries=entries()))


@api.post("/desk/<calculation>", responses={200: Answer})
def work_out_one(path: s.DeskPath, body: s.DeskForm) -> Response:
    """The answer of a calculation, with its working."""
    if path.calculation not in DESK:
        raise Missing(f"there is no calculation '{path.calculation}'")
    form = dict(body.form)
    return answer(work_out(path.calculation, form).model_copy(update={"build": build_of(path.calculation, form)}))


@api.get("/jobs/<int:job_id>/build", responses={200: BuildView})
def get_build(path: s.JobPath, query: s.BuildQuery) -> Response:
    """Build: a surface's stack, its curve, cost and rules."""
    return seen(path.job_id, lambda job: build(job, query.surface_id, query.alternative_id, query.zone))


@api.post("/jobs/<int:job_id>/preview", responses={200: s.TrialView})
def try_steps(path: s.JobPath, body: s.Trial) -> Response:
    """What Build or Trace would say after steps that are not kept."""
    wrong = next((x.row for x in body.steps if isinstance(x.row, str)), None)
    if wrong is not None:
        raise BadInput(f"'{wrong}' is no row yet", "steps", "keep the row first")
    steps = [Tried(x.collection, None if x.row is None else int(x.row), x.values, x.operations, x.remove) for x in body.steps]
    with store()() as session:
        job = trial_figures(tried(load(session, path.job_id)[0], steps))
    if body.stage == "trace":
        return answer(s.TrialView(trace=trace_view(job, None, (), body.condition_id)))
    shared: Shared = current_app.extensions["figures"]
    kept = shared.last(path.job_id) or job_figures(path.job_id)  # a hand that goes on waits for no figures of its last step
    return answer(s.TrialView(build=build(job, body.surface_id, body.alternative_id, body.zone, kept)))


@api.get("/jobs/<int:job_id>/cut", responses={200: CutView})
def get_cut(path: s.JobPath, query: s.SurfaceQuery) -> Response:
    """Cut: a surface with its pieces, the sheets and the buying list."""
    chosen = query.surface_id
    return seen(path.job_id, lambda job: cut_view(job, chosen))


@api.get("/jobs/<int:job_id>/fit", responses={200: FitView})
def get_fit(path: s.JobPath) -> Response:
    """Fit: the work order."""
    return seen(path.job_id, fit_view)


@api.get("/jobs/<int:job_id>/prove", responses={200: ProveView})
def get_prove(path: s.JobPath, query: s.PairQuery) -> Response:
    """Prove: what changed between two rounds, how sure, goal met or not."""
    pair = query.before_id, query.after_id
    return seen(path.job_id, lambda job: prove(job, *pair))
