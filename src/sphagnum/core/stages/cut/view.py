"""Cut: pieces that follow from the chosen stacks, laid on stock per material, and the list of what to buy."""

from __future__ import annotations

from ...cutting.model import CutResult
from ...figures.job_figures import JobFigures, once
from ...job.document import JobDocument
from ...worded import of
from ...words import listed, percent, plural
from ...working import Working, inputs
from .bought import used_up
from .laid_out import bought, drawn, laid_out
from .left_bare import left_bare
from .model import CutView, SheetView, SurfaceView
from .sheets import alike, labelled, offcuts_of
from .wanted import drawn_surfaces, pieces_wanted


@once
def cut_view(job: JobFigures, surface_id: int | None) -> CutView:
    """The stage: the surface drawn (the first when None) and the whole job's sheets and buying list."""
    shapes = drawn_surfaces(job)
    rest = _whole(job)
    shown = shapes.get(surface_id or -1) or (next(iter(shapes.values())) if shapes else None)
    return rest.model_copy(update={
        "left_bare": left_bare(job), "surface": shown,
        "sentence": _sentence(shown, rest.sheets, job.doc, bool(rest.work) and rest.utilisation is None)})


@once
def _whole(job: JobFigures) -> CutView:
    """All but the surface shown."""
    left = (rest for one in drawn(job) for rest in one.left)
    codes = (o.code for o in (*job.shelf.offcuts, *job.doc.offcuts_taken))
    results = [x.result for x in laid_out(job) if x.result is not None]
    to_buy = bought(job)
    used, stock = sum(r.piece_area_m2 for r in results), sum(r.stock_area_m2 for r in results)
    return CutView(
        sentence="", sheets=tuple(alike([o.view for one in drawn(job) for o in one.opened])),
        detail=f"{percent(used / stock)} of the opened stock goes on the job." if stock else "",
        surface=None, buy=to_buy.buy, kg=to_buy.kg, money=to_buy.money,
        currency=job.doc.job.currency, utilisation=round(used / stock, 3) if stock else None,
        unplaced=tuple(f"{u.piece}: {u.why}" for r in results for u in r.unplaced),
        working=tuple(_working(r) for r in results), work=to_buy.work, older=to_buy.older,
        offcuts=tuple(o for name, thickness in pieces_wanted(job) for o in offcuts_of(job.shelf.offcuts, name, thickness)),
        left=tuple(labelled(left, codes)), let_go=tuple(x for one in laid_out(job) for x in one.asked.let_go),
        used_up=used_up(job),
    )


def _sentence(shown: SurfaceView | None, sheets: tuple[SheetView, ...], doc: JobDocument, under_way: bool) -> str:
    if shown is None and not sheets:
        return "No surface yet: draw the first one."
    if under_way:
        return "The pieces are being laid out."
    rests = sum(1 for s in sheets if s.offcut)
    count = sum(1 for s in sheets if not s.roll) - rests
    rolls = len({s.material for s in sheets if s.roll})
    stock = listed([plural(n, name) for n, name in ((rests, "offcut"), (count, "sheet"), (rolls, "roll")) if n])
    pieces = sum(len(s.pieces) for s in sheets)
    if not pieces:
        name = shown.name if shown else "The job"
        return f"{name}: {of(shown.areas.treatable_m2, 'm²', '.2f')} to treat, no stack chosen yet." if shown else name
    return f"{plural(pieces, 'piece')} from {stock}."


def _working(result: CutResult) -> Working:
    name = result.used[0].stock if result.used else "nothing"
    return Working(
        figure=f"stock {name}: {len(result.used)} opened, {of(result.piece_area_m2, 'm²', '.3f')} of pieces",
        formula="rectangles packed by maximal-rectangle rules, every order tried; other outlines nested, the cheaper kept",
        inputs=inputs(stock_area=of(result.stock_area_m2, "m²", ".3f"), utilisation=percent(result.utilisation),
                      price=f"{result.price:.2f}", not_possible_below=f"{result.area_bound_price or 0:.2f}"),
        source="own search over packing libraries; every layout checked by geometry apart from them",
        accuracy="exact areas; the bound is by area alone",
    )
