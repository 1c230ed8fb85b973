"""Compares what the commands print with what another version of the program printed, byte for byte.

    make same AGAINST=<revision>

Runs every command that prints figures on docs/examples and on the demo's job files, by this tree and by a checkout of the
revision, and lists what differs. Exit 1 where anything does.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path

from served import ROOT, tree

EXAMPLES = ROOT / "docs" / "examples"
STAGES = ("listen", "trace", "build", "cut", "fit", "prove", "board")
RUNNER = """
import contextlib, io, json, sys
from sphagnum.cli import main
out = {}
for command in json.load(sys.stdin):
    said, refused = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(said), contextlib.redirect_stderr(refused):
        code = main(command)
    out[" ".join(command)] = [code, said.getvalue(), refused.getvalue()]
print(json.dumps(out))
"""
JOBS = """
import pathlib, sys
from sphagnum.cli import main
from sphagnum.demo import seed
from sphagnum.store.connect import database_url, open_store
data = pathlib.Path(sys.argv[1], "demo")
data.mkdir()
seed(open_store(database_url(data)))
number = 1
while main(["export", str(number), f"{sys.argv[1]}/job-{number}.json", "--data", str(data)]) == 0:
    number += 1
"""


def commands(jobs: list[Path]) -> list[list[str]]:
    """Every command that prints figures, with what it is given."""
    at = {p.name: str(p) for p in EXAMPLES.iterdir()}
    out = [["rate", at["rate.csv"]], ["predict", at["predict.json"]], ["absorb", at["absorb.json"]], ["trace", at["trace.json"]],
           ["cut", at["cut.json"]], ["analyse", at["analyse.csv"]], ["analyse", at["analyse.csv"], "--steady"],
           ["compare", "70.0", "70.4", "--against", "64.0", "64.2", "--background", "50"],
           ["compare", "74.8", "--against", "71.2"], ["compare", "70.0", "70.4", "--against", "64", "64.5", "--afresh"],
           ["predict", at["absorb.json"]]]
    return out + [["show", str(job), "--stage", stage] for job in jobs for stage in STAGES]


def printed_by(source: Path, wanted: list[list[str]]) -> dict[str, list[object]]:
    """What a version of the program prints, by command."""
    done = subprocess.run([sys.executable, "-c", RUNNER], input=json.dumps(wanted), capture_output=True, text=True, check=True,
                          env={**os.environ, "PYTHONPATH": str(source)})
    return dict(json.loads(done.stdout))


def main() -> int:
    """Lists the commands whose output differs."""
    revision = sys.argv[1]
    with tempfile.TemporaryDirectory() as kept, tree(revision) as there:
        subprocess.run([sys.executable, "-c", JOBS, kept], check=True, capture_output=True,
                       env={**os.environ, "PYTHONPATH": str(there / "src")})
        wanted = commands(sorted(Path(kept).glob("job-*.json")))
        now, then = printed_by(ROOT / "src", wanted), printed_by(there / "src", wanted)
    differ = [name for name in now if now[name] != then[name]]
    for name in differ:
        print(f"differs: {name}\n  {revision}: {str(then[name])[:300]}\n  here: {str(now[name])[:300]}")
    print(f"{len(now) - len(differ)} of {len(now)} commands print what {revision} printed")
    return 1 if differ else 0


if __name__ == "__main__":
    sys.exit(main())
