"""Processes that work for a command beside it, and end with it."""

from __future__ import annotations

import multiprocessing
import signal
from collections.abc import Callable, Iterable
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from typing import Any, NamedTuple

_OURS = (signal.SIGINT, signal.SIGTERM)


class Hand(NamedTuple):
    """A process and the way its result comes: nothing is shared with another, so that it can be ended at any moment."""

    process: BaseProcess
    pipe: Connection


def begin(work: Callable[..., Any], *given: Any) -> Hand:
    """Work begun in a process forked from this one."""
    context = multiprocessing.get_context("fork")
    here, there = context.Pipe(duplex=False)
    process = context.Process(target=_do, args=(there, work, given), daemon=True)
    before = signal.pthread_sigmask(signal.SIG_BLOCK, _OURS)  # one that comes before the child answers it in its own way is lost
    try:
        process.start()
    finally:
        signal.pthread_sigmask(signal.SIG_SETMASK, before)
        there.close()
    return Hand(process, here)


def result(hand: Hand) -> Any:
    """What the work gave, or what it raised. MemoryError where its process was ended from outside."""
    try:
        value, error = hand.pipe.recv()
    except EOFError:
        raise MemoryError from None
    let_go([hand])
    if error is not None:
        raise error
    return value


def let_go(hands: Iterable[Hand]) -> None:
    """End processes, whatever they are at."""
    for hand in hands:
        hand.process.kill()
        hand.process.join()
        hand.pipe.close()


def _do(pipe: Connection, work: Callable[..., Any], given: tuple[Any, ...]) -> None:
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # a key at the terminal is for the command
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    signal.pthread_sigmask(signal.SIG_UNBLOCK, _OURS)
    try:
        said: tuple[Any, Exception | None] = work(*given), None
    except Exception as error:
        said = None, error
    pipe.send(said)
