"""Build: one surface's stack in section, its curve now and after, what it costs against limits, what the trade says."""

from __future__ import annotations

from functools import lru_cache

from ...errors import BadInput
from ...figures.builds import chosen_builds
from ...figures.cuts import is_boxed
from ...figures.job_figures import JobFigures, once
from ...figures.lays import Lay, panel_loss, planned_lay, present_lay, stack_of
from ...figures.loads import NO_LOAD, added_load, goods_for
from ...figures.outlook import outlook
from ...figures.where import room_of
from ...job.document import JobDocument
from ...rules.engine import Spoken
from ...same import Same
from ...schema import Strict
from ...stacks.predict import working
from ...surfaces.geometry import Areas, alike, areas
from ...surfaces.patches import Patch, nothing_on, patch_of, patches
from ...surfaces.rows import Alternative, Surface
from ...worded import of
from ...words import listed, plain, signed
from ...working import Answer, Working
from ..fit.done import was_done
from .budgets import Meter, job_meters, job_sums, meters, sums_tried
from .curves import Curves, curves, through_change, worse
from .heat import heat_of
from .layers import Depth, LayerView, depth_of, layer_view, section
from .offer import OfferView, offer_view
from .ties import TieAsked, ties
from .trade import said


class GoodView(Strict):
    """Goods that follow from a stack, for all copies."""

    material: str
    name: str
    amount: float
    why: str


class ZoneView(Strict):
    """A zone of a surface, or what is left beside them; ``id`` empty."""

    id: str
    name: str
    share: float
    alternative_id: int | None


class BuildView(Strict):
    """The whole stage for one surface; ``problem`` where no model covers the stack."""

    sentence: str
    detail: str
    was_done: str = ""
    """What was really done so far; empty where nothing was."""
    wanted: str
    """What Trace asks of this surface, against what the stack gives; empty where it asks nothing."""
    heat: Answer | None
    alike: tuple[int, ...] = ()
    """Other surfaces of the same outline and panel, mirrored or not: the other side, the next door."""
    surface_id: int | None
    zone: str
    zones: tuple[ZoneView, ...]
    alternative_id: int | None
    substrate: LayerView | None
    layers: tuple[LayerView, ...]
    """What is to be laid, in its own order."""
    section: tuple[LayerView, ...]
    """Everything there is and will be, from the source's side."""
    goods: tuple[GoodView, ...]
    depth: Depth
    depth_limit_mm: float | None
    depth_limit: str = ""
    """What says how deep it may be."""
    meters: tuple[Meter, ...]
    offer: OfferView | None = None
    """What the whole job would be offered for, where the workshop says what an hour costs."""
    curves: Curves | None
    resonance_hz: float | None
    rules: tuple[Spoken, ...]
    ties: tuple[TieAsked, ...] = ()
    """New cavities between two leaves, with what could tie them."""
    asked: bool = True
    """Whether the trade was asked: not while a hand still drags."""
    problem: str
    plan_change_db: float | None
    """What the whole plan is expected to change at the listener, negative is less."""
    plan_within_db: float | None = None
    """Half of the 95 % interval of that."""
    rating: str
    working: tuple[Working, ...]


NOTHING = BuildView(
    sentence="No surface yet: add the first panel you mean to treat.", detail="", wanted="", heat=None, surface_id=None, zone="",
    zones=(), alternative_id=None, substrate=None, layers=(), section=(), goods=(), depth=Depth(mm=0.0, far=False),
    depth_limit_mm=None, meters=(), curves=None, resonance_hz=None, rules=(), problem="", plan_change_db=None, rating="",
    working=())


def _without_surface(job: JobFigures) -> BuildView:
    """Of a job that has no surface: what its builds and measures come to."""
    built = [one.build.name for one in chosen_builds(job)]
    if not built:
        return NOTHING
    change, within = _plan(job)
    sums = job_sums(job)
    return NOTHING.model_copy(update={
        "sentence": f"No surface is treated: {listed(built)} {'are' if len(built) > 1 else 'is'} in the plan.",
        "plan_change_db": change, "plan_within_db": within, "meters": job_meters(job, sums), "offer": offer_view(job, sums)})


def _plan(job: JobFigures) -> tuple[float | None, float | None]:
    """What the whole plan is expected to change, and half of the interval of that."""
    ahead = outlook(job)
    return (None, None) if ahead is None or ahead.level_db is None else (round(ahead.change_db, 2), round(ahead.within_db, 2))


@once
def build(
    job: JobFigures, surface_id: int | None, alternative_id: int | None = None, zone: str = "", kept: JobFigures | None = None
) -> BuildView:
    """The stage for a surface (the first when None), a zone of it, and one of its alternatives (the chosen).

    ``kept``: the job as it is, where this one is only tried: the rules are not asked, and what takes longer than a curve is that
    of the job as it is.
    """
    surface = next((s for s in job.doc.surfaces if s.id == surface_id), job.doc.surfaces[0] if job.doc.surfaces else None)
    if surface is None:
        return _without_surface(job)
    named = next((a for a in job.doc.alternatives if a.id == alternative_id and a.surface_id == surface.id), None)
    patch = patch_of(surface, named.zone if named is not None else zone)
    alternative = named or job.doc.chosen(surface.id, patch.zone)
    lay = planned_lay(job.doc, patch, alternative) if alternative else present_lay(job.doc, patch)
    problem, prediction, found = "", None, None
    try:
        loss_now, _ = panel_loss(patch, present_lay(job.doc, patch), job.shelf)
        loss_after, prediction = panel_loss(patch, lay, job.shelf)
        found = curves(job, patch, lay, loss_now, loss_after, prediction)
    except BadInput as error:
        problem = f"No curve: {error.sentence}."
    size = areas(patch)
    drawn = section(patch, lay, alternative, job.shelf, is_boxed(job.doc))
    depth = depth_of(drawn)
    added = added_load(job.doc, patch, alternative, job.shelf) if alternative else NO_LOAD
    goods = goods_for(patch, alternative, job.shelf) if alternative else ()
    plan, within = _plan(job)
    sums, heat = job_sums(job) if kept is None else sums_tried(job, kept), heat_of(patch, lay, job.shelf)
    stack = stack_of(patch, lay, job.shelf) if not problem else None
    resonances = prediction.resonances.mass_air_mass_hz if prediction else ()
    room = room_of(job, patch)
    asked = alternative or nothing_on(patch)
    rules = () if kept is not None else (
        *worse(job, patch, lay), *said(job, patch, asked, lay, prediction, depth.mm, added, sums, heat))
    return BuildView(
        sentence=_sentence(patch, alternative, found, plan, within, problem, _absorbs_only(job, lay)),
        detail=_detail(patch, size),
        was_done=done.sentence if (done := was_done(kept or job)) is not None else "",
        wanted=_wanted(job.doc, surface, found), heat=heat, surface_id=surface.id,
        alike=_alike(Same(job.doc.surfaces), surface.id), zone=patch.zone,
        zones=_zones(job.doc, surface), alternative_id=alternative.id if alternative else None,
        substrate=layer_view(surface.substrate, patch, job.shelf, "new" if surface.planned else "panel"),
        layers=tuple(layer_view(x, patch, job.shelf, "new", x.place == "far")
                     for x in (alternative.layers if alternative else ())),
        section=drawn, goods=tuple(GoodView(material=g.material, name=job.shelf.material(g.material).name,
                                            amount=round(g.amount * surface.count, 1), why=g.why) for g in goods),
        depth=depth.model_copy(update={"mm": round(depth.mm, 1)}),
        depth_limit_mm=room.mm, depth_limit=room.words if room.mm is not None else "",
        meters=meters(job, patch, added, depth.mm, sums), offer=offer_view(kept or job, sums),
        curves=found, resonance_hz=resonances[0] if resonances else None,
        rules=rules, ties=() if problem or alternative is None or kept is not None else ties(job, patch, alternative),
        asked=kept is None,
        problem=problem, plan_change_db=plan, plan_within_db=within,
        rating="" if prediction is None or lay.nothing else
        f"Rw {prediction.Rw} ({prediction.C}; {prediction.Ctr}) dB".replace("-", "−"),
        working=(working(stack, prediction),) if stack and prediction else (),
    )


def warnings_of(job: JobFigures) -> frozenset[str]:
    """The rules that warn of the plan as it stands, or call it dangerous, on whatever surface; overridden ones too."""
    return frozenset(r.rule for surface in job.doc.surfaces for patch in patches(surface)
                     for r in build(job, surface.id, None, patch.zone).rules if r.severity in ("warn", "danger"))


@lru_cache(maxsize=64)
def _alike(surfaces: Same[tuple[Surface, ...]], surface_id: int) -> tuple[int, ...]:
    """The surfaces of a job that are as one of them is: same outline, same panel."""
    one = next(s for s in surfaces.value if s.id == surface_id)
    return tuple(s.id for s in surfaces.value
                 if s is not one and alike(s, one) and s.substrate.material == one.substrate.material)


def _zones(doc: JobDocument, surface: Surface) -> tuple[ZoneView, ...]:
    if not surface.zones:
        return ()
    names = {z.id: z.name for z in surface.zones}
    return tuple(ZoneView(id=p.zone, name=names.get(p.zone, "the rest"), share=round(p.share, 3),
                          alternative_id=one.id if (one := doc.chosen(surface.id, p.zone)) is not None else None)
                 for p in patches(surface))


def _sentence(
    patch: Patch, alternative: Alternative | None, found: Curves | None, plan: float | None, within: float | None, problem: str,
    absorbs_only: bool,
) -> str:
    name = patch.name
    if problem:
        return f"{name}: no model covers this stack yet."
    if found is None or alternative is None:
        if patch.planned:
            return f"{name}: does not stand yet, and nothing is planned. Begin with its own panel."
        return f"{name}: nothing planned yet. Lay the first layer on the {name[0].lower()}{name[1:]}."
    if absorbs_only:
        return f"{name}: it swallows sound in its own room and blocks next to nothing."
    change = through_change(found)
    words = f"{abs(change):.1f} dB {'less' if change <= 0 else 'more'} through {'them' if patch.count > 1 else 'it'}."
    tail = f" The plan so far: {signed(plan)} ± {plain(within or 0.0)} dB at the ear." if plan is not None else ""
    return f"{name}: {words}{tail}"


def _wanted(doc: JobDocument, surface: Surface, found: Curves | None) -> str:
    path = next((p for p in doc.paths if p.surface_id == surface.id and p.wanted_db is not None and p.order is not None), None)
    if path is None or path.wanted_db is None:
        return ""
    given = 0.0 if found is None else -through_change(found)
    state = "reached" if given >= path.wanted_db - 0.05 else f"{path.wanted_db - given:.1f} dB short"
    return f"Trace asks for {path.wanted_db:.1f} dB less through here (number {path.order} in its order): {state}."


def _absorbs_only(job: JobFigures, lay: Lay) -> bool:
    """Whether all that is new in a room is open and absorbs: that is no wall, whatever its curve says."""
    new = [job.shelf.material(p.layer.material) for p in lay.placed if p.new]
    lying = [m for m in new if m.lies and m.family != "air"]
    return job.doc.job.kind == "room" and bool(lying) and all(m.acts == "soft" and "absorber" in m.roles for m in lying)


def _detail(patch: Patch, size: Areas) -> str:
    copies = f"{patch.count} × " if patch.count > 1 else ""
    flags = f", {', '.join(patch.flags)}" if patch.flags else ""
    stands = ", not standing yet" if patch.planned else ""
    return f"{copies}{of(size.treatable_m2, 'm²', '.2f')} treatable of {of(size.gross_m2, 'm²', '.2f')}{flags}{stands}."
