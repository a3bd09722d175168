"""The library of sources over HTTP: files in and out, edits, what a job measured, and what is refused."""

import csv
import io
import json
from typing import Any
from uuid import uuid4
from xml.etree import ElementTree

import pytest
from fastapi.testclient import TestClient

from upper_rook.formats.source_file import read_source

Body = dict[str, Any]


def source(name: str = "Lanthorn R4", volts: float = 3.9, **changed: Any) -> Body:
    cell = {"output": "front", "clean": 31, "clean_v": volts, "clipped": 32, "way": "usb", "by": "=Ada"}
    return {
        "name": name,
        "top_volume": 40,
        "outputs": [{"id": "front", "name": "Front", "rated": {"volts": 4.0}}],
        "units": [{"id": "shelf", "name": "shelf", "cells": [cell]}],
    } | changed


def keep(client: TestClient, document: Body, status: int = 201) -> Body:
    answer = client.post(f"/api/sources/{uuid4()}/file", content=json.dumps(document))
    assert answer.status_code == status, answer.text
    return dict(answer.json())


def test_a_file_comes_in_once_and_goes_out_as_it_is(client: TestClient) -> None:
    key, document = uuid4(), source()
    document["units"][0]["cells"][0]["trim"] = "-3"
    first, again = (client.post(f"/api/sources/{key}/file", content=json.dumps(document)) for _ in range(2))
    assert first.json() == again.json()
    other = client.post(f"/api/sources/{key}/file", content=json.dumps(source("Another")))
    assert other.status_code == 409
    out = client.get(f"/api/sources/{key}/file")
    assert read_source(out.content).model_dump(mode="json") == first.json()["sheet"]
    assert out.headers["content-disposition"].endswith("Lanthorn%20R4.source.json")
    (row,) = csv.DictReader(io.StringIO(client.get(f"/api/sources/{key}/matrix").text))
    tag = client.get(f"/api/sources/{key}/tag")
    drawn = ElementTree.fromstring(tag.text)  # noqa: S314 our own
    assert [element.text for element in drawn.iter() if element.tag.endswith("text")] == [
        "Lanthorn R4",
        "Front",
        "3.9 V",
        "at 31, USB, 1 kHz, trim -3",
        "never pass 31 of 40",
    ]
    # A name that a spreadsheet would run is kept as text.
    assert (row["output"], row["clean"], row["clean_v"]) == ("Front", "31", "3.9")
    assert (row["by"], row["trim"]) == ("'=Ada", "-3")


def test_the_report_comes_with_it(client: TestClient) -> None:
    kept = keep(client, source())
    view = client.get(f"/api/sources/{kept['id']}").json()
    assert (view["report"]["governing"]["volume"], view["report"]["never_pass"]) == (31, [{"way": "usb", "volume": 31}])
    beside = client.get(f"/api/sources/{kept['id']}/beside/{keep(client, source(volts=3.0))['id']}").json()
    assert round(beside[0]["db"], 1) == -2.3


@pytest.mark.parametrize(
    ("changed", "field"),
    [
        ({"top_volume": 30}, "units.0.cells.0.clean"),
        ({"colour": "red"}, "colour"),
        ({"top_volume": "40"}, "top_volume"),
        ({"format": 2}, "format"),
    ],
)
def test_what_is_wrong_is_told_at_its_place(client: TestClient, changed: Body, field: str) -> None:
    problem = keep(client, source(**changed), 422)
    assert field in {problem["field"], *(one["field"] for one in problem.get("errors") or [])}, problem


def test_it_is_found_by_name_kind_and_volts(client: TestClient) -> None:
    name = f"Zephyr {uuid4().hex[:6]}"
    kept = keep(client, source(name, 2.5, kind="player"))

    def found(**asked: object) -> list[str]:
        page = client.get("/api/sources", params={"search": name, **asked}).json()
        return [source["id"] for source in page["sources"]]

    assert found() == found(kind="player") == found(from_v=2.4, to_v=2.6) == [kept["id"]]
    assert found(kind="factory") == found(from_v=2.6) == found(to_v=2.4) == []
    client.put(f"/api/sources/{kept['id']}/deleted", json={"there": True})
    assert (found(), found(in_bin=True)) == ([], [kept["id"]])
    assert client.get("/api/sources", params={"after": "nonsense"}).status_code == 422


def test_an_edit_of_an_older_version_is_refused(client: TestClient) -> None:
    kept = keep(client, source())
    place = f"/api/sources/{kept['id']}"
    noted = kept["sheet"] | {"note": "shelf 2"}
    assert client.put(place, json={"base_version": 1, "sheet": noted}).json()["version"] == 2
    assert client.put(place, json={"base_version": 1, "sheet": noted | {"note": "shelf 3"}}).status_code == 409
    assert client.get(f"/api/sources/{uuid4()}").status_code == 404


def test_what_a_job_measured_is_another_unit(client: TestClient, job: Body) -> None:
    place = f"/api/jobs/{job['id']}"
    key = uuid4()
    measured = {"job_id": job["id"], "source": "source"}
    nothing = client.post(f"/api/sources/{key}/from-job", json=measured)
    assert (nothing.status_code, "find its clean maximum first" in nothing.json()["detail"]) == (404, True)
    common = {"step": "ceiling.source.line", "sheet_version": 1, "taken_at": "2026-05-03T09:00:00Z", "by": "Ada"}
    for number, volts, seen in ((29, 3.2, "clean"), (30, 3.6, "clean"), (31, 3.9, "clipped")):
        reading = common | {
            "id": str(uuid4()),
            "value": volts,
            "seen": seen,
            "instrument": "true-rms",
            "circumstances": {"volume": number},
        }
        assert client.post(f"{place}/readings", json=reading).status_code == 201
    mark = common | {"id": str(uuid4()), "basis": "marked", "volume": 30}
    assert client.post(f"{place}/marks", json=mark).status_code == 201
    first = client.post(f"/api/sources/{key}/from-job", json=measured).json()
    (cell,) = first["sheet"]["units"][0]["cells"]
    assert (cell["clean"], cell["clean_v"], cell["clipped"], cell["taken_on"]) == (30, 3.6, 31, "2026-05-03")
    assert [reading["volume"] for reading in cell["rungs"]] == [29, 30]
    # Measured again it takes its own place; a sheet with another scale refuses it.
    assert len(client.post(f"/api/sources/{key}/from-job", json=measured).json()["sheet"]["units"]) == 1
    odd = keep(client, source(top_volume=62))
    refused = client.post(f"/api/sources/{odd['id']}/from-job", json=measured)
    assert (refused.status_code, "scale ends at 40" in refused.json()["detail"]) == (422, True)
    beside = keep(client, source())
    joined = client.post(f"/api/sources/{beside['id']}/from-job", json=measured).json()
    assert [len(joined["sheet"][part]) for part in ("units", "outputs")] == [2, 2]


def test_a_job_takes_a_source_of_the_library_and_keeps_what_it_was_told(client: TestClient) -> None:
    kept = keep(client, source())
    body = {"id": str(uuid4()), "vehicle": "Dory", "layout": "front-rear", "source_sheet": kept["id"]}
    job = client.post("/api/jobs", json=body).json()
    (taken,) = job["sheet"]["chain"]["sources"]
    assert (taken["name"], taken["from_sheet"]["sheet"], taken["from_sheet"]["clean"][0]["clean"]) == (
        "Lanthorn R4",
        kept["id"],
        31,
    )
    # The layout's rear has no output of its own there; nobody has to confirm what the sheet says.
    assert [path["output"] for path in job["sheet"]["chain"]["paths"]] == ["front", "front"]
    assert not any(one["place"].startswith("sources.") for one in job["sheet"]["not_confirmed"])
    # What the sheet says later changes no job that was begun before.
    document = kept["sheet"] | {"units": []}
    client.put(f"/api/sources/{kept['id']}", json={"base_version": 1, "sheet": document})
    plan = client.get(f"/api/jobs/{job['id']}/run").json()["run"]["plan"]
    assert plan["sources"][0]["volume"] == 31
    again = client.post("/api/jobs", json=body)
    assert again.status_code in (201, 409)
    for wrong, status in (({"source_sheet": str(uuid4())}, 404), ({"unit": "no-such"}, 404)):
        answer = client.post("/api/jobs", json=body | {"id": str(uuid4())} | wrong)
        assert (answer.status_code, bool(answer.json()["detail"])) == (status, True)


def test_a_sheet_goes_into_a_job_that_is_there_without_being_saved(client: TestClient) -> None:
    kept = keep(client, source())
    job = client.post("/api/jobs", json={"id": str(uuid4())}).json()
    asked = {"sheet": job["sheet"], "source": "source"}
    made = client.post(f"/api/sources/{kept['id']}/into-job", json=asked).json()
    assert made["chain"]["sources"][0]["from_sheet"]["name"] == "Lanthorn R4"
    assert made["chain"]["paths"][0]["output"] == "front"
    assert client.get(f"/api/jobs/{job['id']}").json()["version"] == 1
    answer = client.post(f"/api/sources/{kept['id']}/into-job", json=asked | {"source": "other"})
    assert (answer.status_code, answer.json()["detail"]) == (
        404,
        "There is no such source in this job: reload the page.",
    )


def test_a_unit_is_measured_by_itself_and_joins_its_sheet(client: TestClient) -> None:
    kept = keep(client, source())
    body = {"id": str(uuid4()), "subject": "source", "vehicle": "Serial 12"}
    answer = client.post("/api/jobs", json=body)
    assert (answer.status_code, answer.json()["detail"]) == (
        422,
        "Choose the source in the library, or create it there.",
    )
    job = client.post("/api/jobs", json=body | {"source_sheet": kept["id"]}).json()
    assert job["sheet"]["chain"]["sources"][0]["from_sheet"] is None
    run = client.get(f"/api/jobs/{job['id']}/run").json()["run"]
    volume_steps = next(step for step in run["steps"] if step["kind"] == "volume_steps")
    reading = {
        "id": str(uuid4()),
        "step": volume_steps["key"],
        "value": 3.8,
        "instrument": "true-rms",
        "circumstances": {"volume": 30, "tone": volume_steps["wants"]["tone"], "way": volume_steps["wants"]["way"]},
        "seen": "clean",
        "sheet_version": 1,
        "taken_at": "2026-05-04T09:00:00Z",
    }
    at = f"/api/jobs/{job['id']}"
    answer = client.post(f"{at}/readings", json=reading)
    assert answer.status_code == 201, answer.text
    mark = {"id": str(uuid4()), "step": volume_steps["key"], "basis": "marked", "volume": 30, "sheet_version": 1}
    assert client.post(f"{at}/marks", json=mark | {"taken_at": "2026-05-04T09:01:00Z"}).status_code == 201
    # Nothing can be copied that wasn't seen to follow.
    right = next(step for step in run["steps"] if step["key"].endswith("right-side"))
    over = {"step": right["key"], "basis": "follows", "id": str(uuid4()), "taken_at": "2026-05-04T09:02:00Z"}
    answer = client.post(f"{at}/marks", json=mark | over)
    assert (answer.status_code, answer.json()["detail"]) == (
        422,
        "Nothing was seen to give 30 here as well: measure it.",
    )
    asked = {"job_id": job["id"], "source": "source"}
    sheet = client.post(f"/api/sources/{kept['id']}/from-job", json=asked).json()["sheet"]
    assert [unit["name"] for unit in sheet["units"]] == ["shelf", "Serial 12"]
    listed = client.get("/api/jobs", params={"search": "Serial"}).json()["jobs"]
    assert listed[0]["summary"]["alone"] == "Lanthorn R4"
