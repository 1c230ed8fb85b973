"""Reading files from the command line: bounded, strict JSON and rating curves, errors that name the file."""

from __future__ import annotations

import csv
import io
import json
import sys
import tempfile
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from pydantic import BaseModel

from ..core.errors import BadInput
from ..core.levels.bands import nearest_nominal
from ..core.schema import read_number

MOST_BYTES = 64 * 2**20
MOST_STREAM = 8 * MOST_BYTES
RECORDINGS = (b"RIFF", b"RF64", b"RIFX", b"fLaC")


def write_whole(files: Mapping[Path, bytes]) -> None:
    """Files that are whole and all there, or none of them; what was there stays until all are whole. BadInput where they
    cannot be."""
    made: dict[Path, Path] = {}
    path = next(iter(files))
    try:
        for path, data in files.items():
            with tempfile.NamedTemporaryFile(dir=path.parent, prefix=".sphagnum-", delete=False) as fresh:
                made[path] = Path(fresh.name)
                fresh.write(data)
        for path, whole in made.items():
            whole.replace(path)
    except OSError as error:
        why = (error.strerror or "unknown").lower()
        raise BadInput(f"it cannot be written ({why})", str(path), "choose another place") from None
    finally:
        for left in made.values():
            left.unlink(missing_ok=True)


def read_bytes(name: str, most: int = MOST_BYTES) -> bytes:
    """The content of a file, ``-`` for standard input. BadInput if it is missing, no file, or too large.

    What is no file on a disk (a pipe, a device) is read once, from its beginning, as standard input is.
    """
    if name in _streams and most >= len(_streams[name]):
        return _streams[name]
    try:
        if name == "-":
            if sys.stdin is None or sys.stdin.closed:
                raise BadInput("standard input is closed", name, "name a file")
            data = sys.stdin.buffer.read(most + 1)
        elif Path(name).is_dir():
            raise BadInput("this is a folder", name, "name a file in it")
        else:
            size = Path(name).stat().st_size if Path(name).is_file() else 0
            if size > most:
                raise BadInput(f"the file is larger than {most // 2**20} MB", name, "split it")
            with Path(name).open("rb") as file:
                data = file.read(most + 1)
    except BadInput:
        raise
    except FileNotFoundError:
        raise BadInput("there is no such file", name, "check the name") from None
    except (OSError, ValueError) as error:
        reason = getattr(error, "strerror", None) or "it is not usable"
        raise BadInput(f"cannot be read ({reason.lower()})", name[:200], "check the file") from None
    if len(data) > most:
        raise BadInput(f"the input is larger than {most // 2**20} MB", name, "split it")
    if not _on_disk(name):
        _streams[name] = data
    return data


_streams: dict[str, bytes] = {}
"""What came through pipes so far: a pipe has no beginning to go back to."""


def _on_disk(name: str) -> bool:
    return name != "-" and Path(name).is_file()


def peek(name: str) -> bytes:
    """The first bytes of a file, to tell what it is."""
    if not _on_disk(name):
        return read_bytes(name, MOST_STREAM)[:4]
    try:
        with Path(name).open("rb") as file:
            return file.read(4)
    except OSError as error:
        raise BadInput(f"cannot be read ({str(error.strerror).lower()})", name, "check the file") from None


def is_recording(start: bytes) -> bool:
    """Whether a file that starts so is a recording rather than a level log."""
    return start[:4] in RECORDINGS


def source_of(name: str) -> Path | bytes:
    """A recording by its path, so that it is read in blocks; what comes through a pipe whole."""
    return Path(name) if _on_disk(name) else read_bytes(name, MOST_STREAM)


def read_json(data: bytes, name: str) -> Any:
    """Strict JSON: no NaN, no key twice, sane depth. BadInput says line and column."""
    try:
        return json.loads(data.decode("utf-8-sig"), parse_constant=_no_constants, object_pairs_hook=_once)
    except UnicodeDecodeError:
        raise BadInput("this is not UTF-8 text", name, "give a JSON file") from None
    except json.JSONDecodeError as error:
        place = f"line {error.lineno}, column {error.colno}"
        raise BadInput(f"not valid JSON ({error.msg.lower()})", f"{name}: {place}", "mend the file") from None
    except BadInput as error:
        raise error.at(name) from None
    except (RecursionError, ValueError):
        raise BadInput("not usable JSON (nested too deep or a number too long)", name, "mend the file") from None


def _no_constants(word: str) -> None:
    raise BadInput(f"{word} is not a number", "", "give a plain number")


def _once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    out: dict[str, Any] = {}
    for key, value in pairs:
        if key in out:
            raise BadInput(f"the key '{key[:60]}' stands twice", "", "keep one of the two")
        out[key] = value
    return out


def read_curve(data: bytes, name: str) -> dict[float, float]:
    """A rating curve ``frequency_hz,level_db`` as {nominal Hz: dB}. BadInput names the line."""
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise BadInput("this is not text", name, "give a CSV with frequency_hz,level_db") from None
    try:
        rows = list(csv.reader(io.StringIO(text.replace("\0", "\ufffd"), newline="")))
    except csv.Error as error:
        raise BadInput(f"this is no CSV ({error})", name, "save the table again as CSV") from None
    header = [h.strip() for h in rows[0]] if rows else []
    if header != ["frequency_hz", "level_db"]:
        raise BadInput(f"the header is '{','.join(header)[:60]}'", f"{name}: line 1", "use frequency_hz,level_db")
    curve: dict[float, float] = {}
    for number, row in enumerate(rows[1:], start=2):
        where = f"{name}: line {number}"
        if not any(cell.strip() for cell in row):
            continue
        if len(row) != 2:
            raise BadInput(f"{len(row)} values instead of 2", where, "give frequency and level")
        values = []
        for cell, column in zip(row, header, strict=True):
            try:
                value = read_number(cell)
            except BadInput:
                value = None
            if not isinstance(value, float):
                raise BadInput(f"'{cell.strip()[:40]}' is not a number", f"{where}, {column}", "give a plain number")
            values.append(value)
        band = nearest_nominal(values[0])
        if band is None:
            raise BadInput(f"{values[0]:g} Hz is not a one-third-octave band", where, "use nominal frequencies")
        if band in curve:
            raise BadInput(f"{band:g} Hz stands twice", where, "keep one of the two")
        if not -50 <= values[1] <= 200:
            raise BadInput(f"{values[1]:g} dB is out of range", where, "levels lie within −50 to 200 dB")
        curve[band] = values[1]
    if not curve:
        raise BadInput("there is no band in it", name, "add lines such as 500,26.6")
    return curve


def printed(result: BaseModel) -> str:
    """One JSON document; unknown is null, and never NaN. Parts that do not apply are left out."""
    body = {k: v for k, v in result.model_dump(mode="json").items() if v is not None or k not in ("bands", "drift_db")}
    return json.dumps(body, ensure_ascii=False, allow_nan=False)
