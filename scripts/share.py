"""Prints how large the tests are beside the code they test: lines that are not blank, without what is generated."""

from __future__ import annotations

import subprocess
from pathlib import Path

ROOT = Path(__file__).parent.parent
KINDS = {".py", ".ts", ".tsx", ".css"}
GENERATED = ("web/src/api/schema.d.ts", "src/sphagnum/store/migrations/versions/")


def lines(path: Path) -> int:
    """Lines of a file that are not blank."""
    return sum(1 for line in path.read_text("utf-8").split("\n") if line.strip())


def counted() -> tuple[int, int]:
    """Lines of tests, and of the code they test, over all files that git knows or would add."""
    found = subprocess.run(["git", "ls-files", "--cached", "--others", "--exclude-standard"], cwd=ROOT, capture_output=True,
                           text=True, check=True).stdout.split("\n")
    files = [f for f in found if Path(f).suffix in KINDS and not f.startswith(GENERATED) and (ROOT / f).is_file()]
    tests = {f for f in files if f.startswith("tests/") or ".test." in f}
    return sum(lines(ROOT / f) for f in tests), sum(lines(ROOT / f) for f in files if f not in tests)


if __name__ == "__main__":
    tests, code = counted()
    print(f"{tests} lines of tests, {code} of code: {100 * tests / code:.1f} %")
