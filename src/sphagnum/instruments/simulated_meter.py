"""A stand-in for a sound level meter: a process of its own that plays made-up scenes over loopback TCP.

Line protocol, UTF-8, one line each way, commands in capitals:
  ID?                 -> ID <name>;<class>;<serial>
  SETTINGS?           -> SETTINGS key=value;key=value
  SCENE <name>        -> OK | ERR <why>       (see SCENES)
  RATE <factor>       -> OK | ERR <why>       (plays faster than life, for tests: 1 to 100)
  DROP <seconds>      -> OK; the link then breaks that many played seconds from now, once
  START               -> OK, then every 125 ms of play: L <t> <LAF> <LAeq> <LCeq> <overload 0|1> <33 band levels by comma>
  STOP                -> OK
Anything else -> ERR unknown command. Run: python -m sphagnum.instruments.simulated_meter [--port N] [--seed N]
"""

from __future__ import annotations

import argparse
import os
import socketserver
import sys
import threading
import time
from collections.abc import Callable, Iterator
from typing import NamedTuple

import numpy as np

from ..core.levels.bands import A_WEIGHTING_DB, NOMINAL_HZ
from ..core.levels.bank import STEP_S
from ..core.levels.decibels import energy_sum
from .protocol import Sample

OVERLOAD_DBA = 110.0


class Part(NamedTuple):
    """A stretch of a scene: seconds, level dB(A), scatter dB, tilt of the spectrum dB per octave, a tone in Hz or 0."""

    seconds: float
    level_dba: float
    scatter_db: float
    tilt_db: float
    tone_hz: float = 0.0


SCENES: dict[str, tuple[Part, ...]] = {
    "idle": (Part(30, 47.5, 0.4, -4, 63),),
    "steady run": (Part(6, 47.5, 0.5, -4), Part(4, 66, 2.0, -3), Part(3, 61, 1.0, -3), Part(5, 70, 2.0, -4), Part(2, 65, 1.0, -3),
                   Part(40, 74.6, 0.6, -5, 125), Part(6, 66, 2.0, -3), Part(6, 48, 0.5, -4)),
    "compressor": (Part(18, 38.2, 0.6, -2), Part(1, 50, 2.0, -3), Part(30, 48.0, 0.4, -3, 100), Part(1, 42, 2.0, -3)),
    "night background": (Part(60, 33.0, 1.2, -3),),
    "too loud": (Part(5, 70, 0.5, -3), Part(3, 112, 0.5, -3), Part(60, 70, 0.5, -3)),
}


def scene_samples(name: str, seed: int) -> Iterator[Sample]:
    """The samples of a scene, round and round; seeded."""
    rng = np.random.default_rng(seed)
    wander, fast, t = 0.0, None, 0.0
    a_weight = np.array(A_WEIGHTING_DB)
    octave = np.log2(np.array(NOMINAL_HZ) / 1000)
    while True:
        for part in SCENES[name]:
            shape = part.tilt_db * octave
            if part.tone_hz:
                shape = shape + np.where(np.abs(np.array(NOMINAL_HZ) - part.tone_hz) < 1, 9.0, 0.0)
            shape = shape - energy_sum(shape + a_weight)
            for _ in range(round(part.seconds / STEP_S)):
                wander = 0.9 * wander + part.scatter_db * 0.44 * rng.standard_normal()
                bands = part.level_dba + wander + shape + 0.3 * rng.standard_normal(len(NOMINAL_HZ))
                mean = energy_sum(bands + a_weight)
                power = 10 ** (mean / 10)
                fast = power if fast is None else fast + (power - fast) * (1 - np.exp(-1.0))
                t += STEP_S
                # C weighting is flat over what matters here: sum of the bands from 31.5 Hz to 8 kHz
                yield Sample(t, 10 * float(np.log10(fast)), mean, energy_sum(bands[4:29]), mean > OVERLOAD_DBA, tuple(bands))


class Session(socketserver.StreamRequestHandler):
    """One client."""

    def setup(self) -> None:
        """A client begins with the default scene."""
        super().setup()
        self.scene, self.rate, self.drop_s = "idle", 1.0, 0.0
        self.commands: dict[str, Callable[[str], str]] = {
            "ID?": lambda _: "ID Simulated meter;class 1 (pretended);SIM-1",
            "SETTINGS?": lambda _: "SETTINGS weighting=A;time=F;range=20-130 dB;step=0.125 s",
            "SCENE": self._scene, "RATE": self._rate, "DROP": self._drop, "STOP": lambda _: "OK",
        }

    def handle(self) -> None:
        """Answer commands until the client goes."""
        while raw := self.rfile.readline(200):
            word, _, rest = raw.decode("utf-8", "replace").strip().partition(" ")
            try:
                if word == "START":
                    self._say("OK")
                    if self._play():
                        return
                else:
                    answer = self.commands.get(word)
                    self._say(answer(rest) if answer else "ERR unknown command")
            except (BrokenPipeError, ConnectionResetError):
                return

    def _say(self, line: str) -> None:
        self.wfile.write(f"{line}\n".encode())

    def _scene(self, name: str) -> str:
        if name not in SCENES:
            return f"ERR no such scene; there are {', '.join(SCENES)}"
        self.scene = name
        return "OK"

    def _rate(self, text: str) -> str:
        try:
            self.rate = min(max(float(text), 1.0), 100.0)
        except ValueError:
            return "ERR give a number"
        return "OK"

    def _drop(self, text: str) -> str:
        try:
            self.drop_s = float(text)
        except ValueError:
            return "ERR give seconds"
        return "OK"

    def _play(self) -> bool:
        """Play until STOP comes; True when the link was made to break."""
        begun = time.monotonic()
        self.connection.settimeout(0.0005)
        assert isinstance(self.server, Server)
        for sample in scene_samples(self.scene, self.server.seed):
            t = sample.time_s
            wait = begun + t / self.rate - time.monotonic()
            if wait > 0:
                time.sleep(wait)
            self._say(f"L {t:.3f} {sample.fast_dba:.2f} {sample.mean_dba:.2f} {sample.mean_dbc:.2f} {int(sample.overload)} "
                      f"{','.join(f'{b:.1f}' for b in sample.bands_db)}")
            if 0 < self.drop_s <= t:
                self.drop_s = 0.0
                return True
            try:
                if self.connection.recv(200).strip() in (b"STOP", b""):
                    break
            except TimeoutError:
                pass
        self.connection.settimeout(None)
        self._say("OK")
        return False


class Server(socketserver.ThreadingTCPServer):
    """Serves clients on loopback."""

    allow_reuse_address, daemon_threads = True, True

    def __init__(self, port: int, seed: int) -> None:
        super().__init__(("127.0.0.1", port), Session)
        self.seed = seed


def main() -> None:
    """Serve until killed, or until standard input is closed if asked; prints the port."""
    args = argparse.ArgumentParser()
    args.add_argument("--port", type=int, default=0)
    args.add_argument("--seed", type=int, default=1)
    args.add_argument("--leave-with-parent", action="store_true", help="stop when standard input is closed")
    given = args.parse_args()
    with Server(given.port, given.seed) as server:
        print(f"Simulated meter on 127.0.0.1:{server.server_address[1]}", flush=True)
        if given.leave_with_parent:
            threading.Thread(target=lambda: (sys.stdin.read(), os._exit(0)), daemon=True).start()
        server.serve_forever()


if __name__ == "__main__":
    main()
