"""Build: one surface's stack in section, its curve now and after, what it costs against limits, what the trade says."""

from __future__ import annotations

import math

import numpy as np

from ...cutting.stock import stock_price_m2
from ...errors import BadInput
from ...figures.goal import value_in
from ...figures.job_figures import JobFigures, once
from ...figures.lays import Lay, panel_loss, planned_lay, present_lay, stack_of
from ...figures.loads import Load, added_load, job_load
from ...figures.path_levels import change_db, path_rows, predicted_at_ear
from ...figures.sources import source_of
from ...job.document import JobDocument
from ...job.shelf import Shelf
from ...levels.bands import PREDICTED_A_DB, PREDICTED_HZ, Floats
from ...materials.model import ROLE_LETTER, to_layer
from ...materials.table import layer_mass
from ...rules.engine import Case, Part, Spoken, speak
from ...schema import Strict
from ...stacks.heat import Climate, HeatLayer, heat_answer
from ...stacks.predict import Prediction, working
from ...surfaces.coverage import laid_share, panel_share
from ...surfaces.geometry import Areas, areas
from ...surfaces.rows import Alternative, StackLayerIn, Surface
from ...words import listed, signed
from ...working import Answer, Working
from ..cut.view import cut_view


class LayerView(Strict):
    """A layer as drawn: depth, role and what it weighs and costs on one surface."""

    material: str
    name: str
    family: str
    role: str
    letter: str
    thickness_mm: float
    coverage: float
    reached: float
    kg_m2: float
    price: float
    hold: str


class Meter(Strict):
    """A figure against its limit; limit None where the job sets none."""

    label: str
    value: float
    limit: float | None
    unit: str
    older: bool = False
    """Whether it is from before the last change; the new figure is under way."""


class Curves(Strict):
    """Per band: level through the surface at the listener now, after, and its change (dB), and R now and after (dB)."""

    frequency_hz: tuple[float, ...]
    now_db: tuple[float, ...]
    after_db: tuple[float, ...]
    change_db: tuple[float, ...]
    loss_now_db: tuple[float, ...]
    loss_after_db: tuple[float, ...]
    error_db: float


class BuildView(Strict):
    """The whole stage for one surface; ``problem`` where no model covers the stack."""

    sentence: str
    detail: str
    wanted: str
    """What Trace asks of this surface, against what the stack gives; empty where it asks nothing."""
    heat: Answer | None
    surface_id: int | None
    alternative_id: int | None
    substrate: LayerView | None
    layers: tuple[LayerView, ...]
    meters: tuple[Meter, ...]
    curves: Curves | None
    resonance_hz: float | None
    rules: tuple[Spoken, ...]
    problem: str
    plan_change_db: float | None
    rating: str
    working: tuple[Working, ...]


@once
def build(job: JobFigures, surface_id: int | None, alternative_id: int | None = None) -> BuildView:
    """The stage for a surface (the one on the loudest path when None) and one of its alternatives (the chosen)."""
    surface = next((s for s in job.doc.surfaces if s.id == surface_id), job.doc.surfaces[0] if job.doc.surfaces else None)
    if surface is None:
        return BuildView(
            sentence="No surface yet: add the first panel you mean to treat.", detail="", wanted="", heat=None, surface_id=None,
            alternative_id=None, substrate=None, layers=(), meters=(), curves=None, resonance_hz=None, rules=(),
            problem="", plan_change_db=None, rating="", working=(),
        )
    alternative = next((a for a in job.doc.alternatives if a.id == alternative_id), job.doc.chosen(surface.id))
    lay = planned_lay(job.doc, surface, alternative) if alternative else present_lay(job.doc, surface)
    layers = lay.layers
    problem, prediction, curves = "", None, None
    try:
        loss_now, _ = panel_loss(surface, present_lay(job.doc, surface), job.shelf)
        loss_after, prediction = panel_loss(surface, lay, job.shelf)
        curves = _curves(job, surface, lay, loss_now, loss_after, prediction)
    except BadInput as error:
        problem = f"No curve: {error.sentence}."
    size = areas(surface)
    views = tuple(layer_view(layer, surface, job.shelf, lay.cut) for layer in layers)
    added = added_load(surface, layers, job.shelf) if lay.cut else Load(0.0, 0.0, 0.0)
    depth = sum(v.thickness_mm for v in views if v.letter not in "SI")
    plan = _plan_change(job)
    stack = stack_of(surface, lay, job.shelf) if not problem else None
    resonances = prediction.resonances.mass_air_mass_hz if prediction else ()
    return BuildView(
        sentence=_sentence(surface, alternative, curves, plan, problem),
        detail=_detail(surface, size), wanted=_wanted(job.doc, surface, curves), heat=_heat(job, surface, layers),
        surface_id=surface.id, alternative_id=alternative.id if alternative else None,
        substrate=layer_view(surface.substrate, surface, job.shelf, False), layers=views,
        meters=_meters(job, surface, added, depth), curves=curves,
        resonance_hz=resonances[0] if resonances else None,
        rules=(*_worse(job, surface, lay),
               *speak(job.shelf.rules, _case(job, surface, layers, size, depth, added.kg / surface.count, prediction)))
        if alternative else (),
        problem=problem, plan_change_db=plan,
        rating=f"Rw {prediction.Rw} ({prediction.C}; {prediction.Ctr}) dB".replace("-", "−") if prediction else "",
        working=(working(stack, prediction),) if stack and prediction else (),
    )


def layer_view(layer: StackLayerIn, surface: Surface, shelf: Shelf, cut: bool) -> LayerView:
    """A layer as drawn; ``reached`` is what its pieces cover of what may be covered."""
    size = areas(surface)
    material = shelf.material(layer.material)
    line = material.acts == "line"
    kg = 0.0 if line else layer_mass(to_layer(material, layer.thickness_mm, 1.0))
    laid = laid_share(surface, layer, material) if cut else layer.coverage
    facing = (material.properties.facing_thickness_mm or 0.0) if material.acts == "damping" else 0.0
    return LayerView(
        material=material.id, name=material.name, family=material.family, role=material.roles[0],
        letter=ROLE_LETTER[material.roles[0]], thickness_mm=round(0.0 if line else layer.thickness_mm + facing, 2),
        coverage=layer.coverage, reached=round(laid, 3), kg_m2=round(kg, 2), hold=material.hold,
        price=round(stock_price_m2(material) * laid * size.treatable_m2, 2),
    )


def _curves(
    job: JobFigures, surface: Surface, lay: Lay, now: Floats, after: Floats, prediction: Prediction
) -> Curves:
    index = next((i for i, p in enumerate(job.doc.paths) if p.surface_id == surface.id), None)
    if index is not None and np.isfinite(before := path_rows(job).now[index]).all():
        levels = before, before + change_db(job, job.doc.paths[index], lay)
    else:
        source = source_of(job).levels
        levels = source - now, source - after
    return Curves(
        frequency_hz=PREDICTED_HZ, now_db=_r(levels[0]), after_db=_r(levels[1]), change_db=_r(levels[1] - levels[0]),
        loss_now_db=_r(now), loss_after_db=_r(after), error_db=prediction.expected_error_db,
    )


def _r(values: Floats) -> tuple[float, ...]:
    return tuple(round(float(v), 2) + 0.0 for v in values)


LEAST_WORSE_DB = 0.05


def _worse(job: JobFigures, surface: Surface, lay: Lay) -> tuple[Spoken, ...]:
    """Layers by which less is gained at the ear than without them, each against what lies under it."""
    index = next((i for i, p in enumerate(job.doc.paths) if p.surface_id == surface.id), None)
    out, gained = [], 0.0
    for n in range(1, len(lay.layers) + 1):
        part = lay._replace(layers=lay.layers[:n])
        try:
            loss, prediction = panel_loss(surface, part, job.shelf)
            bare, _ = panel_loss(surface, present_lay(job.doc, surface), job.shelf)
            change = bare - loss if index is None else change_db(job, job.doc.paths[index], part)
        except BadInput:
            continue
        now = source_of(job).levels - bare
        if index is not None and np.isfinite(held := path_rows(job).now[index]).all():
            now = held
        gain = _a_total(now) - _a_total(now + change)
        if gain < gained - LEAST_WORSE_DB:
            out.append(_spoken_worse(job.shelf.material(lay.layers[n - 1].material).name, gained - gain, prediction))
        gained = gain
    return tuple(out)


def _a_total(levels: Floats) -> float:
    return 10 * math.log10(float(np.sum(10 ** ((levels + PREDICTED_A_DB) / 10))))


def _spoken_worse(name: str, lost_db: float, prediction: Prediction) -> Spoken:
    resonances = prediction.resonances.mass_air_mass_hz
    why = f"With it the lining resonates at {listed([f'{f:.0f} Hz' for f in resonances])}, where this noise is strong." if (
        resonances) else "Its weight moves what is under it to where this noise is strong."
    mend = "A softer or deeper decoupler, or a heavier barrier, brings the resonance down; or leave this layer out" if (
        resonances) else "Leave it out, or put it elsewhere"
    text = f"{name} takes {lost_db:.1f} dB of the gain away again."
    return Spoken(rule="layer-makes-worse", severity="warn", text=text, why=why, mend=mend, source="computed for this surface")


def _plan_change(job: JobFigures) -> float | None:
    after = predicted_at_ear(job)
    found = value_in(job, job.doc.goal, job.doc.round_in("as found")) if job.doc.goal else None
    return None if after is None or found is None else round(after - found, 2)


def through_change(curves: Curves) -> float:
    """A-weighted change of the level through a surface, dB (negative is less)."""
    return _a_total(np.array(curves.after_db)) - _a_total(np.array(curves.now_db))


def _sentence(
    surface: Surface, alternative: Alternative | None, curves: Curves | None, plan: float | None, problem: str
) -> str:
    name = surface.name
    if problem:
        return f"{name}: no model covers this stack yet."
    if curves is None or alternative is None:
        return f"{name}: nothing planned yet. Lay the first layer on the {name[0].lower()}{name[1:]}."
    change = through_change(curves)
    words = f"{abs(change):.1f} dB {'less' if change <= 0 else 'more'} through {'them' if surface.count > 1 else 'it'}."
    tail = f" The plan so far: {signed(plan)} dB at the ear." if plan is not None else ""
    return f"{name}: {words}{tail}"


def _wanted(doc: JobDocument, surface: Surface, curves: Curves | None) -> str:
    path = next((p for p in doc.paths if p.surface_id == surface.id and p.wanted_db is not None and p.order is not None), None)
    if path is None or path.wanted_db is None:
        return ""
    given = 0.0 if curves is None else -through_change(curves)
    state = "reached" if given >= path.wanted_db - 0.05 else f"{path.wanted_db - given:.1f} dB short"
    return f"Trace asks for {path.wanted_db:.1f} dB less through here (number {path.order} in its order): {state}."


def _heat(job: JobFigures, surface: Surface, layers: tuple[StackLayerIn, ...]) -> Answer | None:
    """Heat and moisture of the stack, substrate on the outside; None where a conductivity is not known."""
    out = []
    for layer in (surface.substrate, *layers):
        material = job.shelf.material(layer.material)
        known = material.properties
        if material.acts == "line":
            continue
        if known.conductivity_w_mk is None or known.vapour_mu is None:
            return None
        out.append(HeatLayer(material.name.lower(), layer.thickness_mm / 1e3, known.conductivity_w_mk, known.vapour_mu))
    return heat_answer(out, Climate())


def _detail(surface: Surface, size: Areas) -> str:
    copies = f"{surface.count} × " if surface.count > 1 else ""
    flags = f", {', '.join(surface.flags)}" if surface.flags else ""
    return f"{copies}{size.treatable_m2:.2f} m² treatable of {size.gross_m2:.2f} m²{flags}."


def _meters(job: JobFigures, surface: Surface, added: Load, depth: float) -> tuple[Meter, ...]:
    total, bought = job_load(job), cut_view(job, None)
    limits = job.doc.job.limits
    whole = surface.kg_limit * surface.count if surface.kg_limit is not None else None
    rows = [
        ("Added weight here", added.kg, whole, "kg"),
        ("Depth here", depth, surface.depth_limit_mm or limits.depth_mm, "mm"),
        ("Added weight, whole job", total.kg, limits.added_kg, "kg"),
        ("Material used, whole job", total.money, None, job.doc.job.currency),
        ("To buy, whole job", bought.money, limits.money, job.doc.job.currency),
        ("Work, whole job", total.hours, limits.hours, "h"),
    ]
    late = bool(bought.work) or bought.older
    return tuple(Meter(label=a, value=round(b, 1) + 0.0, limit=c, unit=d, older=late and a.startswith("To buy"))
                 for a, b, c, d in rows)


def _case(
    job: JobFigures, surface: Surface, layers: tuple[StackLayerIn, ...], size: Areas, depth: float,
    kg: float, prediction: Prediction | None,
) -> Case:
    source = source_of(job).levels
    strong = source + PREDICTED_A_DB
    loud = [f for f, level in zip(PREDICTED_HZ, strong, strict=True) if level >= strong.max() - 10]
    parts = tuple(Part(m, x.thickness_mm, panel_share(surface, laid_share(surface, x, m)))
                  for x, m in ((x, job.shelf.material(x.material)) for x in layers))
    return Case(surface, size, parts, depth, kg, prediction, (loud[0], loud[-1]))
