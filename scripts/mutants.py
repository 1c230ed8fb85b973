"""Makes faults in the core by the hundred, as many as asked for drawn at random, and says which no test of the core caught."""

from __future__ import annotations

import argparse
import random
import re
import subprocess
import sys
from collections import Counter
from pathlib import Path

ROOT = Path(__file__).parent.parent
MADE = ROOT / "mutants" / "src"
FAULT = re.compile(r"^\s*def (\w+__mutmut_\d+)\(", re.MULTILINE)


def mutmut(*words: str) -> str:
    """What a command of the tool prints."""
    return subprocess.run([sys.executable, "-m", "mutmut", *words], cwd=ROOT, capture_output=True, text=True).stdout


def main() -> int:
    """Prints the share caught and the names of those that were not."""
    asked = argparse.ArgumentParser()
    asked.add_argument("--sample", type=int, default=0, help="so many of all faults, drawn at random; 0 takes them all")
    asked.add_argument("--seed", type=int, default=1)
    asked.add_argument("--only", default="", help="only in modules whose path holds this")
    given = asked.parse_args()
    mutmut("run", "none.of.them*")  # makes them, and learns which tests reach which function
    names = [f"{'.'.join(path.relative_to(MADE).with_suffix('').parts)}.{name}"
             for path in sorted(MADE.rglob("*.py")) if given.only in str(path) for name in FAULT.findall(path.read_text("utf-8"))]
    chosen = random.Random(given.seed).sample(names, given.sample) if given.sample else names
    mutmut("run", *chosen)
    said = dict(re.findall(r"(\S+__mutmut_\d+): (.+)", mutmut("results", "--all", "true")))
    found = Counter(said.get(name, "not run") for name in chosen)
    reached = sum(n for state, n in found.items() if state in ("killed", "survived", "timeout"))
    print(f"{len(chosen)} of {len(names)} faults: {dict(found)}")
    print(f"caught of those a test reaches: {(found['killed'] + found['timeout']) / max(reached, 1):.0%}")
    for name in chosen:
        if said.get(name) == "survived":
            print(name)
    return 0


if __name__ == "__main__":
    sys.exit(main())
