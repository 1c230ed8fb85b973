"""Prints speeds as ratios to a baseline measured in the same run (a plain numpy product of the same machine)."""

from __future__ import annotations

import json
import os
import random
import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
import soundfile

from sphagnum.beside import together
from sphagnum.catalogue.load import shelf
from sphagnum.catalogue.materials import materials
from sphagnum.core.figures.job_figures import JobFigures
from sphagnum.core.job.document import JobDocument
from sphagnum.core.schema import parse
from sphagnum.core.stacks.model import Stack
from sphagnum.core.stacks.named import resolved
from sphagnum.core.stacks.predict import predict
from sphagnum.core.stages.board.overview import overview
from sphagnum.core.stages.cut.view import cut_view
from sphagnum.core.stages.plan.ahead import search_ahead
from sphagnum.core.stages.plan.find import find_plans
from sphagnum.core.stages.plan.model import PlansAsked
from sphagnum.core.stages.plan.searched import Searched
from sphagnum.demo import van
from sphagnum.store.searched import find, keep

PAGE_S = 8.0
"""What the page gives a search."""


def seconds(work: Callable[[], object], repeats: int = 5) -> float:
    """The quickest of some runs, s."""
    best = float("inf")
    for _ in range(repeats):
        began = time.perf_counter()
        work()
        best = min(best, time.perf_counter() - began)
    return best


GENERAL = """
import sys, numpy as np, pyoctaveband, soundfile
samples, rate = soundfile.read(sys.argv[1])
pyoctaveband.octavefilter(samples, fs=rate, fraction=3, order=6, limits=[12, 20000])
for curve in "AC":
    np.mean(pyoctaveband.weighting_filter(samples, rate, curve=curve) ** 2)
"""
"""What the general-purpose octave-band package has to do for the same figures: bands, A and C."""


def recordings() -> None:
    """`analyse` of ten minutes, whole process, against a general-purpose package on the same file; the memory of an hour."""
    import pyoctaveband

    from sphagnum.core.levels.bands import NOMINAL_HZ
    from sphagnum.core.levels.bank import Bank

    rate = 48_000
    noise = np.random.default_rng(1).standard_normal((1, rate * 600)) * 0.1
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "ten.wav"
        soundfile.write(file, noise[0], rate, "PCM_16")
        command = [str(Path(sys.executable).parent / "sphagnum"), "analyse", str(file)]
        mine = seconds(lambda: subprocess.run(command, stdout=subprocess.DEVNULL, check=True), repeats=3)
        general = seconds(lambda: subprocess.run([sys.executable, "-c", GENERAL, str(file)], check=True), repeats=2)
    bank = Bank(rate, 1)
    bank.feed(noise)
    levels = 10 * np.log10(bank.result().mean(axis=1))
    theirs, _ = pyoctaveband.octavefilter(noise[0], fs=rate, fraction=3, order=6, limits=[12, 20000])
    at = NOMINAL_HZ.index(1000.0)
    apart = np.abs((levels - levels[at]) - (np.array(theirs) - theirs[at])).max()
    print(f"analyse of 10 minutes at 48 kHz, whole process: {mine:.1f} s, general-purpose package {general:.1f} s: "
          f"{general / mine:.1f} × faster, bands within {apart:.2f} dB of it")
    code = ("import re, sys; from pathlib import Path; from sphagnum.instruments.recordings import read_history; "
            "peak = lambda: int(re.search(r'VmHWM:\\s+(\\d+)', Path('/proc/self/status').read_text())[1]) / 1e3; "
            "before = peak(); read_history(Path(sys.argv[1]), 'hour'); print(before, peak())")
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "hour.wav"
        with soundfile.SoundFile(file, "w", rate, 1, "PCM_16") as out:
            for _ in range(6):
                out.write(noise[0])
        began = time.perf_counter()
        done = subprocess.run([sys.executable, "-c", code, str(file)], capture_output=True, text=True, check=True)
        idle, peak = (float(x) for x in done.stdout.split())
    print(f"one hour at 48 kHz, everything: {time.perf_counter() - began:.0f} s, peak memory {peak:.0f} MB "
          f"(of which {idle:.0f} MB before it began)")


def random_stack(rng: random.Random) -> dict[str, Any]:
    """A stack of three to five layers with one or two leaves, drawn over the whole range of the trade."""
    def plate(join: str | None = None) -> dict[str, Any]:
        return {"kind": "plate", "thickness_mm": rng.uniform(0.6, 20), "density_kg_m3": rng.uniform(600, 7850),
                "youngs_modulus_gpa": rng.uniform(2, 210), "loss_factor": rng.uniform(0.005, 0.05),
                **({"join": join} if join else {})}

    makers: dict[str, Callable[[], dict[str, Any]]] = {
        "porous": lambda: {"flow_resistivity_pa_s_m2": rng.uniform(3e3, 4e4), "density_kg_m3": rng.uniform(10, 120)},
        "air": dict,
        "foam": lambda: {"dynamic_stiffness_mn_m3": rng.uniform(5, 60), "density_kg_m3": 30.0, "loss_factor": 0.2},
        "limp": lambda: {"surface_mass_kg_m2": rng.uniform(2, 10)},
        "damping": lambda: {"density_kg_m3": 1500.0, "youngs_modulus_mpa": rng.uniform(1, 60), "loss_factor": 0.7,
                            "coverage": rng.uniform(0.2, 1.0),
                            "facing": {"thickness_mm": 0.1, "youngs_modulus_gpa": 70.0, "density_kg_m3": 2700.0}},
    }
    layers, count = [plate()], rng.randint(3, 5)
    while len(layers) < count:
        kind = rng.choice([k for k in makers if k != "damping" or layers[-1]["kind"] == "plate"])
        layers.append({"kind": kind, "thickness_mm": rng.uniform(1, 80), **makers[kind]()})
    if rng.random() < 0.5:
        layers[-1] = plate("fixed" if layers[-2]["kind"] == "plate" else None)
    return {"width_m": rng.uniform(0.5, 4), "height_m": rng.uniform(0.5, 3), "layers": layers}


def many_stacks(baseline: float, count: int = 20_000) -> None:
    """`predict --many` of many stacks from the command line, its time and its memory over all processes."""
    rng = random.Random(1)
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "stacks.jsonl"
        file.write_text("\n".join(json.dumps(random_stack(rng)) for _ in range(count)), "utf-8")
        command = [str(Path(sys.executable).parent / "sphagnum"), "predict", "--many", str(file)]
        before = os.times()
        began = time.perf_counter()
        subprocess.run(command, stdout=subprocess.DEVNULL, check=True)
        took, after = time.perf_counter() - began, os.times()
        peak = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1e3
    used = after.children_user + after.children_system - before.children_user - before.children_system
    print(f"{count} stacks of three to five layers, predict --many: {took:.1f} s, {used:.1f} s of processor, "
          f"{took / baseline:.0f} × baseline, at most {peak:.0f} MB in one process")


def plans(baseline: float) -> None:
    """A search of the demo van over the whole shelf: its first answer, the ends of its front, and as the page asks for it,
    without its stacks compared ahead and with."""
    document = parse(JobDocument, van())

    def one(what: str, asked: PlansAsked, kept: Searched | None) -> None:
        said: dict[str, float] = {}
        began = time.perf_counter()

        def told(_share: float, words: str, _so_far: object = None) -> None:
            said.setdefault(words, time.perf_counter() - began)
        found = find_plans(JobFigures(document, shelf()), asked, told, together, kept)
        took = time.perf_counter() - began
        first, ends = (next(t for words, t in said.items() if w in words) for w in ("from what the job has", "ends of the front"))
        print(f"search of the demo van, {what}: {found.stacks} stacks, first answer {first:.1f} s, ends of the front "
              f"{ends:.1f} s ({ends / baseline:.0f} × baseline), {len(found.plans)} plans after {took:.1f} s, "
              f"{'proven' if found.proven else 'the clock ended it'}")
    whole, page = PlansAsked(seconds=60.0), PlansAsked(seconds=PAGE_S)
    one("all stacks", whole, None)
    one("as the page asks", page, None)
    with tempfile.TemporaryDirectory() as folder:
        kept = Searched(partial(find, Path(folder)), partial(keep, Path(folder)))
        search_ahead(JobFigures(document, shelf()), whole, kept, hands=together)
        one("as the page asks, its stacks compared ahead", page, kept)


def main() -> None:
    """Print the figures."""
    square = np.random.default_rng(1).random((400, 400))
    baseline = seconds(lambda: square @ square @ square)
    names = (("steel", 0.8), ("butyl-foil", 2.0), ("wool-felt", 10.0), ("vinyl-5", 2.5))
    layers = [{"material": m, "thickness_mm": t} for m, t in names]
    stack = resolved(parse(Stack, {"width_m": 1.2, "height_m": 0.9, "layers": layers}), materials())
    document = parse(JobDocument, van())
    rows = {
        "one stack of four layers": lambda: predict(stack),
        "stages' lines and goal rule of the demo van": lambda: overview(JobFigures(document, shelf())),
        "cut stage of the demo van, pieces and layouts cached": lambda: cut_view(JobFigures(document, shelf()), None),
    }
    print(f"baseline: two products of 400 × 400 matrices, {baseline * 1e3:.2f} ms")
    for name, work in rows.items():
        took = seconds(work)
        print(f"{name}: {took * 1e3:.1f} ms, {took / baseline:.1f} × baseline")
    plans(baseline)
    many_stacks(baseline)


if __name__ == "__main__":
    main()
    recordings()
