"""The command-line contract: each command from files to one printed result. Types parse the input and make the schemas."""

from __future__ import annotations

import json
import re
from typing import Any, NamedTuple

from pydantic import BaseModel

from ..core.cutting.layout import cut
from ..core.cutting.model import CutInput, CutResult
from ..core.errors import BadInput, NotCovered
from ..core.levels.comparison import Comparison, Item, Terms, compare, middle_of_range
from ..core.levels.logs import LogAnalysis, analyse_log
from ..core.levels.rating import Ratings, rate
from ..core.materials.shelf import Shelf
from ..core.paths.budget import Budget, Paths, trace
from ..core.schema import parse
from ..core.stacks.model import Stack
from ..core.stacks.predict import Prediction, predict
from ..instruments.log_reader import LevelLog, read_log
from .files import read_bytes, read_curve, read_json

INPUTS: dict[str, type[BaseModel]] = {"predict": Stack, "cut": CutInput, "trace": Paths}
OUTPUTS: dict[str, type[BaseModel]] = {"rate": Ratings, "predict": Prediction, "analyse": LogAnalysis,
                                       "compare": Comparison, "cut": CutResult, "trace": Budget}
_RANGE = re.compile(r"^([+\-]?\d+(?:[.,]\d+)?)\.\.([+\-]?\d+(?:[.,]\d+)?)$")
_LEVEL = re.compile(r"^[+\-]?\d+(?:[.,]\d+)?$")


class Window(NamedTuple):
    """Which part of a log counts, s."""

    start: float | None = None
    end: float | None = None
    steady: bool = False


def run_rate(name: str) -> Ratings:
    """``rate CURVE.csv``."""
    return rate(read_curve(read_bytes(name), name))


def run_predict(name: str, shelf: Shelf) -> Prediction:
    """``predict STACK.json``."""
    return _predict(read_json(read_bytes(name), name), name, shelf)


def run_predict_many(name: str, shelf: Shelf) -> list[Prediction]:
    """``predict --many STACKS.jsonl``: one result per line that is not blank, in order."""
    lines = read_bytes(name).decode("utf-8-sig", "replace").split("\n")
    out = []
    for number, line in enumerate(lines, start=1):
        if line.strip():
            where = f"{name}: line {number}"
            out.append(_predict(read_json(line.encode(), where), where, shelf))
    if not out:
        raise BadInput("there is no stack in it", name, "put one stack on each line")
    return out


def _predict(data: Any, where: str, shelf: Shelf) -> Prediction:
    stack = parse(Stack, data, where)
    try:
        return predict(shelf.resolve(stack))
    except BadInput as error:
        raise error.at(where) from None


def run_trace(name: str, shelf: Shelf) -> Budget:
    """``trace PATHS.json``."""
    paths = parse(Paths, read_json(read_bytes(name), name), name)
    try:
        resolved = tuple(
            p if p.stack is None else p.model_copy(update={"stack": _resolve(shelf, p.stack, i)})
            for i, p in enumerate(paths.paths)
        )
        return trace(paths.model_copy(update={"paths": resolved}), shelf.repeatability("typed"))
    except BadInput as error:
        raise error.at(name) from None


def _resolve(shelf: Shelf, stack: Stack, place: int) -> Stack:
    try:
        return shelf.resolve(stack)
    except BadInput as error:
        raise error.at(f"paths[{place}].stack") from None


def run_cut(name: str, seed: int) -> CutResult:
    """``cut PIECES.json``."""
    data = parse(CutInput, read_json(read_bytes(name), name), name)
    try:
        return cut(data, seed)
    except BadInput as error:
        raise error.at(name) from None


def run_analyse(name: str, column: str | None, interval_s: float | None, window: Window) -> LogAnalysis:
    """``analyse FILE`` for level logs."""
    return _analyse(_log(name, column, interval_s), name, window)


def _log(name: str, column: str | None = None, interval_s: float | None = None) -> LevelLog:
    data = read_bytes(name)
    if data.startswith((b"RIFF", b"RF64", b"fLaC")):
        raise NotCovered("recordings are not analysed yet", name, "give a level log")
    return read_log(data, name, column, interval_s)


def _analyse(log: LevelLog, name: str, window: Window) -> LogAnalysis:
    try:
        return analyse_log(log.time_s, log.level_db, log.interval_s, (window.start, window.end), window.steady)
    except BadInput as error:
        raise error.at(name) from None


def run_compare(
    before: list[str], after: list[str], background: str | None, window: Window, repeatability_db: float,
    different_instrument_db: float | None,
) -> Comparison:
    """``compare BEFORE… --against AFTER…``: logs, typed levels and ranges."""
    level = None if background is None else _item(background, window).level_db
    terms = Terms(level, repeatability_db, different_instrument_db)
    return compare([_item(x, window) for x in before], [_item(x, window) for x in after], terms)


def _item(text: str, window: Window) -> Item:
    found = _RANGE.match(text.strip())
    if found:
        low, high = (_level(x, text) for x in found.groups())
        if low > high:
            raise BadInput("the range runs backwards", text, "give the lower level first")
        return middle_of_range(low, high)
    if _LEVEL.match(text.strip()):
        return Item(_level(text, text))
    log = _log(text)
    return Item(_analyse(log, text, window).Leq, log.quantity)


def _level(text: str, where: str) -> float:
    value = float(text.replace(",", "."))
    if not -50 <= value <= 200:
        raise BadInput(f"{value:g} dB is out of range", where, "levels lie within −50 to 200 dB")
    return value


def printed(result: BaseModel) -> str:
    """One JSON document; unknown is null, and never NaN."""
    return json.dumps(result.model_dump(mode="json"), ensure_ascii=False, allow_nan=False)
