"""For the technical reader: rounds, circumstances, uncertainty, bands, rings, methods, rules gone against, models."""

from __future__ import annotations

from ...job.document import JobDocument
from ...papers.blocks import BandsBlock, Block, PaperSection, Sentence, TableBlock
from ...words import signed
from ..prove.view import CellProof, ProveView

SAME = {True: "yes", False: "no", None: "not noted"}


def technical(doc: JobDocument, seen: ProveView) -> list[PaperSection]:
    """Its sections, the first on a page of its own."""
    sections = [
        PaperSection(title="Rounds and circumstances", blocks=tuple(_rounds(doc, seen)), page=True),
        PaperSection(title="Every place", blocks=tuple(_places(seen))),
        PaperSection(title="How sure", blocks=tuple(_budgets(seen))),
        PaperSection(title="Bands", blocks=tuple(_bands(seen))),
        PaperSection(title="Rings and responses", blocks=tuple(_rings(seen))),
        PaperSection(title="Methods, rules and models", blocks=tuple(_methods(doc, seen))),
    ]
    first = next((i for i, s in enumerate(sections) if s.blocks), None)
    return [s.model_copy(update={"page": i == first}) for i, s in enumerate(sections) if s.blocks]


def _rounds(doc: JobDocument, seen: ProveView) -> list[Block]:
    names = {r.id: r.name for r in doc.rounds}
    rows = tuple(
        (
            r.name,
            r.state,
            r.taken_on or "–",
            names.get(r.follows_id or 0, "–"),
            r.changed + (f" Stripped without a baseline: {r.without_baseline}" if r.without_baseline else ""),
        )
        for r in doc.rounds
    )
    blocks: list[Block] = (
        [TableBlock(head=("Round", "State", "Read on", "Follows", "What was changed"), rows=rows, shares=(3, 2, 2, 3, 5))]
        if rows
        else []
    )
    blocks += [Sentence(text=x) for x in (seen.one_change, *(r.words for r in seen.rivals)) if x]
    if seen.fair.items:
        blocks.append(
            TableBlock(
                title="Circumstances of the two rounds",
                head=("Item", seen.before, seen.after, "Same"),
                shares=(3, 4, 4, 2),
                rows=tuple((i.item, i.before or "–", i.after or "–", SAME[i.same]) for i in seen.fair.items),
            )
        )
    return blocks


def _places(seen: ProveView) -> list[Block]:
    rows = tuple(
        (
            c.position,
            c.condition,
            f"{c.comparison.before_db:.1f}",
            f"{c.comparison.after_db:.1f}",
            signed(-c.comparison.reduction_db),
            f"{signed(-c.comparison.interval95_db[1])} to {signed(-c.comparison.interval95_db[0])}",
            c.verdict,
        )
        for c in seen.cells
    )
    if not rows:
        return []
    unit = seen.unit
    cautions = dict.fromkeys(x.text for c in seen.cells for x in c.comparison.cautions)
    return [
        TableBlock(
            head=("Place", "Condition", f"Before, {unit}", f"After, {unit}", "Change, dB", "95 % interval, dB", "Verdict"),
            rows=rows,
            right=(2, 3, 4, 5),
            shares=(3, 3, 2, 2, 2, 3, 3),
        ),
        *(Sentence(text=x, weight="small") for x in cautions),
    ]


def _budgets(seen: ProveView) -> list[Block]:
    """One row per source with its share at each place, in place of one per place and source."""
    cells = [c for c in seen.cells if not c.control][:5]
    if not cells:
        return []
    sources = list(dict.fromkeys(line.source for c in cells for line in c.comparison.budget))

    def share(c: CellProof, source: str) -> str:
        line = next((x for x in c.comparison.budget if x.source == source), None)
        if line is None:
            return "–"
        freedom = f" ({line.degrees_of_freedom:g})" if line.degrees_of_freedom else ""
        return f"{line.standard_uncertainty_db:.2f}{freedom}"

    rows = tuple((source, *(share(c, source) for c in cells)) for source in sources)
    drift = (
        [] if seen.drift_db is None else [Sentence(text=f"Drift at the control place, taken off: {signed(-seen.drift_db)} dB.")]
    )
    return [
        Sentence(
            text="Standard uncertainties in dB, with their degrees of freedom where those are limited (JCGM 100, GUM; "
            "Student’s t at the Welch–Satterthwaite degrees of freedom)."
        ),
        TableBlock(
            head=("Source", *(f"{c.position}, {c.condition}" for c in cells)),
            rows=rows,
            right=tuple(range(1, len(cells) + 1)),
            shares=(3.0, *(2.0,) * len(cells)),
        ),
        *drift,
    ]


def _bands(seen: ProveView) -> list[Block]:
    change = seen.spectrum
    if change is None:
        return []
    known = [i for i, (b, a) in enumerate(zip(change.before_db, change.after_db, strict=True)) if b is not None or a is not None]
    if not known:
        return []

    def cut(row: tuple[float | None, ...]) -> tuple[float | None, ...]:
        return row[known[0] : known[-1] + 1]

    block = BandsBlock(
        before=seen.before,
        after=seen.after,
        frequency_hz=change.frequency_hz[known[0] : known[-1] + 1],
        before_db=cut(change.before_db),
        after_db=cut(change.after_db),
        change_db=cut(change.change_db),
        within_db=cut(change.within_db),
        words=change.sayings,
    )
    halves = block.within_db or (None,) * len(block.frequency_hz)
    rows = [(f"{f:g}", *("–" if v is None else f"{v:.1f}" for v in (b, a)),
             "–" if c is None else signed(c) if u is None else f"{signed(c)} ± {u:.1f}")
            for f, b, a, c, u in zip(block.frequency_hz, block.before_db, block.after_db, block.change_db, halves, strict=True)]
    half = (len(rows) + 1) // 2  # two columns of bands, read down
    beside = [*rows[half:], *[("",) * 4] * (2 * half - len(rows))]
    head = ("Band, Hz", seen.before, seen.after, "Change")
    table = TableBlock(title="Bands at the goal’s place, dB", head=head * 2, right=tuple(range(8)),
                       rows=tuple((*a, *b) for a, b in zip(rows[:half], beside, strict=True)))
    return [block, table]


def _rings(seen: ProveView) -> list[Block]:
    rows = []
    for r in seen.rings:
        figures = [
            ("–", "–") if s is None else (f"{f:.0f}" if f is not None else "–", f"{1000 * s:.0f}")
            for f, s in zip(r.frequency_hz, r.decay_time_s, strict=True)
        ]
        rows.append((r.position, figures[0][0], figures[0][1], figures[1][1], r.words))
    blocks: list[Block] = (
        [
            TableBlock(
                title="Rings",
                head=("Place", "Note, Hz", "Before, ms", "After, ms", ""),
                rows=tuple(rows),
                right=(1, 2, 3),
                shares=(3, 2, 2, 2, 5),
            )
        ]
        if rows
        else []
    )
    if seen.response is not None and seen.response.words:
        blocks.append(Sentence(text=seen.response.words))
    return blocks


def _methods(doc: JobDocument, seen: ProveView) -> list[Block]:
    blocks: list[Block] = []
    against = tuple(
        (s.name, a.name, o.id.replace("-", " "), o.reason)
        for a in doc.alternatives
        if a.chosen
        for s in doc.surfaces
        if s.id == a.surface_id
        for o in a.overrides
    )
    if against:
        blocks.append(
            TableBlock(
                title="Rules of the trade gone against, and why",
                head=("Surface", "Stack", "Rule", "Reason"),
                rows=against,
                shares=(2, 3, 3, 4),
            )
        )
    blocks.append(Sentence(text="Levels are energy means; intervals hold 95 %. About 10 dB is heard as half as loud."))
    sources = sorted({f"{w.formula} ({w.source})" for w in seen.working if w.formula})
    return blocks + [Sentence(text=x, weight="small") for x in sources]
