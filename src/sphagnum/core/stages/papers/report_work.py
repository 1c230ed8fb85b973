"""What was done, surface by surface: pieces, layers, weight, pictures; bought, hours, checks, and what differs from the plan."""

from __future__ import annotations

from collections.abc import Sequence

from ...builds.drawing import VIEWS, label_in_views
from ...builds.kinds import views_of
from ...figures.builds import Worked, chosen_builds, label_of, parts_of
from ...figures.job_figures import JobFigures
from ...figures.loads import job_load
from ...job.document import JobDocument, Photo
from ...papers.blocks import (
    Block,
    PaperSection,
    PhotographsBlock,
    Picture,
    PieceDrawn,
    SectionBlock,
    SectionLayer,
    Sentence,
    SurfaceBlock,
    TableBlock,
)
from ...surfaces.patches import patches
from ...surfaces.rows import Surface
from ...worded import in_mm, of
from ...words import listed, plural
from ..build.offer import price_now
from ..cut.laid_out import bought
from ..cut.view import cut_view
from ..fit.done import fit_view
from ..prove.view import ProveView
from .offer import does
from .offer_paper import lines_of

MOST_IN_BRIEF = 5
MOST_PIECES = 400
MOST_ROWS = 60


def done_in_brief(job: JobFigures) -> tuple[str, ...]:
    """What was done in at most five lines."""
    lines = list(does(job))
    if len(lines) > MOST_IN_BRIEF:
        rest = [x.partition(":")[0] for x in lines[MOST_IN_BRIEF - 1 :]]
        lines = [*lines[: MOST_IN_BRIEF - 1], f"And: {listed(rest[:8])}."]
    return tuple(lines)


def work(job: JobFigures, doc: JobDocument, seen: ProveView, audience: str) -> list[PaperSection]:
    """The sections of what was done; for the own file with hours and money."""
    sections = [s for surface in doc.surfaces if (s := _surface(job, doc, surface)) is not None]
    sections += [_build(job, one) for one in chosen_builds(job) if parts_of(one)]
    if sections:
        sections[0] = sections[0].model_copy(update={"page": True})
    return [*sections, *_all_in_all(job, doc, seen, audience)]


def _surface(job: JobFigures, doc: JobDocument, surface: Surface) -> PaperSection | None:
    stacks = [(p, one) for p in patches(surface) if (one := job.doc.chosen(p.id, p.zone)) is not None and one.layers]
    pictures = _pictures([p for p in doc.photos if p.surface_id == surface.id])
    if not stacks and not pictures:
        return None
    blocks: list[Block] = []
    drawn = cut_view(job, surface.id).surface if stacks else None
    if drawn is not None and any(layer.pieces for layer in drawn.layers):
        for layer in drawn.layers:
            if 0 < len(layer.pieces) <= MOST_PIECES:
                blocks.append(
                    SurfaceBlock(
                        title=f"{layer.name}: {plural(len(layer.pieces), 'piece')}",
                        outline_mm=drawn.outline_mm,
                        pieces=tuple(
                            PieceDrawn(label=p.label, outline_mm=p.outline_mm, holes_mm=p.holes_mm) for p in layer.pieces
                        ),
                    )
                )
    for patch, one in stacks:
        materials = [(job.shelf.material(x.material), x) for x in one.layers]
        layers = [
            SectionLayer(
                name=f"{patch.substrate.material.replace('-', ' ')}, {in_mm(patch.substrate.thickness_mm)}",
                thickness_mm=patch.substrate.thickness_mm,
                acts="plate",
            )
        ]
        layers += [
            SectionLayer(name=f"{m.name}, {in_mm(x.thickness_mm)}", thickness_mm=x.thickness_mm, acts=m.acts)
            for m, x in materials
            if m.lies
        ]
        blocks.append(SectionBlock(title=patch.zone.capitalize() if patch.zone else "From the panel on", layers=tuple(layers)))
    if drawn is not None and drawn.layers:
        blocks.append(
            TableBlock(
                head=("Layer", "Covers", "Weight"),
                shares=(4, 1, 1),
                right=(1, 2),
                rows=tuple((f"{x.name}", f"{100 * x.reached:.0f} %", of(x.kg, "kg", ".1f")) for x in drawn.layers),
            )
        )
    blocks += [PhotographsBlock(pictures=pictures)] * bool(pictures)
    several = f" (each of {surface.count})" if surface.count > 1 else ""
    return PaperSection(title=f"{surface.name}{several}", blocks=tuple(blocks))


def _build(job: JobFigures, one: Worked) -> PaperSection:
    """A built thing: its three views, drawn from its parts, and the parts as they were cut."""
    parts = parts_of(one)
    sheet = views_of(one.build.given, parts)
    blocks: list[Block] = []
    for (view, *_), outline in zip(VIEWS, sheet.around, strict=True):
        seen = [p for p in sheet.parts if p.view == view]
        blocks.append(SurfaceBlock(title=f"{one.build.name}, {view}", outline_mm=outline, pieces=tuple(
            PieceDrawn(label=label_in_views(p.id) if p.name_at else "", outline_mm=p.outline_mm, holes_mm=p.holes_mm)
            for p in seen[-MOST_PIECES:])))
    rows = tuple((label_of(one, p), p.name, in_mm(p.flat_mm[0]), in_mm(p.flat_mm[1]), in_mm(p.flat_mm[2]), of(p.kg, "kg", ".1f"))
                 for p in parts[:MOST_ROWS])
    blocks.append(TableBlock(head=("Part", "What", "Long", "Wide", "Thick", "Weight"), shares=(1, 4, 1.4, 1.4, 1.2, 1.2),
                             right=(2, 3, 4, 5), rows=rows))
    if len(parts) > MOST_ROWS:
        blocks.append(Sentence(text=f"And {len(parts) - MOST_ROWS} parts like these.", weight="small"))
    shots = _pictures([p for p in job.doc.photos if f"build {one.build.id}" in p.step.split(" part")[0]])
    blocks += [PhotographsBlock(pictures=shots)] * bool(shots)
    return PaperSection(title=one.build.name, blocks=tuple(blocks))


def _pictures(photos: Sequence[Photo]) -> tuple[Picture, ...]:
    return tuple(Picture(file=p.file, caption=" · ".join(x for x in (p.when.capitalize(), p.caption) if x)) for p in photos)


def _all_in_all(job: JobFigures, doc: JobDocument, seen: ProveView, audience: str) -> list[PaperSection]:
    fit = fit_view(job)
    blocks: list[Block] = []
    if seen.was_done is not None:
        blocks.append(Sentence(text=seen.was_done.sentence))
        blocks += [Sentence(text=x, weight="point") for x in seen.was_done.differs]
    else:
        blocks.append(Sentence(text=f"Added as planned: {of(job_load(job).kg, 'kg', '.1f')}."))
    passed = list(dict.fromkeys(c.name for s in fit.steps for c in s.checks if c.passed))
    failed = list(dict.fromkeys(c.name for s in fit.steps for c in s.checks if c.passed is False))
    if passed:
        blocks.append(Sentence(text=f"Checked and found to work: {listed(passed)}."))
    if failed:
        blocks.append(Sentence(text=f"Checked and found wanting: {listed(failed)}."))
    cured = [f"{r.kind} at {r.place}" for r in doc.rattles if r.done]
    if cured:
        blocks.append(Sentence(text=f"Rattles cured: {listed(cured)}."))
    blocks += [Sentence(text=f"{s.name}: {s.words}.") for s in seen.side_effects]
    if bought(job).buy:
        blocks.append(
            TableBlock(
                title="Material",
                head=("What", "Needed", "Bought"),
                shares=(5, 2, 2),
                rows=tuple((b.name, b.needed, f"{b.units} × {b.unit}" if b.units else "from the shelf") for b in bought(job).buy),
            )
        )
    if audience == "own":
        blocks += _inside(job, fit.minutes.work)
    rest = _pictures([p for p in doc.photos if p.surface_id is None])
    blocks += [PhotographsBlock(title="More pictures", pictures=rest)] * bool(rest)
    return [PaperSection(title="All in all", blocks=tuple(blocks))]


def _inside(job: JobFigures, minutes: float) -> list[Block]:
    """Hours and money, for the workshop's own file."""
    blocks: list[Block] = [Sentence(text=f"Work as planned: {minutes / 60:.1f} h.")]
    charges = job.shelf.charges
    if charges is not None and charges.labour_per_hour is not None:
        price, hours = price_now(job, charges)
        rows = [
            ("Material", f"{price.material:.2f}"),
            (f"Labour, {hours:.1f} h", f"{price.labour:.2f}"),
            ("Put on both", f"{price.margin:.2f}"),
            *lines_of(price, hours, True),
        ]
        blocks.append(
            TableBlock(
                title="Price, inside", head=("", price.currency), rows=tuple(rows), right=(1,), shares=(4, 1), last_is_sum=True
            )
        )
    return blocks
