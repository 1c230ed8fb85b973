"""What tells this code and its shipped data from any other; read on loading, which takes a moment."""

from __future__ import annotations

import hashlib
from pathlib import Path


def _digest(folder: Path, pattern: str) -> str:
    found = hashlib.sha256()
    for file in sorted(folder.rglob(pattern)):
        found.update(file.relative_to(folder).as_posix().encode() + b"\0" + file.read_bytes())
    return found.hexdigest()[:12]


_HERE = Path(__file__).parent
MODEL_REVISION = _digest(_HERE.parent / "core", "*.py")
"""Of the core's code: any change of it may change a figure, so what was computed by another is older."""
SHELF_REVISION = _digest(_HERE / "data", "*.toml")
