"""The desk that hands out work: one entry per input, however many ask; a pool of processes; results kept by their input."""

from __future__ import annotations

import hashlib
import multiprocessing
import os
import threading
import time
from collections import OrderedDict, deque
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import lru_cache, partial
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from typing import Any, Literal, Protocol

from pydantic import BaseModel

from ..catalogue.revisions import MODEL_REVISION
from ..core.same import Same
from .kinds import KINDS
from .worker import serve_pipe

MOST_WORKERS = 4
MOST_ENTRIES = 80
LONG = frozenset({"plan", "ahead", "recording"})
"""Kinds of work that take long."""
MOST_GROWN_MB = 16.0
"""A worker that has grown by more since it began makes way for a fresh one."""
TRIES = 2
"""How often work is begun when its worker is lost."""

StillWanted = Callable[[], bool]
"""Whether whoever asked still wants the work."""
State = Literal["waiting", "running", "done", "refused", "cancelled"]


class Results(Protocol):
    """Where finished results outlive the server."""

    def find(self, key: str) -> tuple[str, str] | None:
        """The kind and the result kept under a key, as JSON."""

    def keep(self, key: str, kind: str, result: str) -> None:
        """Keep a result."""


@dataclass
class Entry:
    """One piece of work. ``step`` rises with everything that is told of it; ``result`` is the newest, final when done."""

    id: str
    kind: str
    text: str
    state: State = "waiting"
    share: float = 0.0
    words: str = "waiting for its turn"
    result: str | None = None
    step: int = 0
    tries: int = 0
    not_before: float = 0.0
    quick: bool = False
    """Done in a moment: it goes before what takes longer, however long that has waited."""
    wanted: list[StillWanted] = field(default_factory=list)
    """Who asked; empty where it is wanted whatever happens."""
    unfinished: bool = False
    """Stopped because nobody wanted it then, not because somebody took what there was."""

    @property
    def open(self) -> bool:
        """Whether more is to come."""
        return self.state in ("waiting", "running")


class Desk:
    """Starts work, tells how far it is, cancels it. Thread-safe; processes start when first needed, or when warmed up."""

    def __init__(self, results: Results | None = None, workers: int | None = None) -> None:
        self._results, self._lock = results, threading.Condition()
        self._entries: OrderedDict[str, Entry] = OrderedDict()
        self._queue: deque[Entry] = deque()
        self._count = workers or min(os.cpu_count() or 1, MOST_WORKERS)
        self._hands: list[_Hand] = []
        self._closed = False

    @staticmethod
    def key(kind: str, given: BaseModel) -> str:
        """What work is known by: its kind, its input, and the version of the model."""
        return _key(kind, _text_of(Same(given)))

    def start(
        self, kind: str, given: BaseModel, wanted: StillWanted | None = None, later_s: float = 0.0, quick: bool = False
    ) -> Entry:
        """The work on an input: begun, under way, or done already.

        It is begun no sooner than in ``later_s``, and not at all if by then nobody wants it any more (``wanted``); what is
        ``quick`` goes before what waits.
        """
        text = _text_of(Same(given))
        key = _key(kind, text)
        with self._lock:
            entry = self._entries.get(key)
            if entry is None or (entry.state == "cancelled" and (entry.result is None or entry.unfinished)):
                kept = self._results.find(key) if self._results is not None else None
                entry = Entry(key, kind, text) if kept is None else Entry(key, kind, "", "done", 1.0, "done", kept[1])
                self._entries[key] = entry
                if kept is None:
                    entry.not_before, entry.quick = time.monotonic() + later_s, quick
                    self._queue.append(entry)
                    self._staff()
                    self._lock.notify_all()
            if entry.open:
                entry.wanted = [] if wanted is None else [*entry.wanted, wanted]
            self._entries.move_to_end(key)
            self._forget()
            return entry

    def find(self, key: str, here: bool = False) -> Entry | None:
        """Work by its key, if it was asked for, or its result is kept; ``here``: in memory, without a look into the store."""
        with self._lock:
            entry = self._entries.get(key)
        if entry is None and not here and self._results is not None and (kept := self._results.find(key)) is not None:
            return Entry(key, kept[0], "", "done", 1.0, "done", kept[1])
        return entry

    def cancel(self, key: str) -> Entry | None:
        """Stop work; the best it had so far stays its result."""
        with self._lock:
            entry = self._entries.get(key)
            if entry is not None and entry.open:
                entry.state, entry.words = "cancelled", "stopped" if entry.result is None else "stopped; the best so far stays"
                entry.step += 1
                if entry in self._queue:
                    self._queue.remove(entry)
                for hand in self._hands:
                    if hand.entry is entry:
                        hand.stop()
                self._lock.notify_all()
        return entry

    def wait(self, key: str, timeout_s: float) -> Entry | None:
        """The entry once nothing more is to come, or as it stands after a while."""
        with self._lock:
            self._lock.wait_for(lambda: (e := self._entries.get(key)) is None or not e.open, timeout_s)
            return self._entries.get(key)

    def warm_up(self) -> None:
        """Have a process at hand before there is anything to do: what it loads takes longer than a first answer."""
        with self._lock:
            if not self._hands and not self._closed:
                self._hands.append(_Hand(self))

    def close(self) -> None:
        """End all work and all processes."""
        with self._lock:
            self._closed = True
            self._queue.clear()
            for hand in self._hands:
                hand.stop()
            self._lock.notify_all()
        for hand in self._hands:
            hand.thread.join(10)

    def held(self) -> tuple[int, int]:
        """How much work is known, and the bytes of what is kept of it."""
        with self._lock:
            return len(self._entries), sum(len(e.text) + len(e.result or "") for e in self._entries.values())

    def workers(self) -> list[int]:
        """The numbers of the processes at work."""
        with self._lock:
            return [h.process.pid for h in self._hands if h.process is not None and h.process.pid is not None]

    def _staff(self) -> None:
        busy = len(self._queue) + sum(h.entry is not None for h in self._hands)
        while len(self._hands) < min(self._count, busy):
            self._hands.append(_Hand(self))

    def _forget(self) -> None:
        for key in [k for k, e in self._entries.items() if not e.open][: max(len(self._entries) - MOST_ENTRIES, 0)]:
            del self._entries[key]

    def next_entry(self, hand: _Hand) -> Entry | None:
        """The next work for a hand; waits for it. None when the desk closes."""
        with self._lock:
            hand.entry = None
            while (entry := self._due()) is None and not self._closed:
                self._lock.wait(min((e.not_before - time.monotonic() for e in self._queue if self._may_begin(e)), default=3600.0))
            if entry is None:
                return None
            hand.entry = entry
            entry.state, entry.words, entry.tries, entry.step = "running", "begun", entry.tries + 1, entry.step + 1
            return entry

    def _due(self) -> Entry | None:
        """Of the entries whose time has come and that somebody still wants the one due first, quick ones before others; what
        nobody wants is let go."""
        due: Entry | None = None
        for entry in list(self._queue):
            if entry.wanted and not any(w() for w in entry.wanted):
                self._queue.remove(entry)
                entry.state, entry.words, entry.step = "cancelled", "nobody wants it any more", entry.step + 1
            elif self._may_begin(entry) and entry.not_before <= time.monotonic() and (
                    due is None or (not entry.quick, entry.not_before) < (not due.quick, due.not_before)):
                due = entry
        if due is not None:
            self._queue.remove(due)
        return due

    def _may_begin(self, entry: Entry) -> bool:
        """Whether a hand is left for it: of several one stays free for what is done in a moment."""
        long = sum(h.entry is not None and h.entry.kind in LONG for h in self._hands)
        return entry.kind not in LONG or long < max(self._count - 1, 1)

    def told(self, entry: Entry, share: float, words: str, result: str | None) -> None:
        """A worker's report."""
        with self._lock:
            if entry.state == "running":
                entry.share, entry.words, entry.result = share, words, result or entry.result
                entry.step += 1
            let_go = bool(entry.wanted) and not any(w() for w in entry.wanted)
        if let_go:
            entry.unfinished = True
            self.cancel(entry.id)

    def ended(self, entry: Entry, state: State, words: str, result: str | None) -> None:
        """A worker is done with an entry."""
        with self._lock:
            if entry.state != "running":
                return
            entry.state, entry.words, entry.share = state, words, 1.0
            entry.result = result or entry.result
            entry.step += 1
            entry.text, entry.wanted = "", []
        # kept before anybody waiting wakes
        if result is not None and self._results is not None:
            self._results.keep(entry.id, entry.kind, result)
        with self._lock:
            self._lock.notify_all()

    def lost(self, entry: Entry) -> None:
        """A worker died over an entry: it is said, and begun again, once."""
        with self._lock:
            if entry.state == "running" and not self._closed and entry.tries < TRIES:
                entry.state, entry.words, entry.step = "waiting", "the worker was lost; begun again", entry.step + 1
                self._queue.appendleft(entry)
                self._lock.notify_all()
                return
        self.ended(entry, "refused", "the worker was lost twice over this", None)


class _Hand:
    """One process and the thread that speaks with it."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.entry = desk, None
        self.process: BaseProcess | None = None
        self.pipe: Connection | None = None
        self.thread = threading.Thread(target=self._run, name="work", daemon=True)
        self.thread.start()

    entry: Entry | None

    def _run(self) -> None:
        self._trying(self._begin)  # while others may do what there is: work is taken by whoever is ready
        while (entry := self.desk.next_entry(self)) is not None:
            if not self._trying(partial(self._do, entry)):
                self.desk.lost(entry)
        self._end_process()

    def _trying(self, act: Callable[[], None]) -> bool:
        """Whether the process was still there at the end of it."""
        try:
            act()
        except (EOFError, OSError):
            self._end_process()
            return False
        return True

    def _begin(self) -> None:
        """A process that has loaded what it needs."""
        if self.process is not None and self.process.is_alive():
            return
        self._end_process()
        # of one process that has loaded everything: begun in a moment, and what is loaded is held once in memory
        context = multiprocessing.get_context("forkserver")
        context.set_forkserver_preload(["sphagnum.work.kinds", "scipy.optimize"])
        self.pipe, theirs = context.Pipe()
        self.process = context.Process(target=serve_pipe, args=(theirs, dict(os.environ)), daemon=True)
        self.process.start()
        theirs.close()
        self.pipe.recv()

    def _do(self, entry: Entry) -> None:
        self._begin()
        assert self.pipe is not None
        self.pipe.send((entry.kind, entry.text))
        while True:
            what, *said = self.pipe.recv()
            if what == "told":
                self.desk.told(entry, *said)
            elif what == "done":
                self.desk.ended(entry, "done", "done", said[0])
                if said[1] > MOST_GROWN_MB:  # what it kept in memory is worth less than the memory; the next stands ready
                    self._end_process()
                    self._trying(self._begin)
                return
            else:
                return self.desk.ended(entry, "refused", said[0], None)

    def stop(self) -> None:
        """End the process over what it does; the thread sees its pipe close."""
        process = self.process  # its own thread may put it aside meanwhile
        if process is not None and process.is_alive():
            process.terminate()

    def _end_process(self) -> None:
        self.stop()
        if self.pipe is not None:
            self.pipe.close()
        if self.process is not None:
            self.process.join(5)
        self.process = self.pipe = None


@lru_cache(maxsize=12)
def _text_of(given: Same[BaseModel]) -> str:
    """What is asked for again and again while it is under way is written out once."""
    return given.value.model_dump_json()


def _key(kind: str, text: str) -> str:
    return hashlib.sha256(f"{kind}\0{MODEL_REVISION}\0{text}".encode()).hexdigest()[:32]


def result_of(entry: Entry) -> Any:
    """An entry's newest result as its type; None where there is none yet."""
    return None if entry.result is None else _parsed(entry.kind, entry.result)


@lru_cache(maxsize=24)
def _parsed(kind: str, result: str) -> Any:
    return KINDS[kind].gives.model_validate_json(result)
