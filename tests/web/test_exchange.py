"""Job files through the API, and a filter's corner from readings."""

import io
import json
import zipfile
from pathlib import Path
from typing import Any
from uuid import uuid4

import pytest
from starlette.testclient import TestClient

from upper_rook.formats.job_file import read_job, write_job

EXAMPLES = sorted((Path(__file__).parents[2] / "examples").glob("*.json"))
Body = dict[str, Any]


def opened(client: TestClient, text: bytes) -> Any:
    return client.post(f"/api/jobs/{uuid4()}/file", content=text, headers={"Content-Type": "application/json"})


@pytest.mark.parametrize("file", EXAMPLES, ids=lambda file: file.stem)
def test_an_example_makes_the_round_trip_and_loses_nothing(client: TestClient, file: Path) -> None:
    text = file.read_bytes()
    assert write_job(read_job(text)).encode() == text
    job = opened(client, text).json()
    back = client.get(f"/api/jobs/{job['id']}/file")
    assert back.content == text
    assert "attachment" in back.headers["content-disposition"]
    assert client.get(f"/api/jobs/{job['id']}/run").json()["run"]["plan"]["paths"]


def changed(**fields: object) -> bytes:
    return json.dumps(json.loads(EXAMPLES[0].read_text("utf-8")) | fields).encode()


@pytest.mark.parametrize(
    ("text", "said"),
    [
        (changed(format=5), "format 5"),
        (changed(colour="red"), "this version doesn’t know “colour”"),
        (b"not json", "Not a job file"),
        (b"[" * 3000, "Not a job file"),
        (b'{"chain": {"sources": 1e999}}', "Not a job file"),
        (b"\xff\xfe\0", "Not a job file"),
    ],
)
def test_a_file_that_is_not_understood_is_told(client: TestClient, text: bytes, said: str) -> None:
    refused = opened(client, text)
    assert refused.status_code == 422
    assert said in refused.json()["detail"]


def test_the_published_schema_knows_every_field(client: TestClient) -> None:
    schema = client.get("/api/job-file.schema.json").json()
    known = {"subject", "practice", "vehicle", "note", "chain", "choices", "format", "not_confirmed", "$schema"}
    assert known == set(schema["properties"])
    assert "additionalProperties" in schema


def test_layouts_are_offered(client: TestClient) -> None:
    layouts = client.get("/api/templates").json()
    assert {"front-rear-sub", "active-three", "strapped-sub", "converter"} <= {layout["key"] for layout in layouts}


def test_the_methods_are_offered_with_what_they_cost(client: TestClient) -> None:
    questions = client.get("/api/methods").json()
    assert {
        "top_volume",
        "tone",
        "meter",
        "gain",
        "extent",
        "source_tones",
        "load",
        "converter_output",
        "depth",
        "crossing",
        "blend",
    } == {question["field"] for question in questions}
    sheet = client.post("/api/jobs", json={"id": str(uuid4())}).json()["sheet"]
    for question in questions:
        values = [option["value"] for option in question["options"]]
        assert sheet["choices"][question["field"]] == question["default"]
        assert question["default"] in values


def test_a_sheet_of_an_earlier_format_is_saved_as_the_present_one(client: TestClient) -> None:
    old = json.loads((Path(__file__).parents[1] / "shared" / "sheet-format-1.json").read_text("utf-8"))
    job = client.post("/api/jobs", json={"id": str(uuid4())}).json()
    saved = client.put(f"/api/jobs/{job['id']}/sheet", json={"base_version": job["version"], "sheet": old, "by": ""})
    assert saved.status_code == 200
    assert saved.json()["sheet"]["format"] == 4
    assert saved.json()["sheet"]["vehicle"] == old["vehicle"]


def test_a_corner_from_two_readings(client: TestClient) -> None:
    # A second-order Butterworth high-pass at 80 Hz: −3.01 dB there, −12.30 dB at 40 Hz (REFERENCE).
    readings = [
        {"frequency_hz": 80, "open_v": 8, "filtered_v": 8 * 10 ** (-3.0103 / 20)},
        {"frequency_hz": 40, "open_v": 8, "filtered_v": 8 * 10 ** (-12.304 / 20)},
    ]
    found = client.post("/api/corner", json={"kind": "high", "readings": readings}).json()
    assert found["corner_hz"] == pytest.approx(80, rel=1e-3)
    assert found["order"] == 2
    refused = client.post("/api/corner", json={"kind": "high", "readings": readings[:1]})
    assert (refused.status_code, "second reading" in refused.json()["detail"]) == (422, True)


def test_the_tones_of_a_job_come_as_one_archive(client: TestClient, job: Body) -> None:
    answer = client.get(f"/api/jobs/{job['id']}/tones.zip")
    assert answer.status_code == 200
    with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
        names = archive.namelist()
    assert names[0] == "00-which-is-for-what.txt"
    assert names[-1].endswith("pink-noise.wav")
    assert client.get(f"/api/jobs/{uuid4()}/tones.zip").status_code == 404
