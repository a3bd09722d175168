"""Captures through the API: judged, kept with their files unchanged, attached and struck out."""

import io
from typing import Any
from uuid import uuid4

import numpy as np
import pytest
import soundfile
from starlette.testclient import TestClient

from tests.web.recordings import swept
from upper_rook.core.signal.clipped_sine import rms_above_db

Body = dict[str, Any]
TAKEN = "2026-05-02T10:00:00Z"


def wave(over: float = 1.5, count: int = 1000) -> np.ndarray:
    times = np.arange(count) / 100_000
    return np.clip(over * 5 * np.sin(2 * np.pi * 1000 * times), -5, 5)


def as_csv(volts: np.ndarray) -> bytes:
    return ("Time (s),CH1 (V)\n" + "".join(f"{n / 1e5:.5f},{v:.4f}\n" for n, v in enumerate(volts))).encode()


def send(client: TestClient, job: Body, data: bytes, **told: object) -> Any:
    query = {"id": str(uuid4()), "name": "scope 1.csv", "taken_at": TAKEN} | told
    return client.post(f"/api/jobs/{job['id']}/captures", params=query, content=data)


def test_a_scope_export_is_judged_and_comes_back_unchanged(client: TestClient, job: Body) -> None:
    data = as_csv(wave())
    kept = send(client, job, data).json()
    (channel,) = kept["examination"]["channels"]
    assert (kept["kind"], channel["name"], channel["report"]["verdict"]) == ("csv", "CH1", "clipped")
    assert channel["report"]["over_db"] == pytest.approx(3.52, abs=0.02)
    assert kept["headline"] == f"clipped by {channel['report']['over_db']:.2f} dB"
    assert len(channel["drawing"]["volts"]) == len(channel["drawing"]["sine"]) == 400
    assert max(channel["drawing"]["sine"]) == pytest.approx(7.5, rel=0.01)
    address = f"/api/jobs/{job['id']}/captures/{kept['id']}"
    assert client.get(address).json() == kept | {"agreement": None, "same_as": None}
    file = client.get(f"{address}/file")
    assert file.content == data
    assert file.headers["content-type"].startswith("text/csv")
    assert "scope%201.csv" in file.headers["content-disposition"]


def test_a_wav_with_its_full_scale_volts(client: TestClient, job: Body) -> None:
    file = io.BytesIO()
    soundfile.write(file, wave(0.9) / 10, 96_000, subtype="PCM_24", format="WAV")
    kept = send(client, job, file.getvalue(), name="line.wav", full_scale_v=10, expect_hz=960).json()
    report = kept["examination"]["channels"][0]["report"]
    assert (kept["kind"], report["verdict"]) == ("wav", "clean")
    assert report["v_rms"] == pytest.approx(4.5 / np.sqrt(2), rel=1e-3)
    other = send(client, job, file.getvalue(), full_scale_v=10, expect_hz=1000).json()
    assert other["examination"]["channels"][0]["report"]["verdict"] == "wrong_tone"


# 1 dB a number, clipping from 27.4 on (closed form), rounded as a meter does.
DRIVE = np.arange(20, 32) - 27.4
VOLUME_STEPS = [round(float(one), 2) for one in 3.162 * 10 ** (np.where(DRIVE > 0, rms_above_db(DRIVE), DRIVE) / 20)]


def test_pasted_volume_steps_without_a_heading(client: TestClient, job: Body) -> None:
    text = "\n".join(f"{number}\t{volts:.2f}".replace(".", ",") for number, volts in enumerate(VOLUME_STEPS, 20))
    kept = send(client, job, text.encode(), name="typed").json()
    assert kept["kind"] == "ladder"
    assert kept["examination"]["ladder"]["report"]["clean_volume"] == 27
    assert kept["headline"].startswith("clean maximum 27, 3.1")
    assert len(kept["examination"]["ladder"]["points"]) == len(VOLUME_STEPS)


def test_sent_twice_it_is_kept_once(client: TestClient, job: Body) -> None:
    name = str(uuid4())
    first, second = (send(client, job, as_csv(wave()), id=name) for _ in range(2))
    assert (first.status_code, second.json()) == (201, first.json())
    other = send(client, job, as_csv(wave(1.0)), id=name)
    assert (other.status_code, other.json()["field"]) == (409, "id")
    assert len(client.get(f"/api/jobs/{job['id']}/captures").json()) == 1


@pytest.mark.parametrize(
    ("data", "said"),
    [(b"", "empty"), (b"\0\1\2" * 99, "not text"), (b"hello", "No table"), (b"volume,volts\n20,x\n", "Line 2")],
)
def test_what_cannot_be_read_is_told_and_not_kept(client: TestClient, job: Body, data: bytes, said: str) -> None:
    refused = send(client, job, data)
    assert refused.status_code == 422
    assert said in refused.json()["detail"]
    assert client.get(f"/api/jobs/{job['id']}/captures").json() == []


def test_a_file_of_many_parts_comes_back_whole(client: TestClient, job: Body) -> None:
    data = as_csv(wave(count=200_000))
    assert len(data) > 2 << 20
    kept = send(client, job, data).json()
    assert client.get(f"/api/jobs/{job['id']}/captures/{kept['id']}/file").content == data


def test_too_large_a_file_is_refused_before_it_arrives(client: TestClient, job: Body) -> None:
    told = {"id": str(uuid4()), "name": "a.csv", "taken_at": TAKEN}
    refused = client.post(
        f"/api/jobs/{job['id']}/captures", params=told, content=b"x", headers={"content-length": "200000001"}
    )
    assert (refused.status_code, "200 MB" in refused.json()["detail"]) == (413, True)


def test_attached_to_a_reading_and_struck_out(client: TestClient, job: Body) -> None:
    reading = {
        "id": str(uuid4()),
        "step": "ceiling.source.line",
        "value": 1.5,
        "instrument": "scope",
        "circumstances": {"volume": 20},
        "sheet_version": 1,
        "taken_at": TAKEN,
    }
    client.post(f"/api/jobs/{job['id']}/readings", json=reading)
    kept = send(client, job, as_csv(wave())).json()
    address = f"/api/jobs/{job['id']}/captures/{kept['id']}"
    attached = client.put(f"{address}/reading", json={"reading_id": reading["id"]}).json()
    assert attached["reading_id"] == reading["id"]
    # The scope reads 4.2 V RMS of a wave that the meter called 1.5 V.
    assert attached["agreement"]["agree"] is False
    assert client.get(address).json()["agreement"] == attached["agreement"]
    assert client.put(f"{address}/reading", json={"reading_id": str(uuid4())}).status_code == 404
    assert client.put(f"{address}/reading", json={"reading_id": None}).json()["reading_id"] is None
    assert client.post(f"{address}/strike", json={"reason": "wrong probe"}).json()["struck"] == "wrong probe"
    assert client.post(f"{address}/strike", json={"reason": "again"}).json()["struck"] == "wrong probe"


def test_another_job_does_not_see_it(client: TestClient, job: Body) -> None:
    kept = send(client, job, as_csv(wave())).json()
    other = client.post("/api/jobs", json={"id": str(uuid4())}).json()
    for ending in ("", "/file"):
        assert client.get(f"/api/jobs/{other['id']}/captures/{kept['id']}{ending}").status_code == 404
    assert send(client, {"id": str(uuid4())}, as_csv(wave())).status_code == 404


def test_a_run_judges_its_own_volume_steps(client: TestClient, job: Body) -> None:
    for number, voltage in enumerate(VOLUME_STEPS, 20):
        reading = {
            "id": str(uuid4()),
            "step": "ceiling.source.line",
            "value": voltage,
            "instrument": "true-rms",
            "circumstances": {"volume": number},
            "sheet_version": 1,
            "taken_at": f"2026-05-02T10:{number}:00Z",
        }
        assert client.post(f"/api/jobs/{job['id']}/readings", json=reading).status_code == 201

    def standing() -> Body:
        states = client.get(f"/api/jobs/{job['id']}/run").json()["run"]["states"]
        return next(state for state in states if state["step"] == "ceiling.source.line")

    volume_steps = standing()["volume_steps"]
    assert (volume_steps["judged"]["report"]["verdict"], volume_steps["by_volts"]["volume"]) == ("found", 27)
    assert "the clean maximum is 27" in volume_steps["next_step"]
    mark = {"id": str(uuid4()), "step": "ceiling.source.line", "basis": "judged", "volume": 27, "sheet_version": 1}
    client.post(f"/api/jobs/{job['id']}/marks", json=mark | {"taken_at": "2026-05-02T11:00:00Z"})
    clean_maximum = standing()["clean_maximum"]
    assert (clean_maximum["basis"], clean_maximum["volume"]) == ("judged", 27)
    assert "27" in client.get(f"/api/jobs/{job['id']}/result").json()["top_volumes"][0]["sentence"]


def test_a_recorded_sweep_gives_the_readings_of_a_proof_once(
    client: TestClient, job: Body, a_reading: Any, a_mark: Any
) -> None:
    base = f"/api/jobs/{job['id']}"
    client.post(f"{base}/readings", json=a_reading(volume=31, volts=3.8))
    client.post(f"{base}/marks", json=a_mark("ceiling.source.line", basis="marked", volume=31))
    client.post(f"{base}/readings", json=a_reading("gain.front", 31, 15.4, seen="unseen"))
    sweep = swept(15.4, full_scale_v=40)
    used = {"step": "prove.front", "sheet_version": 1, "taken_at": TAKEN}
    bare = send(client, job, sweep, name="bare.wav").json()
    refused = client.post(f"{base}/captures/{bare['id']}/readings", json=used)
    assert refused.status_code == 422
    assert "full scale" in refused.json()["detail"]
    kept = send(client, job, sweep, name="sweep.wav", full_scale_v=40).json()
    taken = client.post(f"{base}/captures/{kept['id']}/readings", json=used).json()
    assert {one["evidence"] for one in taken} == {"capture"}
    assert next(one for one in taken if one["circumstances"]["row"] == "at-1000")["value"] == pytest.approx(15.4, 0.02)
    assert client.post(f"{base}/captures/{kept['id']}/readings", json=used).json() == taken
    run = client.get(f"{base}/run").json()["run"]
    assert next(state for state in run["states"] if state["step"] == "prove.front")["state"] == "done"
    wrong = client.post(f"{base}/captures/{kept['id']}/readings", json=used | {"step": "gain.front"})
    assert "isn’t answered by a recording" in wrong.json()["detail"]
