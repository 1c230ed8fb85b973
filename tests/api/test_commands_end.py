"""Every command ends in one line or none with the right status, whatever becomes of it or its output; no half file stays."""

from __future__ import annotations

import json
import os
import random
import resource
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any, NamedTuple

import pytest

from worked import worked_job

SPHAGNUM = Path(sys.executable).parent / "sphagnum"
EXAMPLES = Path(__file__).parent.parent.parent / "docs" / "examples"
FULL = os.environ.get("HARDEN") == "full"
SIGNALS_EACH = 8 if FULL else 1
FEW = None if FULL else 3
STATUS = {signal.SIGINT: 130, signal.SIGTERM: 143}


class Command(NamedTuple):
    """Words of a command line in a folder of its own, and the files it writes there."""

    words: str
    writes: tuple[str, ...] = ()


COMMANDS = {c.words: c for c in (
    Command("rate rate.csv"), Command("analyse analyse.csv"), Command("compare analyse.csv --against analyse.csv"),
    Command("predict predict.json"), Command("absorb absorb.json"), Command("trace trace.json"), Command("cut cut.json"),
    Command("plan plan.json"), Command("shape shape.json"), Command("show job.json --stage trace"),
    Command("draw draw.json out.svg", ("out.svg",)), Command("draw draw.json out.dxf", ("out.dxf",)),
    Command("draw draw.json out.pdf", ("out.pdf",)), Command("read draw.svg"),
    Command("hear hear.json heard", ("heard/before.wav", "heard/after.wav")),
    Command("shelf export out.csv --data data", ("out.csv",)), Command("shelf import shelf.csv --data data"),
    Command("export 1 out.json --data data", ("out.json",)), Command("import job.json --data data"),
    Command("backup out.tar --data data", ("out.tar",)), Command("restore kept.tar --data new"))}


def command(words: str, folder: Path, **more: Any) -> subprocess.Popen[bytes]:
    return subprocess.Popen([SPHAGNUM, *words.split()], cwd=folder, stdout=subprocess.PIPE, stderr=subprocess.PIPE, **more)


def ended(run: subprocess.Popen[bytes]) -> tuple[int, str]:
    _, err = run.communicate(timeout=60)
    return run.returncode, err.decode()


@pytest.fixture(scope="module")
def made(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder with all that the commands read."""
    folder = tmp_path_factory.mktemp("made")
    for file in EXAMPLES.iterdir():
        shutil.copy(file, folder)
    (folder / "job.json").write_text(json.dumps({"format": "sphagnum-job", "format_version": 1, **worked_job()}), "utf-8")
    for words in ("import job.json --data data", "draw draw.json draw.svg", "shelf export shelf.csv --data data",
                  "backup kept.tar --data data"):
        assert ended(command(words, folder)) == (0, ""), words
    return folder


@pytest.fixture
def fresh(made: Path, tmp_path: Path) -> Callable[[], Path]:
    """Copies of that folder, one after another."""
    return lambda: Path(shutil.copytree(made, tmp_path / f"{time.monotonic_ns()}"))


def files(folder: Path) -> dict[str, bytes]:
    """Every file of a folder but those a running database keeps beside itself, and logs of use."""
    return {str(p.relative_to(folder)): p.read_bytes() for p in sorted(folder.rglob("*"))
            if p.is_file() and not p.name.endswith(("-wal", "-shm", ".lock"))}


def is_whole(name: str, data: bytes) -> bool:
    """Whether a written file is all there, by how its kind ends."""
    ends: dict[str, bytes | None] = {".svg": b"</svg>", ".dxf": b"EOF\n", ".pdf": b"%%EOF\n", ".json": b"}\n", ".tar": bytes(512)}
    if name.endswith(".wav"):
        return int.from_bytes(data[4:8], "little") + 8 == len(data)
    end = ends.get(Path(name).suffix, b"\n")
    return bool(data) and data.endswith(end or b"")


def looked_over(one: Command, folder: Path, before: dict[str, bytes]) -> None:
    """Nothing half is left: what was written is whole, nothing else came, and the data still open."""
    left = files(folder)
    for name in left.keys() - before.keys():
        assert name in one.writes or name.startswith(("data/", "new/")), name
        assert ".sphagnum-" not in name, name
        assert name not in one.writes or is_whole(name, left[name]), name
    assert len({name for name in one.writes if name in left}) in (0, len(one.writes))
    if "data" in one.words:
        assert ended(command("export 1 again.json --data data", folder)) == (0, "")


@pytest.mark.parametrize("words", [*COMMANDS][::-1][:FEW])
def test_a_signal_at_any_moment_ends_a_command_quietly(words: str, fresh: Callable[[], Path]):
    one, rng = COMMANDS[words], random.Random(words)
    folder = fresh()
    began = time.monotonic()
    assert ended(command(words, folder))[0] == 0
    whole_s = time.monotonic() - began
    for name in one.writes:
        assert is_whole(name, (folder / name).read_bytes()), name
    for _ in range(SIGNALS_EACH):
        folder, number = fresh(), rng.choice(list(STATUS))
        before = files(folder)
        run = command(words, folder)
        time.sleep(rng.uniform(0.1, max(whole_s, 0.15)))
        run.send_signal(number)
        status, err = ended(run)
        assert status in (0, STATUS[number]), err
        assert err == ""
        looked_over(one, folder, before)


def small_disk() -> None:
    """No file of the process may be larger than this: as if the disk were full there."""
    resource.setrlimit(resource.RLIMIT_FSIZE, (512, 512))


@pytest.mark.parametrize("words", [w for w, c in COMMANDS.items() if c.writes or "import" in w or "restore" in w][:FEW])
def test_a_full_disk_is_one_line_and_leaves_no_half_file(words: str, fresh: Callable[[], Path]):
    folder = fresh()
    before = files(folder)
    # what is loaded is not written down beside it meanwhile: the language would keep half of it
    status, err = ended(command(words, folder, preexec_fn=small_disk, env={**os.environ, "PYTHONDONTWRITEBYTECODE": "1"}))
    assert (status, err.count("\n")) == (2, 1), err
    looked_over(COMMANDS[words], folder, before)


@pytest.mark.parametrize("words", [w for w, c in COMMANDS.items() if not c.writes][:FEW])
def test_a_closed_pipe_ends_a_command_quietly(words: str, fresh: Callable[[], Path]):
    run = command(words, fresh())
    assert run.stdout is not None
    run.stdout.close()
    run.stdout = None
    assert ended(run) == (141, "")


def test_a_signal_that_other_code_turns_into_an_error_of_its_own_still_ends_quietly():
    """As where models are being built while a command loads."""
    wraps = """
import os, signal, sys
import sphagnum.cli, sphagnum.entry
def run():
    try:
        os.kill(os.getpid(), signal.{name})
        signal.pause()
    except BaseException as error:
        raise RuntimeError("a model was being built") from error
sphagnum.cli.main = run
sys.exit(sphagnum.entry.main())
"""
    for name, status in (("SIGINT", 130), ("SIGTERM", 143)):
        words = [sys.executable, "-c", wraps.format(name=name)]
        done = subprocess.run(words, capture_output=True, text=True, timeout=60, check=False)
        assert (done.returncode, done.stderr) == (status, "")
