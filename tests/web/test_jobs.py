"""Jobs and sheets through the API."""

from typing import Any
from uuid import uuid4

import pytest
from starlette.testclient import TestClient

Body = dict[str, Any]


def put(client: TestClient, job: Body, version: int, **fields: object) -> Any:
    sheet = job["sheet"] | fields
    return client.put(f"/api/jobs/{job['id']}/sheet", json={"base_version": version, "sheet": sheet})


def test_a_new_job_has_middling_parts_and_can_be_begun_twice(client: TestClient) -> None:
    body = {"id": str(uuid4()), "vehicle": "Plover", "note": "n"}
    first, second = (client.post("/api/jobs", json=body) for _ in range(2))
    assert (first.status_code, second.json()) == (201, first.json())
    assert first.json()["sheet"]["chain"]["sources"][0]["top_volume"] == 40


def test_two_tabs_the_second_is_shown_both(client: TestClient, job: Body) -> None:
    assert put(client, job, 1, note="from tab one").json()["version"] == 2
    refused = put(client, job, 1, note="from tab two")
    assert refused.status_code == 409
    problem = refused.json()
    assert problem["newest"]["sheet"]["note"] == "from tab one"
    assert problem["differs"] == [{"place": "note", "was": "from tab one", "now": "from tab two", "label": "Note"}]
    assert put(client, job, 2, note="from tab two").json()["version"] == 3
    notes = [one["changes"] for one in client.get(f"/api/jobs/{job['id']}/history").json()]
    assert [len(note) for note in notes] == [1, 1, 0]


def test_a_version_is_looked_at_and_gone_back_to(client: TestClient, job: Body) -> None:
    put(client, job, 1, note="first")
    put(client, job, 2, note="second")
    place = f"/api/jobs/{job['id']}/history"
    kept = client.get(f"{place}/2").json()
    assert (kept["version"], kept["sheet"]["note"]) == (2, "first")
    assert [(differ["was"], differ["now"]) for differ in kept["differs"]] == [("second", "first")]
    back = client.put(f"/api/jobs/{job['id']}/sheet", json={"base_version": 3, "sheet": kept["sheet"], "by": "Ada"})
    assert (back.json()["version"], back.json()["sheet"]["note"]) == (4, "first")
    assert client.get(f"{place}/9").status_code == 404
    assert client.get(f"{place}/0").status_code == 422


def test_a_job_begins_with_a_layout(client: TestClient) -> None:
    body = {"id": str(uuid4()), "vehicle": "Van", "layout": "front-rear-sub"}
    begun = client.post("/api/jobs", json=body).json()
    assert [path["name"] for path in begun["sheet"]["chain"]["paths"]] == ["Front", "Rear", "Sub"]
    assert begun["sheet"]["not_confirmed"]
    refused = client.post("/api/jobs", json={"id": str(uuid4()), "layout": "no-such"})
    assert (refused.status_code, refused.json()["field"]) == (422, "layout")


def test_a_job_with_an_unplanned_path_is_never_finished(client: TestClient, job: Body) -> None:
    chain = job["sheet"]["chain"]
    chain["loads"][0]["power_w"] = None
    version = put(client, job, 1, chain=chain).json()["version"]
    for step in client.get(f"/api/jobs/{job['id']}/run").json()["run"]["steps"]:
        mark = {"id": str(uuid4()), "step": step["key"], "skipped": True, "note": "later", "sheet_version": version}
        taken = mark | {"taken_at": "2026-05-01T09:00:00Z"}
        assert client.post(f"/api/jobs/{job['id']}/marks", json=taken).status_code == 201
    summary = next(other for other in client.get("/api/jobs").json()["jobs"] if other["id"] == job["id"])["summary"]
    assert set(summary["states"]) == {"skipped"}
    assert (summary["stands"], summary["current"]) == ("open", "Fill in Front")


def part(sheet: Body, place: str, value: object) -> Body:
    kind, field = place.split(".")
    sheet["chain"][kind][0][field] = value
    return sheet


@pytest.mark.parametrize(
    ("place", "value", "said"),
    [
        ("loads.impedance_ohm", 0, "at least 0.1"),
        ("loads.impedance_ohm", -4, "at least 0.1"),
        ("loads.impedance_ohm", 1e7, "at most 1000"),
        ("loads.power_w", "much", "number"),
        ("loads.count", 99, "at most 8"),
        ("sources.top_volume", 1e12, "at most 200"),
        ("sources.outputs", [{"id": "line", "rated": {"volts": 1e-9}}], "at least"),
        ("sources.name", "x" * 81, "at most 80 characters"),
        ("sources.name", "a\u0000b", "can’t be stored"),
        ("amplifiers.ratings", [{"power_w": 50, "load_ohm": 4}] * 9, "at most 8 entries"),
        ("amplifiers.gain_range", {"down_v": 0.2, "up_v": 6}, "fully down must be more"),
        ("paths.load", "nowhere", "names “nowhere”"),
    ],
)
def test_absurd_parts_get_a_word_at_their_field(
    client: TestClient, job: Body, place: str, value: object, said: str
) -> None:
    sheet = part(job["sheet"], place, value)
    answer = client.put(f"/api/jobs/{job['id']}/sheet", json={"base_version": 1, "sheet": sheet})
    assert answer.status_code == 422
    problem = answer.json()
    assert said in problem["detail"]
    assert problem["field"].startswith("sheet.chain")
    assert client.get(f"/api/jobs/{job['id']}").json()["version"] == 1


def test_text_beyond_its_limit_is_refused_whole(client: TestClient, job: Body) -> None:
    answer = put(client, job, 1, note="x" * 2001)
    assert "at most 2000" in answer.json()["detail"]


def test_marks_beside_letters_are_kept(client: TestClient, job: Body) -> None:
    note = "Ωμέγα 🚐 “quoted” \\ ' ; drop table job;--\nsecond line"
    assert put(client, job, 1, note=note).json()["sheet"]["note"] == note


def test_the_list_comes_by_page_and_says_what_it_cannot_do(client: TestClient) -> None:
    for number in range(3):
        client.post("/api/jobs", json={"id": str(uuid4()), "vehicle": f"Paged {number}"})
    first = client.get("/api/jobs", params={"search": "paged", "limit": 2}).json()
    assert (first["total"], [job["vehicle"] for job in first["jobs"]]) == (3, ["Paged 2", "Paged 1"])
    rest = client.get("/api/jobs", params={"search": "paged", "limit": 2, "after": first["after"]}).json()
    assert ([job["vehicle"] for job in rest["jobs"]], rest["after"]) == (["Paged 0"], None)
    for bad in ({"after": "x"}, {"limit": 0}, {"stands": "lost"}, {"shelf": "attic"}, {"search": "x" * 201}):
        assert client.get("/api/jobs", params=bad).status_code == 422
