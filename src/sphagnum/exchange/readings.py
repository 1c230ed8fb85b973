"""All readings of a job as one table, for a spreadsheet."""

from __future__ import annotations

import csv
import io

from ..core.job.document import JobDocument
from ..core.levels.bands import NOMINAL_HZ

FORMULA = "=+-@\t\r\n\u2212\uff0b\uff0d\uff1d\uff20"
"""With these a cell begins that a spreadsheet would work out: plain, as a minus sign, and in full width."""
LEVELS = ("LAeq", "LCeq", "LZeq", "LAFmax", "LASmax", "L10", "L50", "L90")


def readings_csv(doc: JobDocument) -> str:
    """One line a reading: where, when, what, levels and bands in dB; blank where unknown."""
    names = {kind: {r.id: r.name for r in rows} for kind, rows in (
        ("p", doc.positions), ("c", doc.conditions), ("r", doc.rounds))}
    days = {r.id: r.taken_on for r in doc.rounds}
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\r\n")
    table.writerow(["round", "read_on", "position", "condition", "background", "quantity", "level_db", "low_db", "high_db",
                    "calibrated", "source", "file", "window_from_s", "window_to_s", *(f"{n}_db" for n in LEVELS),
                    *(f"{f:g}_hz_db" for f in NOMINAL_HZ)])
    for r in doc.readings:
        levels = {str(k): v for k, v in r.levels.items()}
        table.writerow([
            safe(names["r"].get(r.round_id, "")), safe(str(days.get(r.round_id) or "")),
            safe(names["p"].get(r.position_id, "")),
            safe(names["c"].get(r.condition_id, "")), "yes" if r.background else "no", r.quantity, _cell(r.level_db),
            _cell(r.low_db), _cell(r.high_db), "no" if r.relative else "yes", r.source, safe(r.file_name),
            *(_cell(v) for v in (r.window_s or (None, None))), *(_cell(levels.get(n)) for n in LEVELS),
            *(_cell(v) for v in (r.bands_db or (None,) * len(NOMINAL_HZ)))])
    return out.getvalue()


def _cell(value: float | None) -> str:
    return "" if value is None else f"{value:g}"


def safe(text: str) -> str:
    """Text that a spreadsheet will not take for a formula."""
    return f"'{text}" if text[:1] and text[0] in FORMULA else text
