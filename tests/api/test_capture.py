"""Live instruments, and what becomes a reading: logs corrected, recordings calibrated, windows chosen anew, photographs."""

from __future__ import annotations

import io
import json
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from flask.testing import FlaskClient
from PIL import Image

from signals import as_wav, tone, until
from sphagnum.core.levels.decibels import energy_mean
from sphagnum.instruments.capture import Capture
from sphagnum.instruments.meter_link import MeterLink, meter_port
from sphagnum.instruments.protocol import LostInstrument
from worked import AUTHOR, worked_job

Send = Callable[..., tuple[int, Any]]
AT = {"position_id": "1", "condition_id": "1", "round_id": "1"}
NUMBERS = {k: int(v) for k, v in AT.items()}


@pytest.fixture
def job(client: FlaskClient) -> int:
    body = json.dumps({"format": "sphagnum-job", "format_version": 1, **worked_job()}).encode()
    return client.post("/api/jobs/import", data={"file": (io.BytesIO(body), "job.json")}, headers=AUTHOR).get_json()["id"]


@pytest.fixture
def put(client: FlaskClient, job: int) -> Callable[..., tuple[int, Any]]:
    """Upload a file with fields to a route of the job."""
    def putting(route: str, data: bytes, name: str = "file", **fields: str) -> tuple[int, Any]:
        answer = client.post(f"/api/jobs/{job}/{route}", data={"file": (io.BytesIO(data), name), **fields}, headers=AUTHOR)
        return answer.status_code, answer.get_json()
    return putting


def test_the_simulated_meter_keeps_its_line_protocol():
    link = MeterLink(meter_port(), "compressor", rate=100)
    assert link.identify().name == "Simulated meter"
    assert link.settings()["weighting"] == "A"
    samples = []
    for sample in link.samples():
        samples.append(sample)
        if sample.time_s >= 45:
            break
    link.close()
    running = [s.mean_dba for s in samples if 22 <= s.time_s <= 45]
    assert energy_mean(running) == pytest.approx(48.0, abs=1.0)
    assert energy_mean([s.mean_dba for s in samples if s.time_s <= 17]) == pytest.approx(38.2, abs=1.0)
    assert len(samples[0].bands_db) == 33
    with pytest.raises(ValueError, match="no such scene"):
        MeterLink(meter_port(), "thunder")
    with pytest.raises(LostInstrument):
        MeterLink(1)


def test_a_log_through_a_dropout_keeps_what_came_and_reconnects():
    capture = Capture(MeterLink(meter_port(), "idle", rate=60, drop_s=6))
    capture.start_log()
    lost = until(lambda: (v := capture.view()).losses and v)
    assert "what came is kept" in lost.said or lost.state == "live"
    back = until(lambda: (v := capture.view()).state == "live" and v.logging_s > 12 and v)
    assert "1 gap in this log" in back.said
    logged = capture.stop_log()
    capture.stop()
    assert logged.losses == 1
    assert logged.seconds > 12
    assert logged.mean_dba == pytest.approx(47.5, abs=1.0)


def test_hands_free_keeps_only_the_steady_run():
    kept = []
    capture = Capture(MeterLink(meter_port(), "steady run", rate=60), kept.append)
    capture.arm(True)
    until(lambda: kept)
    capture.stop()
    assert kept[0].mean_dba == pytest.approx(74.6, abs=1.2)
    assert kept[0].seconds == pytest.approx(10.0)
    assert len(kept[0].bands_db) == 33


def test_a_live_log_becomes_a_reading(send: Send, job: int):
    status, opened = send("POST", f"/jobs/{job}/captures", {"instrument": "meter", "scene": "too loud", "rate": 60, **NUMBERS})
    assert status == 201
    path = f"/captures/{opened['capture']}"
    send("POST", f"{path}/log", {"on": True})
    live = until(lambda: (v := send("GET", path)[1])["logging_s"] > 7 and v)
    assert live["unit"] == "dB(A)"
    status, done = send("POST", f"{path}/log", {"on": False})
    assert status == 200
    row = done["rows"][0]
    assert (row["source"], len(row["bands_db"]), row["note"]) == ("meter", 33, "overload")
    assert set(row["levels"]) == {"LAeq", "LCeq"}
    assert send("DELETE", path)[0] == 200
    assert send("GET", path)[0] == 404
    assert send("POST", f"/jobs/{job}/captures", {"instrument": "meter", "scene": "thunder", **NUMBERS})[0] == 422


def test_the_microphone_reads_what_the_recording_reads(client: FlaskClient, send: Send, job: int):
    rate = 16_000
    samples = tone(1000, 4, rate, 0.2).astype("<f4")
    _, opened = send("POST", f"/jobs/{job}/captures", {"instrument": "microphone", "sample_rate_hz": rate, **NUMBERS})
    path = f"/captures/{opened['capture']}"
    send("POST", f"{path}/log", {"on": True})
    for part in np.array_split(samples, 16):
        assert client.post(f"/api{path}/samples", data=part.tobytes(), headers=AUTHOR).status_code == 200
    live = until(lambda: (v := send("GET", path)[1])["logging_s"] >= 3.9 and v)
    assert live["level_db"] == pytest.approx(20 * np.log10(0.2), abs=0.1)
    assert "re full scale" in live["unit"]
    assert client.post(f"/api{path}/samples", data=b"odd", headers=AUTHOR).status_code == 422
    row = send("POST", f"{path}/log", {"on": False})[1]["rows"][0]
    assert (row["source"], row["relative"]) == ("microphone", True)
    assert row["level_db"] == pytest.approx(20 * np.log10(0.2), abs=0.05)
    sound = client.get(f"/api/jobs/{job}/readings/{row['id']}/sound")
    assert (sound.status_code, sound.mimetype) == (200, "audio/wav")


LOG = "clock;Temp dB;LAeq dB\n" + "".join(
    f"10:{i // 60:02d}:{i % 60:02d};20,5;{70 + (i % 3) - 12 * (i >= 60)}\n" for i in range(120))


def test_a_misread_log_is_looked_at_and_corrected(put: Callable[..., Any], send: Send, job: int):
    _, seen = put("logs/look", LOG.encode(), "run.csv")
    assert (seen["column"], seen["interval_s"], seen["samples"]) == ("Temp dB", 1.0, 120)
    assert [c["taken_for"] for c in seen["columns"]] == ["time", "level", "other"]
    _, seen = put("logs/look", LOG.encode(), "run.csv", column="3")
    assert seen["quantity"] == "LAeq"
    assert seen["look"]["steady_s"] == [[0.0, 60.0], [60.0, 120.0]]
    status, kept = put("logs", LOG.encode(), "run.csv", column="3", from_s="60", to_s="120", **AT)
    row = kept["row"]
    assert (status, row["window_s"], row["level_db"]) == (201, [60.0, 120.0], pytest.approx(59.08, abs=0.01))
    window = f"/jobs/{job}/readings/{row['id']}/window"
    status, changed = send("POST", window, {"version": row["version"], "start_s": 0, "end_s": 60})
    assert (status, changed["rows"][0]["level_db"]) == (200, pytest.approx(71.08, abs=0.01))
    stale = send("POST", window, {"version": row["version"], "start_s": 0, "end_s": 9})
    assert stale[0] == 409
    assert send("POST", window, {"version": 2, "start_s": 500, "end_s": 900})[0] == 422
    assert put("logs/look", LOG.encode(), "run.csv", column="9")[0] == 422
    assert put("logs/look", LOG.encode(), "run.csv", interval_s="soon")[0] == 422


def test_a_table_of_bands_is_a_spectrum(put: Callable[..., Any]):
    status, kept = put("logs", b"Frequency,Level dB\n63 Hz,80\n125 Hz,75\n1 kHz,60\n", "bands.csv", **AT)
    row = kept["row"]
    assert (status, row["source"]) == (201, "spectrum")
    assert [b for b in row["bands_db"] if b is not None] == [80, 75, 60]
    assert row["level_db"] == pytest.approx(10 * np.log10(10**5.38 + 10**5.89 + 10**6), abs=0.01)


def test_recordings_follow_the_calibration_and_windows_recompute(put: Callable[..., Any], send: Send, job: int):
    rate = 16_000
    wav = as_wav(np.concatenate([tone(1000, 8, rate, 0.1), tone(1000, 8, rate, 0.01)]), rate)
    _, first = put("recordings", wav, "run.wav", **AT)
    assert (first["row"]["relative"], first["analysis"]["calibrated"]) == (True, False)
    assert put("calibration", as_wav(tone(1000, 6, rate, 0.1), rate), "cal.wav", level_db="94")[0] == 200
    assert send("GET", f"/jobs/{job}")[1]["document"]["job"]["full_scale_db"] == pytest.approx(114.0, abs=0.02)
    _, second = put("recordings", wav, "run.wav", **AT)
    row = second["row"]
    assert row["level_db"] == pytest.approx(91.03, abs=0.03)
    page = send("GET", f"/jobs/{job}/readings/{row['id']}/run")[1]
    assert page["look"]["steady_s"][0][1] - page["look"]["steady_s"][0][0] == pytest.approx(8, abs=0.5)
    _, late = send("POST", f"/jobs/{job}/readings/{row['id']}/window", {"version": 1, "start_s": 8.5, "end_s": 16})
    assert late["rows"][0]["level_db"] == pytest.approx(74.0, abs=0.05)
    for data, word in ((b"time,dB\n1,2\n", "no WAV"), (b"RIFF\x00\x00\x00\x00WAVE", "not a sound")):
        status, body = put("recordings", data, "x.wav", **AT)
        assert status == 422
        assert word in body["what"]
    assert put("calibration", wav, "cal.wav", level_db="9")[0] == 422


def test_knocks_and_signals_over_the_wire(put: Callable[..., Any], client: FlaskClient, send: Send, job: int):
    rate = 16_000
    t = np.arange(rate) / rate
    one = 0.5 * np.sin(2 * np.pi * 125 * t) * 10 ** (-3 * t / 0.6)
    status, kept = put("knocks/recording", as_wav(np.concatenate([np.zeros(rate // 2), one, one, one]), rate), "door.wav", **AT)
    assert (status, kept["rows"][0]["knocks"]) == (201, 3)
    assert kept["rows"][0]["decay_time_s"] == pytest.approx(0.6, rel=0.05)
    assert put("knocks/recording", as_wav(tone(100, 3, rate), rate), "hum.wav", **AT)[0] == 422
    wav = client.get("/api/signals/tone.wav?seconds=2&frequency_hz=63")
    assert (wav.status_code, wav.data[:4]) == (200, b"RIFF")
    assert client.get("/api/signals/tone.wav?seconds=9999").status_code == 422
    assert client.get("/api/signals/whistle.wav").status_code == 422
    reading = put("recordings", as_wav(tone(1000, 6, rate, 0.1), rate), "run.wav", **AT)[1]["row"]
    loop = client.get(f"/api/jobs/{job}/readings/{reading['id']}/loop.wav?seconds=12")
    assert len(loop.data) == pytest.approx(12 * rate * 2, rel=0.01)
    assert send("GET", "/repeatability")[1]["methods"][0]["table_db"] > 0


def test_photographs_lose_what_the_camera_wrote(put: Callable[..., Any], client: FlaskClient):
    out, exif = io.BytesIO(), Image.Exif()
    exif[0x010F], exif[0x0112] = "some maker", 6
    Image.new("RGB", (2400, 1200), "olive").save(out, "JPEG", exif=exif)
    status, kept = put("photographs", out.getvalue(), "ear.jpg", position_id="1", caption="at the ear")
    assert status == 201
    with Image.open(io.BytesIO(client.get(f"/api/pictures/{kept['rows'][0]['file']}").data)) as picture:
        assert picture.size == (800, 1600)
        assert not picture.getexif()
    for bad in (b"", b"GIF89a", b"\xff\xd8\xff\xe0 not really", out.getvalue()[:400]):
        assert put("photographs", bad, "x.jpg")[0] == 422


def test_all_readings_as_a_table(client: FlaskClient, put: Callable[..., Any], job: int):
    put("logs", b"Frequency,Level dB\n63 Hz,80\n125 Hz,75\n1 kHz,60\n", "=bands.csv", **AT)
    lines = client.get(f"/api/jobs/{job}/readings.csv").data.decode("utf-8-sig").splitlines()
    assert len(lines) == 8
    assert lines[1].startswith("As found,,Ear,running,no,LAeq,60.6,,,yes,typed,")
    assert "'=bands.csv" in lines[-1]
    assert lines[0].endswith("20000_hz_db")


def test_a_clap_says_how_long_the_room_rings_and_what_tells_nothing_is_refused(
        send: Send, job: int, put: Callable[..., tuple[int, Any]]):
    rate, t = 16_000, 0.8
    at = np.arange(round(2.2 * rate)) / rate
    fall = np.random.default_rng(5).standard_normal(at.size) * np.exp(-6.908 * at / t)
    heard = np.concatenate([np.zeros(rate // 2), fall])
    where = {"round_id": "1", "position_id": "1", "excitation": "balloon"}
    status, kept = put("decays/recording", as_wav(0.2 * heard, rate), "balloon.wav", **where)
    assert status == 201, kept
    row = kept["rows"][0]
    assert row["excitation"] == "balloon"
    assert row["t_s"][3] == pytest.approx(t, rel=0.08)
    assert row["uncertainty_s"][0] > row["uncertainty_s"][5] > 0  # low octaves scatter more
    assert len(row["curves_db"][3]) > 20
    for samples, said in ((0.2 * np.ones(rate), "stands out"), (0.2 * heard[: rate // 2 + 900], "dies away")):
        status, refused = put("decays/recording", as_wav(samples, rate), "x.wav", **where)
        assert (status, said in refused["what"] or "falls by" in refused["what"]) == (422, True), refused
    noise = np.random.default_rng(6).standard_normal(round(1.5 * rate))
    stopped = np.concatenate([noise, fall])
    status, kept = put("decays/recording", as_wav(0.2 * stopped, rate), "noise.wav", **{**where, "excitation": "stopped noise"})
    assert (status, kept["rows"][0]["t_s"][4]) == (201, pytest.approx(t, rel=0.15))
    assert put("decays/recording", b"no sound at all", "x.wav", **where)[0] == 422

    # builds of the job, worked out by what was read
    given = {"kind": "absorbers", "room_mm": [5000, 4000, 2600], "use": "speech", "count": 3,
             "surfaces": {"floor": "carpet", "ceiling": "plaster", "walls": "plaster"},
             "frame": {"size_mm": [1000, 600], "depth_mm": 50, "fill": "stone-wool"}}
    step = {"collection": "builds", "values": {"name": "A", "given": given}}
    assert send("POST", f"/jobs/{job}/edits", {"steps": [step]})[0] == 200
    card = send("GET", f"/jobs/{job}/builds-view")[1]["cards"][0]
    assert card["built"]["count"] == 3
    assert card["drawn"]["parts"]
    unknown = {"collection": "builds", "values": {"name": "B", "given": {**given, "frame": {**given["frame"], "fill": "moss"}}}}
    status, refused = send("POST", f"/jobs/{job}/edits", {"steps": [unknown]})
    assert (status, "no material 'moss'" in refused["what"]) == (422, True)
    large = {**given, "frame": {**given["frame"], "size_mm": [9000, 4000]}}
    huge = {"collection": "builds", "values": {"name": "B", "given": large}}
    assert send("POST", f"/jobs/{job}/edits", {"steps": [huge]})[0] == 200  # it is kept, and says what is wrong
    assert "larger than the walls" in send("GET", f"/jobs/{job}/builds-view")[1]["cards"][1]["problem"]
    assert send("GET", f"/jobs/{job}/cut")[0] == 200
    for wrong in ({**given, "kind": "boat"}, {**given, "room_mm": [1, 2, 3]}, {"kind": "window"}):
        step = {"collection": "builds", "values": {"name": "C", "given": wrong}}
        assert send("POST", f"/jobs/{job}/edits", {"steps": [step]})[0] == 422
