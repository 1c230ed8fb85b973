"""The simulated meter as an instrument: starts its process when asked, and reads its lines."""

from __future__ import annotations

import atexit
import re
import socket
import subprocess
import sys
from collections.abc import Iterator
from threading import Lock

from .protocol import Identity, LostInstrument, Sample

PATIENCE_S = 3.0
_lock = Lock()
_process: list[tuple[subprocess.Popen[str], int]] = []


def meter_port() -> int:
    """Port of the running simulated meter; starts one if there is none."""
    with _lock:
        if _process and _process[0][0].poll() is None:
            return _process[0][1]
        command = [sys.executable, "-m", f"{__package__}.simulated_meter", "--leave-with-parent"]
        process = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
        atexit.register(process.kill)
        assert process.stdout is not None
        found = re.search(r":(\d+)", process.stdout.readline())
        if not found:
            raise LostInstrument("the simulated meter did not start")
        _process[:] = [(process, int(found[1]))]
        return int(found[1])


class MeterLink:
    """A link to a meter that speaks the line protocol of ``simulated_meter``."""

    def __init__(self, port: int, scene: str = "idle", rate: float = 1.0, drop_s: float = 0.0) -> None:
        self.port, self.scene, self.rate, self.drop_s = port, scene, rate, drop_s
        self._connect()

    def _connect(self) -> None:
        try:
            self.socket = socket.create_connection(("127.0.0.1", self.port), timeout=PATIENCE_S)
        except OSError as error:
            raise LostInstrument("the meter does not answer") from error
        self.lines = self.socket.makefile("r", encoding="utf-8")
        for command in (f"SCENE {self.scene}", f"RATE {self.rate}", f"DROP {self.drop_s}"):
            self._ask(command)
        self.drop_s = 0.0

    def _ask(self, command: str) -> str:
        try:
            self.socket.sendall(f"{command}\n".encode())
            answer = self.lines.readline().strip()
        except OSError as error:
            raise LostInstrument("the meter does not answer") from error
        if not answer:
            raise LostInstrument("the meter does not answer")
        if answer.startswith("ERR"):
            raise ValueError(answer[4:])
        return answer

    def identify(self) -> Identity:
        """Who it is."""
        name, kind, serial = self._ask("ID?")[3:].split(";")
        return Identity(name=name, kind=kind, serial=serial, calibrated=True)

    def settings(self) -> dict[str, str]:
        """How it is set."""
        return dict(part.split("=", 1) for part in self._ask("SETTINGS?")[9:].split(";"))

    def samples(self) -> Iterator[Sample]:
        """Levels as they come. Connects anew when called after a loss."""
        if self.socket.fileno() < 0:
            self._connect()
        self._ask("START")
        while True:
            try:
                line = self.lines.readline()
            except (OSError, ValueError):  # broken, or closed by us
                line = ""
            parts = line.split()
            if len(parts) != 7 or parts[0] != "L":
                self.close()
                raise LostInstrument("the meter fell silent")
            t, fast, mean, c = (float(x) for x in parts[1:5])
            yield Sample(t, fast, mean, c, parts[5] == "1", tuple(float(b) for b in parts[6].split(",")))

    def close(self) -> None:
        """Let go of the line."""
        self.lines.close()
        self.socket.close()
