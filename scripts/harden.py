"""Runs what attacks the service and writes what was tried, and whether it held, into docs/reliability.md."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import xml.etree.ElementTree as ET
from pathlib import Path

ROOT = Path(__file__).parent.parent
DOC = ROOT / "docs" / "reliability.md"
TESTS = ("tests/api/test_attack.py", "tests/api/test_kill.py", "tests/api/test_service.py", "tests/api/test_malformed.py",
         "tests/api/test_behind.py", "tests/api/test_endings.py", "tests/api/test_commands_end.py", "tests/api/test_alive.py",
         "tests/api/test_damage.py", "tests/api/test_network.py")
BEGIN, END = "<!-- tried -->\n", "<!-- /tried -->"


def main() -> int:
    """The exit code of the tests."""
    with tempfile.TemporaryDirectory() as folder:
        out = Path(folder) / "tried.xml"
        code = subprocess.run([sys.executable, "-m", "pytest", "-m", "", *TESTS, f"--junitxml={out}"],
                              cwd=ROOT, check=False, env={**os.environ, "HARDEN": "full"}).returncode
        cases = list(ET.parse(out).getroot().iter("testcase"))
    rows = ["| tried | held |", "| --- | --- |"]
    for case in sorted(cases, key=lambda c: (c.get("classname") or "", c.get("name") or "")):
        words = (case.get("name") or "").removeprefix("test_").replace("_", " ")
        held = "no" if case.find("failure") is not None or case.find("error") is not None else "yes"
        rows.append(f"| {words} | {held} |")
    before, _, rest = DOC.read_text("utf-8").partition(BEGIN)
    DOC.write_text(before + BEGIN + "\n".join(rows) + "\n" + END + rest.partition(END)[2], "utf-8")
    print("\n".join(rows))
    return code


if __name__ == "__main__":
    sys.exit(main())
