"""Cut: pieces that follow from the chosen stacks, laid on stock per material, and the list of what to buy."""

from __future__ import annotations

from ...cutting.buying import Buy, buy_estimated, buy_stock, flat_forms
from ...cutting.model import CutResult
from ...figures.job_figures import JobFigures, once
from ...job.document import JobDocument
from ...worded import of
from ...words import listed, percent, plural
from ...working import Working, inputs
from .bought import amounts_bought, counted, fixings_bought, measures_bought, not_flat, used_up
from .left_bare import left_bare
from .model import CutView, LeftOver, SheetView, SurfaceView
from .sheets import Opened, alike, ask, find, left_over, offcuts_of, sheets_of
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
    opened: list[Opened] = []
    buy: list[Buy] = []
    unplaced: list[str] = []
    results: list[CutResult] = []
    work: list[str] = []
    left: list[LeftOver] = []
    let_go: list[str] = []
    wanted = pieces_wanted(job)
    codes = {o.code for o in (*job.shelf.offcuts, *job.doc.offcuts_taken)}
    for key, named in wanted.items():
        if not flat_forms(job.shelf.material(key[0]), key[1]):
            continue
        asked = ask(job, key, named)
        result, under_way, older = find(job, asked)
        work += [under_way] * bool(under_way)
        let_go += asked.let_go
        if result is None:
            if older is not None:
                buy += buy_stock(asked.material, key[1], older, True, job.shelf.spare_share, counted(job, key[0]))
            else:
                about = buy_estimated(asked.material, key[1], sum(n.wanted.shape.area for n in named) / 1e6, counted(job, key[0]))
                buy += [about] if about is not None else []
            continue
        results.append(result)
        own = sheets_of(asked, result)
        opened += own
        left += left_over(job, asked, own, codes)
        unplaced += [f"{u.piece}: {u.why}" for u in result.unplaced]
        buy += buy_stock(asked.material, key[1], result, False, job.shelf.spare_share, counted(job, key[0]))
    buy += amounts_bought(job)
    buy += not_flat(job)
    buy += measures_bought(job)
    buy += fixings_bought(job)
    used, bought = sum(r.piece_area_m2 for r in results), sum(r.stock_area_m2 for r in results)
    return CutView(
        sentence="", detail=f"{percent(used / bought)} of the opened stock goes on the job." if bought else "",
        surface=None, sheets=tuple(alike([o.view for o in opened])), buy=tuple(buy),
        kg=round(sum(b.kg for b in buy), 1), money=round(sum(b.money or 0.0 for b in buy), 2), currency=job.doc.job.currency,
        utilisation=round(used / bought, 3) if bought else None, unplaced=tuple(unplaced),
        working=tuple(_working(r) for r in results), work=tuple(work), older=any(b.older for b in buy),
        offcuts=tuple(o for name, thickness in wanted for o in offcuts_of(job.shelf.offcuts, name, thickness)),
        left=tuple(left), let_go=tuple(let_go), used_up=tuple(used_up(job)),
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
