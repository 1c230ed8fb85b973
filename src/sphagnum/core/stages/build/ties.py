"""What ties two leaves on both sides of a new cavity: asked once the second leaf is laid, with what each way of tying gives."""

from __future__ import annotations

from ...errors import BadInput
from ...figures.job_figures import JobFigures, once
from ...figures.lays import planned_lay
from ...schema import Strict
from ...stacks.model import Frame
from ...surfaces.patches import Patch
from ...surfaces.rows import Alternative
from .curves import a_total, levels_through

WAYS: tuple[tuple[str, Frame], ...] = (
    ("screwed right through", Frame(kind="point-fixings", spacing_mm=400.0)),
    ("wood studs", Frame(kind="wood-studs", spacing_mm=600.0)),
    ("light steel studs", Frame(kind="light-steel-studs", spacing_mm=600.0)),
    ("resilient channels", Frame(kind="channels", spacing_mm=600.0)),
    ("fixings with rubber under each", Frame(kind="point-fixings", spacing_mm=400.0, isolated=True)),
    ("nothing: it stands by itself", Frame()),
)


class TieWay(Strict):
    """A way of tying two leaves, and the change through the surface with it, dB(A), negative is less; None where no model covers
    it."""

    words: str
    frame: Frame
    through_db: float | None
    now: bool


class TieAsked(Strict):
    """A cavity with a new leaf: the layer that keeps what ties them, whether somebody said, and the ways there are."""

    layer_id: str
    leaf: str
    said: bool
    ways: tuple[TieWay, ...]


@once
def ties(job: JobFigures, patch: Patch, one: Alternative) -> tuple[TieAsked, ...]:
    """The cavities between two leaves that an alternative makes, each with what could tie them."""
    lay, out = planned_lay(job.doc, patch, one), []
    acts = [job.shelf.material(p.layer.material).acts for p in lay.placed]
    mine = {x.id for x in one.layers}
    for i, placed in enumerate(lay.placed):
        if acts[i] != "plate" or not placed.new:
            continue
        run = []
        k = i - 1
        while k >= 0 and acts[k] == "soft" and lay.placed[k].far == placed.far:
            run.append(lay.placed[k].layer)
            k -= 1
        keeper = next((x for x in run if x.tie is not None and x.id in mine), next((x for x in run if x.id in mine), None))
        if keeper is None:
            continue
        ways = []
        for words, frame in WAYS:
            then = one.model_copy(update={"layers": tuple(
                x.model_copy(update={"tie": frame}) if x.id == keeper.id else x for x in one.layers)})
            try:
                now, after = levels_through(job, patch, planned_lay(job.doc, patch, then))
                through: float | None = round(a_total(after) - a_total(now), 2) + 0.0
            except BadInput:
                through = None
            ways.append(TieWay(words=words, frame=frame, through_db=through,
                               now=keeper.tie is not None and (keeper.tie.kind, bool(keeper.tie.isolated)) == (
                                   frame.kind, bool(frame.isolated))))
        out.append(TieAsked(layer_id=keeper.id, leaf=job.shelf.material(placed.layer.material).name,
                            said=keeper.tie is not None, ways=tuple(ways)))
    return tuple(out)
