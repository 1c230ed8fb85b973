"""Lets a schema fuzzer loose on a served demo: no answer may be an error of ours, or one the contract does not declare."""

from __future__ import annotations

import argparse
import subprocess
import sys
from pathlib import Path

from served import demo

CHECKS = "not_a_server_error,status_code_conformance,content_type_conformance,response_schema_conformance"


def main(fuzzer: Path, examples: int) -> int:
    """Runs it; its exit code."""
    with demo(8650) as base:
        return subprocess.run([
            fuzzer, "run", f"{base}/api/openapi.json", "--header", "X-Author: fuzz", "--checks", CHECKS,
            "--max-examples", str(examples), "--phases", "examples,fuzzing", "--workers", "2", "--no-color"],
            check=False).returncode


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("fuzzer", type=Path)
    parser.add_argument("--examples", type=int, default=25)
    given = parser.parse_args()
    sys.exit(main(given.fuzzer, given.examples))
