"""A job with all that follows from it: what the stages share is computed once, and stays while nothing it rests on changes."""

from __future__ import annotations

import itertools
import time
from collections import OrderedDict
from collections.abc import Callable, Hashable
from functools import wraps
from threading import Lock, RLock, local
from typing import Any, Concatenate, ParamSpec, TypeVar

from ..cutting.buying import AtOnce, Cut, Found, Layouts
from ..cutting.model import CutInput
from ..job.document import COLLECTIONS, JobDocument
from ..job.shelf import Shelf, shelf_with
from ..job.words import without_words
from ..paths.rows import Path
from ..schema import Row
from ..surfaces.patches import Patch
from ..surfaces.rows import Surface

P = ParamSpec("P")
R = TypeVar("R", Path, Surface, Patch)
T = TypeVar("T")
_NUMBERS = itertools.count(1)


class _WorkedOut(local):
    """What is being worked out in this thread: the layouts it rests on so far; None where nothing is."""

    laid: frozenset[Cut] | None = None


_WORKED_OUT = _WorkedOut()


def _rests_on(layouts: frozenset[Cut]) -> None:
    """What is being worked out here rests on these layouts too."""
    if _WORKED_OUT.laid is not None:
        _WORKED_OUT.laid |= layouts


class JobFigures:
    """A document and a shelf, and the figures that were asked of them so far.

    Stages are pure functions of it. A function marked ``once`` is computed at most once for it, by its arguments; one marked
    ``once_of_surface`` is taken over from the figures ``before`` these where nothing it rests on is another.
    """

    def __init__(self, doc: JobDocument, shelf: Shelf, layouts: Layouts | None = None, before: JobFigures | None = None) -> None:
        self.number = next(_NUMBERS)
        """Tells these figures from all others there were."""
        self.doc, self.base, self.layouts = doc, shelf, layouts or AtOnce()
        self.shelf = shelf_with(shelf, tuple(c.material for c in doc.material_copies)) if doc.material_copies else shelf
        self._kept: dict[Hashable, Any] = {}
        self._laid: dict[Hashable, frozenset[Cut]] = {}
        """The layouts a figure rests on, by its key; figures that rest on none are not in it."""
        self.of_surfaces: dict[tuple[Hashable, ...], Any] = {} if before is None else _taken_over(before, doc, shelf)
        """By surface and figure: what rests on the job but for stacks on other surfaces."""
        self._lock = RLock()

    def keep(self, key: Hashable, make: Callable[[], T]) -> T:
        """The figure under a key, made if it is not there yet."""
        with self._lock:  # two who ask at once wait for one another rather than work it out twice
            if key not in self._kept:
                outer, _WORKED_OUT.laid = _WORKED_OUT.laid, frozenset()
                try:
                    figure = make()
                    if _WORKED_OUT.laid:  # told before the figure is there: nobody takes it for one that rests on none
                        self._laid[key] = _WORKED_OUT.laid
                    self._kept[key] = figure
                finally:  # what could not be worked out rests on the layouts it asked for too
                    inner, _WORKED_OUT.laid = _WORKED_OUT.laid, outer
                    _rests_on(inner or frozenset())
            else:
                _rests_on(self._laid.get(key, frozenset()))
            found: T = self._kept[key]
            return found

    def lay(self, material: str, thickness_mm: float, data: CutInput) -> Found:
        """The layout of what is wanted of a material at a thickness; whatever is worked out with it rests on it."""
        _rests_on(frozenset({(material, thickness_mm)}))
        return self.layouts(material, thickness_mm, data)

    def laid_anew(self, moved: frozenset[Cut]) -> JobFigures:
        """The figures of the same document once layouts have come further: those that rest on none of them stay."""
        job = JobFigures(self.doc, self.base, self.layouts, self)
        known = self._kept.copy()  # at once, whoever adds to it meanwhile; what a figure rests on is told before the figure is
        rests = self._laid.copy()
        job._kept = {key: figure for key, figure in known.items() if moved.isdisjoint(rests.get(key, ()))}
        job._laid = {key: on for key, on in rests.items() if key in job._kept}
        return job

    def of(self, doc: JobDocument) -> JobFigures:
        """The figures of another document with the same shelf; these where it is the same one."""
        return self if doc is self.doc else JobFigures(doc, self.base, self.layouts, self)


def once(
    figure: Callable[Concatenate[JobFigures, P], T],
) -> Callable[Concatenate[JobFigures, P], T]:
    """Computes a figure of a job at most once per arguments; a row of the job among them stands by its number."""

    @wraps(figure)
    def kept(job: JobFigures, /, *args: P.args, **named: P.kwargs) -> T:
        key = (figure, *(_name(a) for a in args), *((k, _name(v)) for k, v in named.items()))
        return job.keep(key, lambda: figure(job, *args, **named))

    return kept


def once_of_surface(
    figure: Callable[Concatenate[JobFigures, R, P], T],
) -> Callable[Concatenate[JobFigures, R, P], T]:
    """Computes a figure of a surface, a patch or a path at most once, and not again for another document of the job that differs
    only in the stacks of other surfaces. What rests on those too, as the level of a path in a box, or on a layout, is no figure
    to mark so."""

    @wraps(figure)
    def kept(job: JobFigures, row: R, /, *args: P.args, **named: P.kwargs) -> T:
        key = (_surface_id(row), figure, *_part(row), *args, *named.items())
        if key not in job.of_surfaces:
            job.of_surfaces[key] = figure(job, row, *args, **named)
        found: T = job.of_surfaces[key]
        return found

    return kept


def _surface_id(row: Path | Surface) -> int | None:
    return row.surface_id if isinstance(row, Path) else row.id


def _part(row: Path | Surface) -> tuple[Hashable, ...]:
    """What tells apart what belongs to one surface."""
    return type(row), row.id, row.zone if isinstance(row, Patch) else ""


def _taken_over(before: JobFigures, doc: JobDocument, shelf: Shelf) -> dict[tuple[Hashable, ...], Any]:
    """The figures that another document leaves as they are: those of surfaces whose alternatives are all the same."""
    known = before.of_surfaces.copy()  # at once, whoever adds to it meanwhile
    was = before.doc
    if not known or shelf is not before.base or doc.job != was.job or any(
            getattr(doc, name) is not getattr(was, name) for name in COLLECTIONS if name != "alternatives"):
        return {}
    there, then = ({id(a): a.surface_id for a in x.alternatives} for x in (was, doc))
    moved = {surface for number, surface in (*there.items(), *then.items()) if number not in there or number not in then}
    return {key: value for key, value in known.items() if key[0] not in moved}


def _name(argument: object) -> object:
    if isinstance(argument, dict):
        return tuple(sorted(argument.items()))
    return (type(argument), argument.id) if isinstance(argument, Row) else argument


class Shared:
    """The figures of the jobs asked for last, found again while a job's document is the same but for its words.

    What somebody writes down beside a figure (a note, a caption) changes no figure, so it brings back the figures there are.
    Beyond ``most_bytes``, and after ``age_s`` in which nobody asked, they are let go.
    """

    def __init__(self, most_bytes: float = 40 * 2**20, age_s: float = 600.0,
                 layouts_of: Callable[[int], Layouts] = lambda _: AtOnce()) -> None:
        self.most_bytes, self._age_s, self._lock, self._layouts_of = most_bytes, age_s, Lock(), layouts_of
        self._kept: OrderedDict[int, tuple[JobDocument, JobFigures, float]] = OrderedDict()
        self._bytes = 0
        self.computed = 0
        """How often figures had to be begun anew."""

    def figures(self, doc: JobDocument, shelf: Shelf) -> JobFigures:
        """The figures of a document."""
        with self._lock:
            of, found, _ = self._kept.get(doc.job.id, (None, None, 0.0))
            bare = found.doc if found is not None and of is doc else self._bare(doc)
            if found is None or found.base is not shelf or found.doc != bare:
                found = JobFigures(bare, shelf, self._layouts_of(doc.job.id), found)
                self.computed += 1
            elif moved := found.layouts.moved():
                found = found.laid_anew(moved)
            self._bytes += _bytes_of(doc) - (0 if of is None else _bytes_of(of))
            self._kept[doc.job.id] = doc, found, time.monotonic()
            self._kept.move_to_end(doc.job.id)
            while len(self._kept) > 1 and (
                    self._bytes > self.most_bytes or next(iter(self._kept.values()))[2] < time.monotonic() - self._age_s):
                self._bytes -= _bytes_of(self._kept.popitem(last=False)[1][0])
        return found

    def tried(self, doc: JobDocument, shelf: Shelf, layouts: Layouts | None) -> JobFigures:
        """The figures of a document that is not kept, beside those asked for last."""
        with self._lock:
            bare, before = self._bare(doc), self._kept.get(doc.job.id)
        return JobFigures(bare, shelf, layouts, None if before is None else before[1])

    def _bare(self, doc: JobDocument) -> JobDocument:
        of, found, _ = self._kept.get(doc.job.id, (None, None, 0.0))
        return without_words(doc, None if of is None or found is None else (of, found.doc))

    def last(self, job_id: int) -> JobFigures | None:
        """The figures of a job that were asked for last, whatever was done to it since; None where there are none."""
        with self._lock:
            return self._kept[job_id][1] if job_id in self._kept else None

    def held(self) -> tuple[int, int]:
        """How many jobs, and about how many bytes."""
        with self._lock:
            return len(self._kept), self._bytes


ROW_BYTES = 14_000
"""What follows from one row of a job, in memory, with all its stages seen: measured on the demo."""


def _bytes_of(doc: JobDocument) -> int:
    return ROW_BYTES * sum(len(rows) for _, rows in doc if isinstance(rows, tuple))
