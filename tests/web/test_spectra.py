"""Recordings of noise through the API: the third octaves of each wire and group that a reading stands on."""

import io
from typing import Any
from uuid import uuid4

import numpy as np
import pytest
import soundfile
from scipy.signal import butter, sosfilt, sosfreqz
from starlette.testclient import TestClient

Body = dict[str, Any]
RATE = 48_000
TAKEN = "2026-05-02T10:00:00Z"


def noise(kind: str, corner_hz: float) -> tuple[bytes, np.ndarray]:
    """Ten seconds of pink noise behind scipy's fourth-order filter as WAV, and the filter's poles and zeros."""
    spectrum = np.fft.rfft(np.random.default_rng(3).standard_normal(10 * RATE))
    pink = np.fft.irfft(spectrum / np.sqrt(np.maximum(np.fft.rfftfreq(10 * RATE, 1 / RATE), 10.0)))
    sections = butter(4, corner_hz, kind, fs=RATE, output="sos")
    file = io.BytesIO()
    soundfile.write(file, sosfilt(sections, 0.1 * pink / pink.std()), RATE, subtype="PCM_24", format="WAV")
    return file.getvalue(), sections


def used(client: TestClient, job: Body, step: str, data: bytes, row: str | None = None) -> str:
    """Keeps a recording and takes a step's reading from it."""
    query = {"id": str(uuid4()), "name": "noise.wav", "taken_at": TAKEN, "full_scale_v": 10}
    kept = client.post(f"/api/jobs/{job['id']}/captures", params=query, content=data).json()
    body = {"step": step, "sheet_version": job["version"], "taken_at": TAKEN, "row": row}
    taken = client.post(f"/api/jobs/{job['id']}/captures/{kept['id']}/readings", json=body)
    assert taken.status_code == 200, taken.text
    return str(kept["id"])


def begun(client: TestClient, layout: str, **choices: object) -> Body:
    job = client.post("/api/jobs", json={"id": str(uuid4()), "layout": layout}).json()
    sheet = job["sheet"] | {"choices": job["sheet"]["choices"] | choices}
    edit = {"base_version": job["version"], "sheet": sheet, "by": ""}
    return dict(client.put(f"/api/jobs/{job['id']}/sheet", json=edit).json())


def spectra(client: TestClient, job: Body) -> list[Body]:
    return list(client.get(f"/api/jobs/{job['id']}/spectra").json())


def step_of(client: TestClient, job: Body, kind: str) -> Body:
    steps = client.get(f"/api/jobs/{job['id']}/run").json()["run"]["steps"]
    return next(step for step in steps if step["kind"] == kind)


def test_a_wire_is_drawn_as_its_filter_shapes_it_until_its_recording_is_struck_out(client: TestClient) -> None:
    job = begun(client, "converter")
    assert spectra(client, job) == []
    step = step_of(client, job, "factory")["key"]
    data, sections = noise("high", 200.0)
    capture = used(client, job, step, data)
    (paper,) = spectra(client, job)
    assert (paper["steps"], paper["wanted_db"], len(paper["lines"])) == ([step], None, 1)
    levels = dict(zip(paper["hertz"], paper["lines"][0]["levels_db"], strict=True))
    _, response = sosfreqz(sections, [125.0, 250.0, 1000.0], fs=RATE)
    wanted = 20 * np.log10(np.abs(response))
    # Third octaves of a slope, and noise of ten seconds in a narrow band.
    assert [levels[hertz] - levels[1000.0] for hertz in (125.0, 250.0)] == pytest.approx(wanted[:2], abs=1.5)
    assert max(level for level in levels.values() if level is not None) == 0
    client.post(f"/api/jobs/{job['id']}/captures/{capture}/strike", json={"reason": "another wire"})
    assert spectra(client, job) == []


def test_groups_are_drawn_before_and_after_against_the_wanted_curve(client: TestClient) -> None:
    job = begun(client, "front-sub", blend="spectrum", cabin_bass_db=6)
    step = step_of(client, job, "cabin")
    files = {"Front": noise("high", 80.0)[0], "Sub": noise("low", 80.0)[0]}
    for row in step["rows"]:
        if row["name"].endswith("before the blend"):
            used(client, job, step["key"], files[row["name"].partition(",")[0]], row["key"])
    (paper,) = spectra(client, job)
    assert paper["name"] == "Before the blend"
    assert [line["name"] for line in paper["lines"]] == ["Front", "Sub"]
    wanted = dict(zip(paper["hertz"], paper["wanted_db"], strict=True))
    # By its definition: 6 dB at 40 Hz, none from 1 kHz on, half of it at 200 Hz, the middle of the octaves between.
    assert [wanted[hertz] for hertz in (40.0, 200.0, 1000.0, 8000.0)] == pytest.approx([6, 3, 0, 0], abs=1e-9)
    front = dict(zip(paper["hertz"], paper["lines"][0]["levels_db"], strict=True))
    # Its own noise is flat: above the curve's mean in its band by what the curve lies below it at treble.
    assert front[4000.0] == pytest.approx(front[2000.0], abs=1.0)
    used(client, job, step["key"], files["Front"], step["rows"][-2]["key"])
    assert [one["name"] for one in spectra(client, job)] == ["Before the blend", "After the blend"]
