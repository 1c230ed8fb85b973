"""A series as a page to print or send: what was compared and how, what differs, what does not, and what it could not tell."""

from __future__ import annotations

from ..job.workshop import WorkshopIn
from ..papers.blocks import Paper, PaperSection, Sentence, TableBlock
from ..worded import of
from ..words import listed, plain, plural, signed
from .model import SampleResult, SeriesResult
from .rows import SeriesKept
from .view import SampleSaid, SeriesCard

SIGNALS = {"tones": "tones, one after another", "bands": "bands of noise, one after another",
           "noise": "noise, all bands at once"}
BANDS_ACROSS = 6
"""So many bands stand beside one another on a page."""


def bench_paper(series: SeriesKept, card: SeriesCard, workshop: WorkshopIn, on: str) -> Paper:
    """The page of a series, however far it is."""
    sections = [_compared(series, card), _how(series)]
    if card.result is not None:
        sections += [_differs(series, card.result, card), _bands(series, card.result), _notes(card, card.result)]
    return Paper(title=f"Samples compared: {series.name}", sub=" · ".join(x for x in (workshop.name, on) if x),
                 mark=workshop.mark,
                 foot=" · ".join(x for x in (workshop.name, workshop.address.replace("\n", ", ")) if x) or "Sphagnum",
                 sections=tuple(s for s in sections if s.blocks))


def _compared(series: SeriesKept, card: SeriesCard) -> PaperSection:
    rows = tuple((s.sample, "" if s.mass_kg_m2 is None else of(s.mass_kg_m2, "kg/m²", ".1f"), s.dose) for s in card.samples)
    blocks: list[Sentence | TableBlock] = [Sentence(text=card.sentence, weight="lead")]
    if card.compares:
        blocks.append(Sentence(text=card.compares))
    if rows:
        blocks.append(TableBlock(head=("Sample", "weighs", "dose on a sample"), rows=rows, right=(1,), shares=(0.45, 0.2, 0.35)))
    return PaperSection(title="What was compared", blocks=tuple(blocks))


def _how(series: SeriesKept) -> PaperSection:
    said = [f"An opening of {of(series.rig.opening_m2 * 1e4, 'cm²', '.0f')} in the shop's box; {SIGNALS[series.signal]}.",
            f"Each sample was put on {plural(series.times, 'time')} anew, in an order drawn by lot, and the empty opening read "
            "between."]
    said += [f"{name}: {words}" for name, words in (("Loudspeaker", series.loudspeaker), ("Microphone", series.microphone),
                                                    ("Seal and clamp", series.clamp), ("Note", series.note)) if words]
    return PaperSection(title="How", blocks=tuple(Sentence(text=x, weight="point") for x in said))


def _differs(series: SeriesKept, result: SeriesResult, card: SeriesCard) -> PaperSection:
    known = {s.sample: s for s in card.samples}
    best = sorted(result.samples, key=lambda s: -s.all)
    rows = tuple(_row(s, known.get(s.sample), result) for s in best)
    head = ("Sample", "all, dB", "low", "middle", "high", "of the source, dB(A)" if series.spectrum else "", "predicted, dB")
    blocks: list[Sentence | TableBlock] = [TableBlock(title="What each keeps back, with its 95 % interval", head=head, rows=rows,
                                                      right=(1, 2, 3, 4, 5, 6), shares=(0.3, 0.18, 0.09, 0.1, 0.09, 0.12, 0.12))]
    if result.ranking:
        blocks.append(Sentence(text="In order, the best first; what stands together nothing told apart: "
                               + "; ".join(listed(list(g)) for g in result.ranking) + "."))
    if result.pairs:
        blocks.append(TableBlock(
            title="Pair by pair, over all bands, the intervals holding together", head=("Pair", "apart, dB", "95 % interval", ""),
            rows=tuple((f"{p.a} − {p.b}", signed(p.difference_db),
                        f"{signed(p.interval95_db[0])} to {signed(p.interval95_db[1])}",
                        "differ" if p.differ else "not told apart") for p in result.pairs),
            right=(1, 2), shares=(0.5, 0.12, 0.2, 0.18)))
    return PaperSection(title="What differs, and what does not", blocks=tuple(blocks))


def _row(s: SampleResult, said: SampleSaid | None, result: SeriesResult) -> tuple[str, ...]:
    aside = " (leaks)" if s.sample in result.leaks else " (not comparable loose)" if s.sample in result.not_comparable else ""
    groups = ["" if v is None else plain(v) for v in (s.low, s.middle, s.high)]
    source = "" if said is None or said.of_source_db is None else plain(said.of_source_db)
    sure = None if said is None else said.predicted
    predicted = "" if sure is None else f"{plain(sure.all)} ± {plain(sure.within_db)}"
    whole = f"{plain(s.all)} ({plain(s.all95_db[0])} to {plain(s.all95_db[1])})"
    return f"{s.sample}{aside}", whole, *groups, source, predicted


def _bands(series: SeriesKept, result: SeriesResult) -> PaperSection:
    def cell(s: SampleResult, i: int) -> str:
        value, span = s.difference_db[i], s.interval95_db[i]
        if value is None:
            return ""
        if series.bands_hz[i] in result.ceiling[s.sample].at_least_hz:
            return f"≥ {plain(value)}"
        return plain(value) + ("" if span is None else f" ± {plain((span[1] - span[0]) / 2)}")
    tables = []
    for start in range(0, len(series.bands_hz), BANDS_ACROSS):
        bands = series.bands_hz[start:start + BANDS_ACROSS]
        rows = tuple((s.sample, *(cell(s, start + i) for i in range(len(bands)))) for s in result.samples)
        tables.append(TableBlock(head=("Sample", *(f"{f:g} Hz" for f in bands)), rows=rows,
                                 right=tuple(range(1, len(bands) + 1))))
    return PaperSection(title="Band by band, dB", blocks=tuple(tables))


def _notes(card: SeriesCard, result: SeriesResult) -> PaperSection:
    found = [f"{s.sample}: {s.predicted.finding}" for s in card.samples if s.predicted is not None and s.predicted.finding]
    return PaperSection(title="What to mind", blocks=tuple(Sentence(text=x, weight="point") for x in (*result.notes, *found)))
