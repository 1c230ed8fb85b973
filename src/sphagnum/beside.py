"""Processes that work for a command beside it, and end with it."""

from __future__ import annotations

import ctypes
import multiprocessing
import os
import signal
from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from multiprocessing.reduction import ForkingPickler
from typing import Any, NamedTuple, TypeVar

_OURS = (signal.SIGINT, signal.SIGTERM)
PR_SET_PDEATHSIG = 1
Made = TypeVar("Made")


class Hand(NamedTuple):
    """A process and the way its result comes: nothing is shared with another, so that it can be ended at any moment."""

    process: BaseProcess
    pipe: Connection


def begin(work: Callable[..., Any], *given: Any) -> Hand:
    """Work begun in a process forked from this one."""
    return _forked(_do, work, given)


def together(works: Sequence[Callable[[bool], Made]]) -> Iterator[Made]:
    """What works give, in their order, done by this process and by one forked from it, whichever is free; each is told whether it
    is done here. What the other leaves undone is done here."""
    if len(works) < 2 or (os.cpu_count() or 1) < 2:
        yield from (work(True) for work in works)
        return
    left, filled = os.pipe()  # each takes the number of the next work from it: what one has read the other does not see
    os.write(filled, b"".join(i.to_bytes(2, "big") for i in range(len(works))))
    os.close(filled)
    hand = _forked(_take, works, left)
    done: dict[int, Made] = {}
    try:
        for i in range(len(works)):
            while i not in done:
                token = os.read(left, 2)
                if token:
                    k = int.from_bytes(token, "big")
                    done[k] = works[k](True)
                elif not _received(hand, done):
                    done[i] = works[i](True)  # the other was ended over it
                while hand.pipe.poll() and _received(hand, done):
                    pass
            yield done.pop(i)
    finally:
        os.close(left)
        let_go([hand])


def _received(hand: Hand, done: dict[int, Any]) -> bool:
    """Puts the next that the other process gives to what is done; False where no more is to come. Raises what its work raised."""
    try:
        k, value, error = hand.pipe.recv()
    except (EOFError, OSError):
        return False
    if error is not None:
        raise error
    done[k] = value
    return True


def _forked(act: Callable[..., None], *given: Any) -> Hand:
    context = multiprocessing.get_context("fork")
    here, there = context.Pipe(duplex=False)
    process = context.Process(target=_ours, args=(act, there, *given), daemon=True)
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


def _ours(act: Callable[..., None], pipe: Connection, *given: Any) -> None:
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # a key at the terminal is for the command
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    with suppress(OSError, AttributeError):  # where the system knows of it: whoever began this is ended, and this with it
        ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)
    signal.pthread_sigmask(signal.SIG_UNBLOCK, _OURS)
    act(pipe, *given)


def _do(pipe: Connection, work: Callable[..., Any], given: tuple[Any, ...]) -> None:
    try:
        said: tuple[Any, Exception | None] = work(*given), None
    except Exception as error:
        said = None, error
    pipe.send(said)


def _take(pipe: Connection, works: Sequence[Callable[[bool], Any]], left: int) -> None:
    with ThreadPoolExecutor(1) as sending:  # what is large waits in the pipe until whoever asked has time for it: work goes on
        while token := os.read(left, 2):
            k = int.from_bytes(token, "big")
            try:  # packed here: works to come may change what it is made of
                said = ForkingPickler.dumps((k, works[k](False), None))
            except Exception as error:
                said = ForkingPickler.dumps((k, None, error))
            sending.submit(pipe.send_bytes, said)
