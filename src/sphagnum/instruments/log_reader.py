"""Reads level logs as meters, phone applications and spreadsheets write them: any common separator and time form."""

from __future__ import annotations

import csv
import io
import itertools
import math
import re
from datetime import datetime, timedelta
from typing import Literal, NamedTuple

import numpy as np

from ..core.errors import BadInput
from ..core.levels.bands import NOMINAL_HZ, Floats, nearest_nominal
from ..core.levels.logs import Run
from ..core.schema import Strict

MOST_BYTES = 64 * 2**20
MOST_SAMPLES = 1_000_000
MOST_LINE = 20_000
TASTED = 400
"""Lines from which the separator is told; then the whole is parsed once."""
LOW_DB, HIGH_DB = -20.0, 200.0
EPOCH = datetime(1970, 1, 1)

_NUMBER = re.compile(r"^[<>~]?\s*([+\-−]?\d+(?:[.,]\d+)?(?:[eE][+\-]?\d+)?)\s*(s|sec|seconds|ms|dB.*)?$")
_CLOCK = re.compile(r"(\d{1,2}):(\d{2})(?::(\d{2})(?:[.,](\d+))?)?\s*([AaPp]\.?[Mm]\.?)?$")
_LEVEL_NAME = re.compile(r"(?i)^(l[a-z0-9 _.,()]*|.*\bdb\b.*|.*db[acz(\[].*|.*\bspl\b.*|.*level.*|.*pegel.*)$")
_TIME_NAME = re.compile(r"(?i)(time|date|zeit|stamp|second|elapsed|clock|^t$|^t\b|\bs\]?$|^no\.?$|index)")


class Column(Strict):
    """A column as found: its number from 1, its name, what it was taken for, and its first cells."""

    number: int
    name: str
    taken_for: Literal["time", "level", "other"]
    cells: tuple[str, ...]


class LevelLog(NamedTuple):
    """A log: its run, and what was understood of the file."""

    run: Run
    column: str
    quantity: str | None
    columns: tuple[Column, ...] = ()


def read_log(
    data: bytes, name: str, column: str | None = None, interval_s: float | None = None, time_column: str | None = None
) -> LevelLog:
    """Parse a log. ``column`` and ``time_column``: header name or number from 1. Raises BadInput with one sentence.

    ``time_column`` "none" counts samples at ``interval_s``.

    Without a header the level column is the first that does not rise steadily and lies within −20…200.
    """
    try:
        rows = _rows(_text(data))
        header, body = _split(rows)
        width = max(len(r) for r in body)
        body = [r + [""] * (width - len(r)) for r in body]
        names = [h.strip().strip('"') for h in header] + [""] * (width - len(header)) if header else [""] * width
        level_at = _level_column(names, body, column)
        if time_column is None:
            time_at = _time_column(names, body, level_at)
        else:
            time_at = None if time_column == "none" else _column_called(names, time_column, "time column")
        found = _assemble(names, body, level_at, time_at, interval_s)
        roles: dict[int | None, Literal["time", "level"]] = {time_at: "time", level_at: "level"}
        return found._replace(columns=tuple(
            Column(number=i + 1, name=names[i], taken_for=roles.get(i, "other"), cells=tuple(r[i][:30] for r in body[:4]))
            for i in range(width)))
    except BadInput as error:
        raise error.at(name) from None


def _text(data: bytes) -> str:
    if not data.strip():
        raise BadInput("the file is empty", "", "export the log again")
    if len(data) > MOST_BYTES:
        raise BadInput(f"the file is larger than {MOST_BYTES // 2**20} MB", "", "split the log")
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        encoding = "utf-16"
    elif data[1:200:2].count(0) > 60:
        encoding = "utf-16-le"
    else:
        encoding = "utf-8-sig"
    try:
        text = data.decode(encoding)
    except UnicodeDecodeError:
        text = data.decode("latin-1")
    controls = sum(1 for ch in text[:4000] if ord(ch) < 32 and ch not in "\t\r\n\f") + text[:4000].count("\ufffd")
    if controls > len(text[:4000]) * 0.01:
        raise BadInput("this is not text", "", "give a CSV or TSV level log")
    return text


def _rows(text: str) -> list[list[str]]:
    lines = [line for line in text.splitlines() if line.strip()]
    if len(lines) > MOST_SAMPLES:
        raise BadInput(f"it has more than {MOST_SAMPLES} lines", "", "split the log")
    if (longest := max(map(len, lines), default=0)) > MOST_LINE:
        raise BadInput(f"a line of {longest} characters is no line of a log", "", "write one sample a line")
    few = lines if len(lines) <= TASTED else [*lines[: TASTED // 2], *lines[-TASTED // 2:]]
    best, score = "", (-1, False, False)
    for separator in (";", "\t", ",", "|", ""):
        try:
            rows = _parted(few, separator)
        except csv.Error:
            continue
        numeric = [len(r) for r in rows[-200:] if any(_number(c) is not None for c in r)]
        if not numeric:
            continue
        width = max(set(numeric), key=numeric.count)
        whole = sum(1 for r in rows[-200:] if len(r) == width and all(_plain(c) for c in r))
        headed = width > 1 and any(len(r) == width and not any(_number(c) for c in r) for r in rows[:60])
        if (whole, headed, separator != "") > score:
            best, score = separator, (whole, headed, separator != "")
    if score[0] < 0:
        raise BadInput("no line holds a number", "", "give a level log with one sample a line")
    try:
        return _parted(lines, best)
    except csv.Error:
        raise BadInput("its quotation marks do not close", "", "export the log again") from None


def _parted(lines: list[str], separator: str) -> list[list[str]]:
    """Lines parted into cells; without a separator, at blanks."""
    if not separator:
        return [line.split() for line in lines]
    return list(csv.reader(io.StringIO("\n".join(lines)), delimiter=separator))


def _plain(cell: str) -> bool:
    return not cell.strip() or _number(cell) is not None or _instant(cell) is not None or not re.search(r"\d[,;]\d", cell)


def _number(cell: str) -> float | None:
    match = _NUMBER.match(cell.strip().strip('"').strip())
    if not match:
        return None
    value = float(match[1].replace(",", ".").replace("−", "-"))
    return value if math.isfinite(value) else None


def _instant(cell: str) -> float | None:
    """Seconds since some origin of a clock time, date and time, or ISO stamp."""
    text = cell.strip().strip('"')
    if re.match(r"\d{4}-\d\d-\d\d", text):
        try:
            return (datetime.fromisoformat(text).replace(tzinfo=None) - EPOCH) / timedelta(seconds=1)
        except ValueError:
            pass
    match = _CLOCK.search(text)
    if not match:
        return None
    hour, minute, second = int(match[1]), int(match[2]), int(match[3] or 0)
    if match[5]:
        hour = hour % 12 + (12 if match[5][0] in "pP" else 0)
    fraction = float(f"0.{match[4]}") if match[4] else 0.0
    day = _day(text[: match.start()])
    return day + hour * 3600 + minute * 60 + second + fraction


def _day(text: str) -> float:
    found = re.findall(r"\d+", text)
    if len(found) < 3:
        return 0.0
    a, b, c = (int(x) for x in found[:3])
    year, month, day = (a, b, c) if a > 31 else (c, b, a) if "." in text or a > 12 else (c, a, b)
    try:
        origin = datetime(year if year > 99 else 2000 + year, month, day)
    except ValueError:
        return 0.0
    return (origin - EPOCH) / timedelta(seconds=1)


def _split(rows: list[list[str]]) -> tuple[list[str], list[list[str]]]:
    """Preamble off: the header is the last line before the data that names as many columns as they have."""
    counts = [sum(1 for c in r if _number(c) is not None or _instant(c) is not None) for r in rows]
    widths = [len(r) for r in rows]
    usual = max(set(widths[-200:]), key=widths[-200:].count)
    start = next((i for i in range(len(rows)) if counts[i] and widths[i] >= min(usual, 2) and
                  all(counts[j] for j in range(i, min(i + 3, len(rows)))) and widths[i] == usual), None)
    if start is None:
        raise BadInput("no rows of samples were found", "", "give a level log with one sample a line")
    header: list[str] = []
    for row in reversed(rows[:start]):
        if len(row) == usual and not all(_number(c) is not None for c in row):
            header = row
            break
    body = [r for r in rows[start:] if any(c.strip() for c in r)]
    return header, body


def _numbers(body: list[list[str]], column: int) -> list[float | None]:
    return [_number(r[column]) for r in body]


def _level_column(names: list[str], body: list[list[str]], wanted: str | None) -> int:
    width = len(names)
    if wanted is not None:
        return _column_called(names, wanted, "--column")
    named = [i for i in range(width) if names[i] and _LEVEL_NAME.match(names[i]) and not _TIME_NAME.search(names[i])]
    for i in named:
        if any(v is not None and LOW_DB <= v <= HIGH_DB for v in _numbers(body, i)):
            return i
    if named:
        return named[0]
    if any(names):
        raise BadInput("no column is named as a level", "header", "name one dB, SPL or L…, or give --column")
    for i in range(width):
        values = [v for v in _numbers(body, i) if v is not None]
        if len(values) < max(1, len(body) // 2) or not all(LOW_DB <= v <= HIGH_DB for v in values):
            continue
        rising = len(values) > 2 and all(b > a for a, b in itertools.pairwise(values))
        if not rising:
            return i
    raise BadInput("no column looks like a level", "", "give --column")


def _column_called(names: list[str], wanted: str, where: str) -> int:
    """Index of a column by name, or by number from 1."""
    for i, name in enumerate(names):
        if name and name.lower() == wanted.strip().lower():
            return i
    if wanted.strip().isdecimal() and 1 <= int(wanted) <= len(names):
        return int(wanted) - 1
    known = ", ".join(n for n in names if n) or f"1 to {len(names)}"
    raise BadInput(f"there is no column '{wanted}'", where, f"use one of: {known}")


def _time_column(names: list[str], body: list[list[str]], level_at: int) -> int | None:
    samples = [r for r in body if _number(r[level_at]) is not None]

    def good(i: int) -> bool:
        times = [_seconds(r[i]) for r in samples]
        known = [t for t in times if t is not None]
        return len(known) >= 0.9 * len(samples) and (len(known) < 2 or known[-1] != known[0])
    candidates = [i for i in range(len(names)) if i != level_at and good(i)]
    by_clock = [i for i in candidates if any(_instant(r[i]) is not None for r in body[:5])]
    by_name = [i for i in candidates if _TIME_NAME.search(names[i]) and not re.match(r"(?i)^(no\.?|index)$", names[i])]
    even = [i for i in candidates if not (names[i] and _LEVEL_NAME.match(names[i])) and _even([_seconds(r[i]) for r in body])]
    rising = [i for i in candidates if not names[i] and _rising([_seconds(r[i]) for r in body])]
    return next(iter([*by_clock, *by_name, *even, *rising]), None)


def _rising(values: list[float | None]) -> bool:
    known = [v for v in values if v is not None]
    return len(known) > 1 and all(b >= a for a, b in itertools.pairwise(known))


def _even(values: list[float | None]) -> bool:
    """Whether values rise evenly, as times do whatever their column is called: by one step, gaps aside."""
    known = np.array([v for v in values if v is not None])
    steps = np.diff(known)
    if steps.size < 2 or not (steps > 0).all():
        return False
    step = np.median(steps)
    return bool(np.mean(np.abs(steps - step) <= 0.02 * step + 1e-9) >= 0.9)


def _seconds(cell: str) -> float | None:
    instant = _instant(cell)
    return instant if instant is not None else _number(cell)


def _assemble(
    names: list[str], body: list[list[str]], level_at: int, time_at: int | None, interval_s: float | None
) -> LevelLog:
    levels, times = [], []
    for number, row in enumerate(body):
        level = _number(row[level_at])
        if level is None:
            if row[level_at].strip() and re.search(r"\d", row[level_at]) is None and number > len(body) - 6:
                break  # a closing line such as "end of file"
            continue  # a gap: the meter wrote no level
        if not -50 <= level <= HIGH_DB:
            raise BadInput(f"{level:g} dB is out of range", f"sample {number + 1}", "levels lie within −50 to 200 dB")
        time = _seconds(row[time_at]) if time_at is not None else None
        if time_at is not None and time is None:
            continue
        levels.append(level)
        times.append(0.0 if time is None else time)
    if not levels:
        raise BadInput("no sample has a level", "", "choose the level column")
    if len(levels) > MOST_SAMPLES:
        raise BadInput(f"more than {MOST_SAMPLES} samples", "", "split the log")
    level_db = np.array(levels)
    if time_at is None:
        if interval_s is None:
            raise BadInput("there is no time column", "", "give the seconds between samples")
        steady: Floats = np.arange(level_db.size, dtype=np.float64) * interval_s
        return LevelLog(Run(steady, level_db, interval_s), names[level_at] or str(level_at + 1), quantity_of(names[level_at]))
    unit = 1e-3 if re.search(r"\(?\[?\bms\b", names[time_at]) else 1.0
    time_s = _unwrapped(np.array(times, dtype=np.float64) * unit)
    order = np.argsort(time_s, kind="stable")
    time_s, level_db = np.asarray(time_s[order], dtype=float), level_db[order]
    steps = np.diff(time_s)
    steps = steps[steps > 0]
    step = interval_s or (float(np.median(steps)) if steps.size else 1.0)
    since: Floats = np.asarray(time_s - time_s[0], dtype=np.float64)
    return LevelLog(Run(since, level_db, step), names[level_at] or str(level_at + 1), quantity_of(names[level_at]))


def _unwrapped(time_s: Floats) -> Floats:
    """Clock times that pass midnight go on rising."""
    jumps = np.concatenate([[0.0], np.cumsum(np.diff(time_s) < -43_200)])
    return np.asarray(time_s + 86_400 * jumps)


def quantity_of(name: str) -> str | None:
    """The weighting a column's name tells, as a quantity of levels; None when it tells none."""
    text = name.replace(" ", "").lower()
    for letter in "acz":
        if re.match(rf"^l{letter}", text) or re.search(rf"db[\[(]?{letter}\b|db{letter}", text):
            return f"L{letter.upper()}eq"
    return None


def read_spectrum(data: bytes, name: str) -> tuple[float | None, ...] | None:
    """Levels of the 33 bands from a table of bands and levels (None for bands it leaves out); None if it is no such table.

    A table is one when its first column steps up through nominal one-third-octave (or octave) frequencies.
    """
    try:
        header, body = _split(_rows(_text(data)))
    except BadInput as error:
        raise error.at(name) from None
    found: dict[float, float] = {}
    last = 0.0
    for row in body:
        frequency = _hertz(row[0]) if row else None
        band = None if frequency is None else nearest_nominal(frequency)
        levels = [v for c in row[1:] if (v := _number(c)) is not None]
        if band is None or band <= last or not levels:
            return None
        found[band], last = levels[0], band
    if len(found) < 3 or (header and _TIME_NAME.search(header[0]) and not re.search(r"(?i)hz|freq|band", header[0])):
        return None
    for band, level in found.items():
        if not -50 <= level <= HIGH_DB:
            raise BadInput(f"{level:g} dB is out of range", f"{name}: {band:g} Hz", "levels lie within −50 to 200 dB")
    return tuple(found.get(f) for f in NOMINAL_HZ)


def _hertz(cell: str) -> float | None:
    """A frequency such as '63', '1 k', '1.25 kHz', '500 Hz'."""
    match = re.match(r"(?i)^\s*\"?(\d+(?:[.,]\d+)?)\s*(k)?\s*(?:hz)?\"?\s*$", cell)
    return float(match[1].replace(",", ".")) * (1000 if match[2] else 1) if match else None
