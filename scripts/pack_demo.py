"""Pack the demo with all its pieces laid out, for the code as it is: what ``sphagnum demo`` begins an empty folder with."""

from __future__ import annotations

import tempfile
from pathlib import Path

from served import demo, settle

from sphagnum.demo_shipped import FOLDER, name_now
from sphagnum.store.backup import backup


def main() -> None:
    """Serve a new demo until nothing works behind it any more, and pack it."""
    FOLDER.mkdir(exist_ok=True)
    for old in FOLDER.glob("*.tar"):
        old.unlink()
    with tempfile.TemporaryDirectory() as data:
        with demo(folder=Path(data)) as base:
            settle(base)
        backup(Path(data), FOLDER / name_now())


if __name__ == "__main__":
    main()
