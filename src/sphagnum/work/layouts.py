"""Layouts of a job, worked out behind the page: the best there is, what is under way, else the last there was."""

from __future__ import annotations

import time
from threading import Lock

from ..core.cutting.buying import AT_ONCE_S, Cut, Found, laid_out
from ..core.cutting.layout import only_boxes
from ..core.cutting.model import CutInput, CutResult
from .desk import Desk, Entry, result_of

SETTLE_S = 1.5
"""A layout is begun once a hand has let go for so long."""
DRAFTS_FIRST_S = 1.0
"""A long search is begun so much later than the drafts of a job, so that all of them have something to show."""
GRACE_S = 3.0
"""How long the figures of a job may take to ask for a layout again."""
MOST_KEPT = 150
"""So many finished layouts are remembered, the newest."""
Last = dict[tuple[int, str, float], CutResult]
"""The newest finished layout by job, material and thickness."""


class LastLayouts:
    """What the jobs' layouts were when they were last finished."""

    def __init__(self) -> None:
        self._lock, self._kept = Lock(), Last()
        self._asking: dict[int, tuple[float, set[str]]] = {}

    def ask_anew(self, job_id: int) -> None:
        """The figures of a job are begun anew: what they do not ask for soon is no longer wanted."""
        with self._lock:
            self._asking[job_id] = time.monotonic(), set()

    def ask(self, job_id: int, key: str) -> None:
        """A layout the job's newest figures ask for."""
        with self._lock:
            self._asking.setdefault(job_id, (0.0, set()))[1].add(key)

    def wants(self, job_id: int, key: str) -> bool:
        """Whether a job still wants a layout."""
        with self._lock:
            since, keys = self._asking.get(job_id, (0.0, set()))
            return key in keys or (not keys and time.monotonic() - since < GRACE_S)

    def note(self, job_id: int, material: str, thickness_mm: float, result: CutResult) -> None:
        """A finished layout."""
        with self._lock:
            self._kept.pop((job_id, material, thickness_mm), None)
            self._kept[job_id, material, thickness_mm] = result
            while len(self._kept) > MOST_KEPT:
                del self._kept[next(iter(self._kept))]

    def held(self) -> int:
        """How many layouts."""
        with self._lock:
            return len(self._kept)

    def find(self, job_id: int, material: str, thickness_mm: float) -> CutResult | None:
        """The last finished layout; of another thickness of the same material where this one never had any."""
        with self._lock:
            exact = self._kept.get((job_id, material, thickness_mm))
            near = (r for (job, name, _), r in reversed(self._kept.items()) if (job, name) == (job_id, material))
            return exact or next(near, None)


class JobLayouts:
    """The layouts of one job as its figures ask for them. ``begin``: whether work not done yet is begun, or only looked for."""

    def __init__(self, desk: Desk, last: LastLayouts, job_id: int, begin: bool = True) -> None:
        self._desk, self._last, self._job, self._begin = desk, last, job_id, begin
        self._lock, self._steps = Lock(), dict[str, tuple[Cut, int]]()
        if begin:
            last.ask_anew(job_id)

    def __call__(self, material: str, thickness_mm: float, data: CutInput, /) -> Found:
        """The layout of what is wanted of a material at a thickness."""
        if data.fixed and len(data.fixed) == sum(p.quantity for p in data.pieces):
            return Found(laid_out(data))  # a hand has laid all of it: there is nothing to search
        of, older = (material, thickness_mm), self._last.find(self._job, material, thickness_mm)
        long = not only_boxes(data)
        settle_s = SETTLE_S if older else 0.0  # where nothing can be shown yet, there is nothing to wait for
        entry = self._work(data, DRAFTS_FIRST_S if long else 0.0, settle_s)
        if entry is None:
            return Found(None, "", older)
        result: CutResult | None = self._result(entry, of)
        if result is None and long and entry.open:
            draft = self._work(data.model_copy(update={"seconds": AT_ONCE_S}), 0.0, settle_s, quick=True)
            result = None if draft is None else self._result(draft, of)
        if entry.open:
            return Found(result, entry.id, older)
        if result is not None:
            self._last.note(self._job, material, thickness_mm, result)
        return Found(result, "", older)

    def _work(self, data: CutInput, later_s: float, settle_s: float, quick: bool = False) -> Entry | None:
        """The work on a layout, begun or only looked for."""
        key = self._desk.key("layout", data)
        if not self._begin:
            return self._desk.find(key, here=True)
        self._last.ask(self._job, key)
        return self._desk.start("layout", data, lambda: self._last.wants(self._job, key), settle_s + later_s, quick)

    def _result(self, entry: Entry, of: Cut) -> CutResult | None:
        """What it has found so far; the step is taken before the result: what comes in between counts as moved."""
        step, is_open = entry.step, entry.open
        result: CutResult | None = result_of(entry)
        if is_open:
            with self._lock:
                self._steps[entry.id] = of, step
        return result

    def moved(self) -> frozenset[Cut]:
        """Of what the layouts that were under way have come further since they were asked for; told once."""
        with self._lock:
            steps = list(self._steps.items())
        further = {key: (of, step) for key, (of, step) in steps
                   if (e := self._desk.find(key, here=True)) is None or e.step != step}
        with self._lock:
            for key, seen in further.items():
                if self._steps.get(key) == seen:  # else somebody has asked for it meanwhile
                    del self._steps[key]
        return frozenset(of for of, _ in further.values())
