"""What a fitted series tells: differences freed of the box's own, leaks, ties, an order, and what it could have told at all."""

from __future__ import annotations

import math
from functools import lru_cache
from itertools import combinations, pairwise

import numpy as np
import scipy  # loads its parts where they are used

from ..levels.bands import Floats
from ..levels.statistics import student_t
from ..words import listed, plain, plural
from .fit import FREE, STANDS_IN_DB, Fitted, fit, half95
from .model import Ceiling, Pair, SampleResult, SeriesIn, SeriesResult

Bools = np.typing.NDArray[np.bool_]
NEAR_DB, MARKED_DB = 3.0, 10.0
"""Under the ceiling: nearer than the first a difference is "at least"; within the second it is marked."""
LEAK_DB, SUSPECT_DB = 6.0, 3.6
"""A leak costs so much at 4 kHz; what reads short by the second may well be one."""
DRIFTED_DB = 5.0
MOVED_DB = 2.5
"""A step of the empty opening between two readings that differs by so much from band to band: the microphone was moved."""
ALIKE_DB, OFF_DB = 1.5, 4.0
"""A band is the box's own where all samples leave their neighbours by the second, and alike within the first."""
LEAST_DB = 0.1
"""No box repeats better than a meter shows."""
BANDS_TELL = 4.0
"""Scatter is pooled over bands, which are neither all alike nor all apart: they tell as much as four series (judged)."""
LOW_HZ, MIDDLE_HZ = 250.0, 1000.0
EDGE_HZ = 4000.0
WEAK_DB = 15.0
"""A band so far below the others at the empty opening is below the loudspeaker's limit."""


def told(series: SeriesIn) -> SeriesResult:
    """The whole answer."""
    found = fit(series)
    hz = np.array(series.bands_hz)
    freedom_of_bands = found.freedom * BANDS_TELL
    half = half95(found.standard_db, freedom_of_bands)
    ceilings = np.array([series.rig.ceiling_db.get(f"{f:g}", math.nan) for f in hz])
    one_sided = found.standard_db * student_t(freedom_of_bands, 0.95)
    at_least = found.difference_db + one_sided > ceilings - NEAR_DB
    marked = ~at_least & (found.difference_db > ceilings - MARKED_DB)
    freed, half = freed_db(found.difference_db, half, ceilings, at_least)
    leaks = _leaks(found.names, hz, freed)
    loose = tuple(n for n in found.names if n in series.samples and not series.samples[n].sealed)
    own = _box_resonances(hz, freed)
    drift = float(np.nanmean(found.drift_db))
    wrong = _wrong(series, drift)
    # compared is like with like: a band too near the ceiling for one is freed for none
    near = np.broadcast_to(at_least.any(axis=0), found.run_db.shape)
    runs, _ = freed_db(found.run_db, np.zeros_like(found.run_db), ceilings, near)
    each = over_all(runs, ~np.isnan(runs))
    means, counts, scatter, freedom = _groups(each, found)
    ranked = [k for k, n in enumerate(found.names) if n not in leaks and n not in loose]
    pairs = () if wrong else tuple(_pairs(found.names, ranked, means, counts, scatter, freedom))
    samples = tuple(_sample(series, found, k, hz, freed[k], half[k], means[k], half95(scatter / math.sqrt(counts[k]), freedom))
                    for k in range(len(found.names)))
    tells = _tells(len(ranked), min((counts[k] for k in ranked), default=1), scatter, freedom) if len(ranked) > 1 else None
    more = _tells(len(ranked), min(counts[k] for k in ranked) + 1, scatter, freedom + len(ranked)) if len(ranked) > 1 else None
    ranking = () if wrong else ranking_of([found.names[k] for k in sorted(ranked, key=lambda k: -means[k])], pairs)
    return SeriesResult(
        ceiling={n: Ceiling(at_least_hz=tuple(hz[at_least[k]].tolist()), marked_hz=tuple(hz[marked[k]].tolist()))
                 for k, n in enumerate(found.names)},
        leaks=leaks, not_comparable=loose, box_resonances_hz=own, drift_db=round(drift, 2) + 0.0, samples=samples,
        ranking=ranking, pairs=pairs, tells_db=None if tells is None else round(tells, 1),
        tells_with_one_more_db=None if more is None else round(more, 1), sentence=_sentence(ranking, wrong, tells),
        notes=tuple(_notes(series, found, (leaks, loose), own, (tells, more), at_least)))


def freed_db(difference: Floats, half: Floats, ceiling: Floats, at_least: Bools) -> tuple[Floats, Floats]:
    """A difference freed by energy of what the box itself lets through, and half of its interval; what is too near the ceiling
    stays as it is, a bound."""
    through = 10 ** (-difference / 10) - np.where(np.isnan(ceiling), 0.0, 10 ** (-ceiling / 10))
    sure = ~np.asarray(at_least, dtype=bool) & (through > 0)
    freed = np.where(sure, -10 * np.log10(np.where(sure, through, 1.0)), difference)
    return freed, np.where(sure, half * 10 ** (-difference / 10) / np.where(sure, through, 1.0), half)


def over_all(difference: Floats, known: Bools) -> Floats:
    """Of flat levels: −10·lg of the mean of 10^(−D/10) over the bands that are known, bands last."""
    energies = np.where(known, 10 ** (-np.where(known, difference, 0.0) / 10), 0.0)
    counts = np.maximum(np.asarray(known).sum(axis=-1), 1)
    return np.asarray(-10 * np.log10(np.maximum(energies.sum(axis=-1) / counts, 1e-30)))


def _groups(each: Floats, found: Fitted) -> tuple[Floats, list[int], float, float]:
    """Means over all bands of each sample, how often each was put on, their pooled scatter and its degrees of freedom."""
    which = np.array(found.run_sample)
    groups = [each[which == k] for k in range(len(found.names))]
    squares = sum(float(((g - g.mean()) ** 2).sum()) for g in groups)
    alone = found.freedom == FREE
    scatter = STANDS_IN_DB if alone else math.sqrt(squares / found.freedom)
    return np.array([g.mean() for g in groups]), [len(g) for g in groups], max(scatter, LEAST_DB), found.freedom


def _pairs(names: tuple[str, ...], ranked: list[int], means: Floats, counts: list[int], scatter: float, freedom: float
           ) -> list[Pair]:
    """Tukey and Kramer: simultaneous over all pairs of the series."""
    if len(ranked) < 2:
        return []
    q = _range95(len(ranked), freedom) / math.sqrt(2)
    out = []
    for a, b in combinations(sorted(ranked, key=lambda k: -means[k]), 2):
        apart, half = float(means[a] - means[b]), q * scatter * math.sqrt(1 / counts[a] + 1 / counts[b])
        out.append(Pair(a=names[a], b=names[b], difference_db=round(apart, 2), differ=apart > half,
                        interval95_db=(round(apart - half, 2), round(apart + half, 2))))
    return out


def _tells(samples: int, times: int, scatter: float, freedom: float) -> float:
    """The least difference of two samples that so many repeats tell."""
    return _range95(samples, freedom) * scatter / math.sqrt(times)


@lru_cache(maxsize=256)
def _range95(samples: int, freedom: float) -> float:
    """The studentized range of so many samples, 95 %; slow to find."""
    return float(scipy.stats.studentized_range.ppf(0.95, samples, freedom))


def ranking_of(names: list[str], pairs: tuple[Pair, ...]) -> tuple[tuple[str, ...], ...]:
    """The largest groups in the order of their means within which no pair differs, the best first."""
    differ = {frozenset((p.a, p.b)) for p in pairs if p.differ}
    out: list[tuple[str, ...]] = []
    for i in range(len(names)):
        j = i + 1
        while j < len(names) and all(frozenset((names[j], n)) not in differ for n in names[i:j]):
            j += 1
        group = tuple(names[i:j])
        if not out or not set(group) <= set(out[-1]):
            out.append(group)
    return tuple(out)


def _leaks(names: tuple[str, ...], hz: Floats, freed: Floats) -> tuple[str, ...]:
    """Samples that are short at 4 kHz of what their own middle bands and their fellows give."""
    top = int(np.argmin(np.abs(np.log2(hz / EDGE_HZ))))
    middle = (hz >= 250) & (hz <= 1000)
    if hz[top] < 2500 or not middle.any() or len(names) < 2:
        return ()
    bend = freed[:, top] - np.nanmean(np.where(middle, freed, np.nan), axis=1)
    out = []
    for k, name in enumerate(names):
        fellows = np.delete(bend, k)
        if np.isfinite(fellows).any() and np.nanmedian(fellows) - bend[k] >= SUSPECT_DB:
            out.append(name)
    return tuple(out)


def _box_resonances(hz: Floats, freed: Floats) -> tuple[float, ...]:
    """Bands in which all samples leave the line between their neighbours alike."""
    if freed.shape[0] < 3:
        return ()
    out = []
    for b in range(1, len(hz) - 1):
        off = freed[:, b] - (freed[:, b - 1] + freed[:, b + 1]) / 2
        off = off[np.isfinite(off)]
        if len(off) >= 3 and (abs(off.mean()) > OFF_DB) and off.std() < ALIKE_DB:
            out.append(float(hz[b]))
    return tuple(out)


def _wrong(series: SeriesIn, drift: float) -> str:
    """Why a series is not ranked; empty where it is."""
    span = abs(drift)
    for take in dict.fromkeys(r.take for r in series.runs):
        empty = [np.array([math.nan if v is None else v for v in r.level_db])
                 for r in series.runs if r.sample is None and r.take == take]
        means = [float(np.nanmean(e)) for e in empty if np.isfinite(e).any()]
        span = max(span, max(means, default=0.0) - min(means, default=0.0))
        for a, b in pairwise(empty):
            step = b - a
            if np.isfinite(step).sum() >= 3 and float(np.nanstd(step)) > MOVED_DB:
                return ("Between two readings of the empty opening its bands moved unlike one another: the microphone, or the "
                        "box, was moved.")
    if span > DRIFTED_DB:
        return (f"The empty opening drifted by {plain(span)} dB: let loudspeaker and meter warm up, and read the series "
                "again.")
    return ""


def _sample(series: SeriesIn, found: Fitted, k: int, hz: Floats, freed: Floats, half: Floats, mean: float, within: Floats
            ) -> SampleResult:
    known = series.samples.get(found.names[k])
    groups = [over_all(freed[rows], np.isfinite(freed[rows])) if np.isfinite(freed[rows]).any() else None
              for rows in (hz <= LOW_HZ, (hz > LOW_HZ) & (hz <= MIDDLE_HZ), hz > MIDDLE_HZ)]
    low, middle, high = (None if g is None else round(float(g), 2) for g in groups)

    def per(amount: float | None) -> float | None:
        return None if not amount else round(mean / amount, 2)

    return SampleResult(
        sample=found.names[k], difference_db=tuple(None if np.isnan(v) else round(float(v), 2) + 0.0 for v in freed),
        interval95_db=tuple(None if np.isnan(v) else (round(float(v - h), 2), round(float(v + h), 2))
                            for v, h in zip(freed, half, strict=True)),
        low=low, middle=middle, high=high, all=round(float(mean), 2),
        all95_db=(round(float(mean - within), 2), round(float(mean + within), 2)), times=found.run_sample.count(k),
        per_kg=per(known.mass_kg_m2 if known else None), per_money=per(known.money_m2 if known else None),
        per_mm=per(known.thickness_mm if known else None))


def _sentence(ranking: tuple[tuple[str, ...], ...], wrong: str, tells: float | None) -> str:
    if wrong:
        return wrong
    if not ranking or tells is None:
        return "One sample says what it does in this box, and nothing of another."
    first = ranking[0]
    if len(ranking) == 1 and len(first) > 1:
        return f"Nothing tells {listed(first)} apart: differences under {plain(tells)} dB are not told by this series."
    return f"{first[0]} keeps back most." if len(first) == 1 else f"{listed(first)} keep back most, and are not told apart."


def _weak_bands(series: SeriesIn) -> list[float]:
    """Bands at the low end in which the empty opening stands far below the others."""
    empty = np.array([[math.nan if v is None else v for v in r.level_db] for r in series.runs if r.sample is None])
    known = np.isfinite(empty).any(axis=0)
    if known.sum() < 3:
        return []
    mean = np.array([np.nanmean(empty[:, i]) if ok else math.nan for i, ok in enumerate(known)])
    usual, out = float(np.nanmedian(mean)), list[float]()
    for f, level in zip(series.bands_hz, mean, strict=True):
        if not (np.isfinite(level) and level < usual - WEAK_DB):
            break
        out.append(f)
    return out


def _notes(series: SeriesIn, found: Fitted, aside: tuple[tuple[str, ...], tuple[str, ...]], own: tuple[float, ...],
           told_db: tuple[float | None, float | None], at_least: Bools) -> list[str]:
    (leaks, loose), (tells, more) = aside, told_db
    out = ["This is what a sample keeps back in this box, of this size. It is no rating: a laboratory's field, size and edges "
           "are others."]
    counts = [found.run_sample.count(k) for k in range(len(found.names))]
    if max(counts) < 2:
        out.append(f"Nothing was put on twice: a scatter of {STANDS_IN_DB:g} dB stands in. Take each off and put it on anew, "
                   "three times.")
    elif tells is not None and more is not None:
        out.append(f"Differences under {plain(tells)} dB are not told by {plural(min(counts), 'repeat')}; one more of each would "
                   f"bring {plain(more)}.")
    out += [f"{name} is {LEAK_DB:g} dB or so short at 4 kHz of what its own middle bands and its fellows give: it leaks at its "
            "edge. It is not ranked; seal it and read it again." for name in leaks]
    out += [f"The edge of {name} cannot be sealed, so that it is not compared loose: try it between two boards."
            for name in loose]
    if own:
        out.append(f"All samples are off alike at {listed([f'{f:g}' for f in own])} Hz: that is the box, not they.")
    near = [n for k, n in enumerate(found.names) if at_least[k].any()]
    if near:
        out.append(f"{listed(near)} come nearer than {NEAR_DB:g} dB to what the box itself lets through: at least so much, in "
                   "those bands.")
    if any(v is None for r in series.runs for v in r.level_db):
        out.append("Some bands were not read in some runs; they count where they were.")
    weak = _weak_bands(series)
    if weak:
        out.append(f"At {listed([f'{f:g}' for f in weak])} Hz the loudspeaker gives {WEAK_DB:g} dB and more less than elsewhere: "
                   "below its limit noise may be read instead of it.")
    if sum(r.sample is None for r in series.runs) < 2:
        out.append("The empty opening was read once: a drift cannot be told. Read it between and last too.")
    return out
