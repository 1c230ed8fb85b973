"""The command line keeps its contract: right figures, one line and exit 2 for everything malformed."""

from __future__ import annotations

import copy
import json
import math
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
from shapely import Polygon

from signals import DIALECTS, as_wav, tone
from sphagnum.catalogue.files import worth
from sphagnum.catalogue.load import shelf
from sphagnum.cli import main
from sphagnum.exchange.contracts import OUTPUTS
from worked import DATA

ROOT = Path(__file__).parent.parent.parent
EXAMPLES = ROOT / "docs" / "examples"


def run(capsys: pytest.CaptureFixture[str], *args: object) -> tuple[int, str, str]:
    code = main([str(a) for a in args])
    out, err = capsys.readouterr()
    return code, out, err


def refused(capsys: pytest.CaptureFixture[str], *args: object) -> str:
    """The one line of a refusal."""
    code, out, err = run(capsys, *args)
    assert (code, out) == (2, ""), (args, out)
    assert err.count("\n") == 1, err
    assert "Traceback" not in err
    return err


def test_examples_of_the_contract_run_and_fit_their_schemas(capsys: pytest.CaptureFixture[str]):
    commands = {"rate": "rate.csv", "predict": "predict.json", "absorb": "absorb.json", "trace": "trace.json", "cut": "cut.json",
                "analyse": "analyse.csv", "plan": "plan.json", "shape": "shape.json", "bench": "bench.json"}
    builds = [("build", f"{name}.json") for name in ("build", "window", "box", "platform", "baffle")]
    for command, name in [*commands.items(), *builds]:
        code, out, err = run(capsys, command, EXAMPLES / name)
        assert (code, err) == (0, "")
        OUTPUTS[command].model_validate_json(out)
    code, out, _ = run(capsys, "compare", EXAMPLES / "analyse.csv", "--against", "64.1", "63.2..64.8")
    assert code == 0
    assert OUTPUTS["compare"].model_validate_json(out)


def test_installed_command_rates_the_worked_example():
    done = subprocess.run([Path(sys.executable).parent / "sphagnum", "rate", DATA / "validation" / "rating-example.csv"],
                          capture_output=True, text=True, check=True)
    assert json.loads(done.stdout) == {"Rw": 30, "C": -2, "Ctr": -3, "STC": None}


def test_predict_many_equals_one_by_one(capsys: pytest.CaptureFixture[str], tmp_path: Path):
    stacks = [json.loads((DATA / "validation" / f"{n}.json").read_text("utf-8"))["stack"] for n in ("glass-04", "vinyl-4.9")]
    many = tmp_path / "stacks.jsonl"
    many.write_text("\n".join(json.dumps(s) for s in stacks) + "\n\n", "utf-8")
    _, out, _ = run(capsys, "predict", "--many", many)
    for line, stack in zip(out.splitlines(), stacks, strict=True):
        one = tmp_path / "one.json"
        one.write_text(json.dumps(stack), "utf-8")
        assert json.loads(line) == json.loads(run(capsys, "predict", one)[1])
    many.write_text(json.dumps(stacks[0]) + "\n{}\n", "utf-8")
    assert "line 2" in refused(capsys, "predict", "--many", many)


def test_shelf_materials_in_files_and_unknown_ones(capsys: pytest.CaptureFixture[str], tmp_path: Path):
    file = tmp_path / "stack.json"
    body = {"width_m": 1, "height_m": 1, "layers": [{"material": "steel", "thickness_mm": 0.8}]}
    file.write_text(json.dumps(body), "utf-8")
    assert json.loads(run(capsys, "predict", file)[1])["surface_mass_kg_m2"] == 6.28
    body["layers"][0]["material"] = "stele"
    file.write_text(json.dumps(body), "utf-8")
    assert "did you mean 'steel'" in refused(capsys, "predict", file)


def places(value: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """Every key and every number of a document."""
    if isinstance(value, dict):
        for key, part in value.items():
            yield (*path, key)
            yield from places(part, (*path, key))
    elif isinstance(value, list):
        for i in (0, len(value) - 1) if value else ():
            yield (*path, i)
            yield from places(value[i], (*path, i))


def broken(document: Any) -> Iterator[tuple[str, str]]:
    """Malformed variants of a document, with a word on what was done."""
    for path in places(document):
        for label, bad in (("text", "four"), ("list", [[]]), ("negative", -1e30), ("huge", 1e300), ("yes", True)):
            copied = copy.deepcopy(document)
            target = copied
            for step in path[:-1]:
                target = target[step]
            if type(target[path[-1]]) is type(bad) and label != "text":
                continue
            if label in ("text", "yes") and isinstance(target[path[-1]], str | bool):
                continue
            target[path[-1]] = bad
            yield f"{label} at {path}", json.dumps(copied)
        if isinstance(path[-1], str):
            target = copied = copy.deepcopy(document)
            for step in path[:-1]:
                target = target[step]
            target[path[-1] + "x"] = target.pop(path[-1])
            yield f"key renamed at {path}", json.dumps(copied)
    text = json.dumps(document)
    yield "cut short", text[: len(text) // 2]
    yield "not a number", text.replace("86", "NaN", 1).replace('"thickness_mm": 4', '"thickness_mm": NaN', 1) + " "
    yield "empty", ""
    yield "a list", "[]"
    yield "deep", "[" * 100_000


@pytest.mark.parametrize(("command", "source"), [
    ("predict", DATA / "validation" / "glass-04.json"), ("predict", DATA / "validation" / "wall-channel-15x-2-1.json"),
    ("absorb", EXAMPLES / "absorb.json"), pytest.param("trace", DATA / "golden" / "before.json", marks=pytest.mark.broad),
    pytest.param("cut", EXAMPLES / "cut.json", marks=pytest.mark.broad)])
def test_malformed_files_give_one_line(capsys: pytest.CaptureFixture[str], tmp_path: Path, command: str, source: Path):
    document = json.loads(source.read_text("utf-8"))
    document = document.get("stack", document)
    file = tmp_path / "input.json"
    seen = 0
    for label, text in broken(document):
        file.write_text(text, "utf-8")
        if label == "not a number" and "NaN" not in text:
            continue
        line = refused(capsys, command, file)
        assert "input.json" in line, label
        seen += 1
    assert seen > 30


CURVE = (DATA / "validation" / "rating-example.csv").read_text("utf-8")


@pytest.mark.parametrize(("text", "word"), [
    ("", "header"), (CURVE.replace("level_db", "level"), "header"), (CURVE.replace("20.4", "loud"), "line 2"),
    (CURVE.replace("20.4", "NaN"), "not a number"), (CURVE.replace("20.4", "900"), "out of range"),
    (CURVE.replace("125,", "140,"), "not a one-third-octave"), (CURVE + "500,3\n", "twice"),
    (CURVE.replace("16.3", "16.3,4"), "3 values"), ("\0\1\2", "header"), ("frequency_hz,level_db\n", "no band"),
])
def test_malformed_curves(capsys: pytest.CaptureFixture[str], tmp_path: Path, text: str, word: str):
    file = tmp_path / "curve.csv"
    file.write_text(text, "utf-8")
    assert word in refused(capsys, "rate", file)


def test_malformed_calls(capsys: pytest.CaptureFixture[str], tmp_path: Path):
    wave = tmp_path / "a.wav"
    wave.write_bytes(b"RIFF0000WAVEfmt ")
    for args in (("rate",), ("rate", "nowhere.csv"), ("frobnicate",), (), ("compare", "70"), ("predict", tmp_path),
                 ("compare", "70", "--against", "900"), ("compare", "72..70", "--against", "60"),
                 ("compare", "70", "--against", "60", "--instrument-uncertainty-db", "1"),
                 ("compare", "70", "--against", "60", "--repeatability-db", "nan"), ("analyse", wave),
                 ("analyse", EXAMPLES / "analyse.csv", "--from", "900"), ("export", "1", tmp_path / "x", "--data", tmp_path)):
        refused(capsys, *args)


@pytest.mark.parametrize("name", DIALECTS)
@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "latin-1"])
def test_level_logs_in_many_dialects(capsys: pytest.CaptureFixture[str], tmp_path: Path, name: str, encoding: str):
    text, interval = DIALECTS[name]
    file = tmp_path / "log.csv"
    file.write_bytes(text.encode(encoding))
    code, out, err = run(capsys, "analyse", file)
    assert code == 0, err
    got = json.loads(out)
    levels = [71.2, 71.9, 70.5]
    mean = 10 * math.log10(sum(10 ** (x / 10) for x in levels) / 3)
    assert (got["samples"], got["Lmax"], got["Lmin"], got["L50"]) == (3, 71.9, 70.5, 71.2)
    assert got["Leq"] == pytest.approx(mean, abs=0.006)
    assert got["duration_s"] == pytest.approx(3 * interval)


@pytest.mark.parametrize(("text", "word"), [
    (b"", "empty"), (b"\x00\x01\x02\x03\x89PNG\x0d\x0a" * 9, "not text"), (b"time,colour\n0,red\n1,blue\n", "no"),
    (b"time,speed\n0,80\n1,81\n2,82\n", "named as a level"), (b"71.2\n71.9\n70.5\n", "give the seconds between samples"),
    (b"time,dB\n0,710\n1,720\n", "out of range"), (b"just words\nand more\n", "no line holds a number"),
])
def test_logs_that_are_none(capsys: pytest.CaptureFixture[str], tmp_path: Path, text: bytes, word: str):
    file = tmp_path / "log.csv"
    file.write_bytes(text)
    assert word in refused(capsys, "analyse", file)


def test_windows_columns_and_the_steady_stretch(capsys: pytest.CaptureFixture[str], tmp_path: Path):
    file = tmp_path / "run.csv"
    rise = [60 + 0.5 * (i % 3) for i in range(40)] + [74 + 0.3 * (i % 4) for i in range(120)] + [55 + i % 2 for i in range(30)]
    file.write_text("s,LAF,LCF\n" + "".join(f"{i},{v},{v + 9}\n" for i, v in enumerate(rise)), "utf-8")
    steady = json.loads(run(capsys, "analyse", file, "--steady")[1])
    assert steady["window_s"] == pytest.approx([40, 160], abs=2)
    assert steady["Leq"] == pytest.approx(74.45, abs=0.1)
    window = json.loads(run(capsys, "analyse", file, "--from", "40", "--to", "160", "--column", "LCF")[1])
    assert (window["samples"], window["Leq"]) == (120, pytest.approx(steady["Leq"] + 9, abs=0.05))
    assert window["L10"] == pytest.approx(83.9)
    compared = json.loads(run(capsys, "compare", file, "--against", "60", "--from", "40", "--to", "160",
                              "--instrument", "different", "--instrument-uncertainty-db", "2")[1])
    assert compared["reduction_db"] == pytest.approx(14.45, abs=0.1)
    assert {b["source"] for b in compared["budget"]} >= {"different instrument"}


@pytest.mark.parametrize(("rate_hz", "subtype", "channels"), [(8_000, "PCM_16", 1), (44_100, "PCM_24", 2),
                                                             pytest.param(48_000, "FLOAT", 4, marks=pytest.mark.broad),
                                                             pytest.param(96_000, "PCM_24", 1, marks=pytest.mark.broad)])
def test_recordings_from_the_command_line(capsys: pytest.CaptureFixture[str], tmp_path: Path, rate_hz: int, subtype: str,
                                          channels: int):
    def write(name: str, peak: float) -> Path:
        file = tmp_path / name
        one = tone(1000.0, 6, rate_hz, peak)
        file.write_bytes(as_wav(np.stack([one] * channels, axis=1), rate_hz, subtype))
        return file
    loud, soft, calibrator = write("loud.wav", 0.2), write("soft.wav", 0.05), write("cal.wav", 0.1)
    bare = json.loads(run(capsys, "analyse", loud)[1])
    OUTPUTS["analyse-recording"].model_validate(bare)
    assert (bare["kind"], bare["calibrated"], bare["channels"]) == ("recording", False, channels)
    assert bare["LAeq"] == pytest.approx(20 * math.log10(0.2), abs=0.03)
    known = json.loads(run(capsys, "analyse", loud, "--full-scale-db", "114")[1])
    by_tone = json.loads(run(capsys, "analyse", loud, "--calibration", calibrator, "--calibration-db", "94")[1])
    for got in (known, by_tone):
        assert got["calibrated"] is True
        assert got["LAeq"] == got["L50"] == pytest.approx(100.02, abs=0.06)
        assert got["bands"]["level_db"][19] == pytest.approx(100.02, abs=0.06)
    part = json.loads(run(capsys, "analyse", loud, "--from", "1.5", "--to", "4")[1])
    assert (part["window_s"], part["duration_s"]) == ([1.5, 4.0], 2.5)
    compared = json.loads(run(capsys, "compare", loud, loud, "--against", soft, soft, "--background", "-49")[1])
    assert compared["reduction_db"] == pytest.approx(12.04, abs=0.03)
    assert compared["verdict"] == "quieter"
    assert compared["bands"]["reduction_db"][19] == pytest.approx(12.04, abs=0.03)
    assert "equal-gain" in {c["rule"] for c in compared["cautions"]}
    assert json.loads(run(capsys, "compare", loud, "--against", "70")[1])["verdict"] == "not comparable"


def test_scales_that_contradict_are_refused(capsys: pytest.CaptureFixture[str], tmp_path: Path):
    wave, hum = tmp_path / "a.wav", tmp_path / "noise.wav"
    wave.write_bytes(as_wav(tone(1000, 3, 8000), 8000))
    hum.write_bytes(as_wav(0.1 * np.random.default_rng(1).standard_normal(24_000), 8000))
    for args in ((wave, "--calibration-db", "94"), (wave, "--full-scale-db", "100", "--calibration", wave),
                 (wave, "--full-scale-db", "900"), (wave, "--column", "2"), (wave, "--from", "9"), (wave, "--calibration", hum),
                 (EXAMPLES / "analyse.csv", "--full-scale-db", "100")):
        refused(capsys, "analyse", *args)


def test_a_clap_is_analysed_and_a_build_is_drawn_and_read_again(capsys: pytest.CaptureFixture[str], tmp_path: Path):
    clap = tmp_path / "clap.wav"
    rate, t = 16000, 0.6
    at = np.arange(round(1.6 * rate)) / rate
    heard = np.concatenate([np.zeros(rate // 2), np.random.default_rng(3).standard_normal(at.size) * np.exp(-6.908 * at / t)])
    soundfile.write(clap, 0.2 * heard, rate, subtype="PCM_24")
    code, out, _ = run(capsys, "analyse", clap, "--decay")
    found = OUTPUTS["analyse-decay"].model_validate_json(out).model_dump()
    assert (code, found["excitation"]) == (0, "impulse")
    assert found["octaves"][4]["t20_s"] == pytest.approx(t, rel=0.06)
    assert "falls by" in refused(capsys, "analyse", clap, "--decay", "--to", "0.55")
    assert "not steady" in refused(capsys, "analyse", clap, "--decay", "--steady")

    for name in ("build", "box", "platform", "baffle"):
        code, out, _ = run(capsys, "build", EXAMPLES / f"{name}.json", "--svg", tmp_path / "b.svg", "--dxf", tmp_path / "b.dxf")
        parts = json.loads(out)["parts"]
        shapes = json.loads(run(capsys, "read", tmp_path / "b.dxf")[1])["shapes"]
        assert {s["id"] for s in shapes} == {p["id"] for p in parts}
        for shape, part in zip(sorted(shapes, key=lambda s: s["id"]), sorted(parts, key=lambda p: p["id"]), strict=True):
            assert Polygon(shape["outline_mm"], shape["holes_mm"]).area == pytest.approx(
                Polygon(part["outline_mm"], part["holes_mm"]).area, rel=0.001)
        assert (tmp_path / "b.svg").read_text("utf-8").count("data-part") == 3 * len(parts)
    assert "no parts to draw" in refused(capsys, "build", EXAMPLES / "window.json", "--svg", tmp_path / "w.svg")
    (tmp_path / "x.json").write_text('{"kind": "boat"}')
    assert "no build of kind 'boat'" in refused(capsys, "build", tmp_path / "x.json")


@pytest.mark.parametrize(("load", "without"), [
    ("sphagnum.entry, sphagnum.cli", ("numpy", "pydantic", "sqlalchemy")),
    ("sphagnum.exchange.stack_commands, sphagnum.catalogue.materials",
     ("sphagnum.core.job.shelf", "sphagnum.core.rules.engine", "shapely", "scipy.optimize")),
    ("sphagnum.exchange.path_commands, sphagnum.catalogue.materials",
     ("sphagnum.core.job.shelf", "sphagnum.core.rules.engine", "shapely", "scipy.optimize", "scipy.special")),
    ("sphagnum.exchange.level_commands", ("shapely", "scipy.optimize", "sqlalchemy", "flask")),
    ("sphagnum.api.app", ("reportlab", "icalendar", "segno", "ezdxf", "scipy.optimize", "cryptography.x509"))])
def test_what_is_not_asked_for_is_not_loaded(load: str, without: tuple[str, ...]):
    """The command says what is wrong, and the server is there, before what prints or plans is loaded."""
    told = subprocess.check_output([sys.executable, "-c", f"import {load}, sys; print(*sys.modules)"], text=True)
    assert {"sphagnum", *without} & set(told.split()) == {"sphagnum"}


RUN = "import sys; from sphagnum.cli import main; code = main(sys.argv[1:]); print(*sys.modules, file=sys.stderr); sys.exit(code)"
OF_JOBS = ("sphagnum.catalogue.load", "sphagnum.core.job.shelf", "sphagnum.core.job.workshop")


@pytest.mark.parametrize(("command", "without"), [
    (["rate", "rate.csv"], (*OF_JOBS, "sphagnum.core.levels.rows", "sphagnum.core.levels.decay", "scipy.special")),
    (["compare", "70", "70.4", "--against", "64", "64.2"], (*OF_JOBS, "sphagnum.core.materials.model", "scipy.signal")),
    (["analyse", "analyse.csv"], (*OF_JOBS, "sphagnum.core.materials.model", "scipy.signal", "scipy.special")),
    (["predict", "predict.json"], (*OF_JOBS, "scipy.special", "shapely")),
    (["trace", "trace.json"], (*OF_JOBS, "sphagnum.core.surfaces.taped", "sphagnum.core.cutting.layout", "shapely")),
    (["plan", "plan.json"], (*OF_JOBS, "sphagnum.core.surfaces.taped", "sphagnum.core.cutting.layout", "shapely")),
    (["shape", "shape.json"], (*OF_JOBS, "sphagnum.core.cutting.layout", "scipy.optimize")),
    (["cut", "cut.json"], (*OF_JOBS, "sphagnum.core.surfaces.taped"))])
def test_a_command_loads_nothing_of_its_neighbours(command: list[str], without: tuple[str, ...]):
    """From the return key to its last word, on the shipped examples."""
    given = [str(EXAMPLES / x) if (EXAMPLES / x).is_file() else x for x in command]
    done = subprocess.run([sys.executable, "-c", RUN, *given], capture_output=True, text=True, check=True)
    assert done.stdout
    assert {"sphagnum.cli", *without} & set(done.stderr.split()) == {"sphagnum.cli"}


@pytest.mark.parametrize("method", sorted(shelf().methods))
def test_what_a_command_takes_a_reading_for_is_what_a_job_does(method: str):
    own = shelf()
    assert worth(method) == (own.repeatability(method), own.setup(method), own.different_instrument_db)
