"""Practice jobs, and somebody who is there for nothing else."""

from typing import Any
from uuid import uuid4

import pytest
from starlette.testclient import TestClient

from tests.web.people import invited
from upper_rook.core.common.roles import Role

Body = dict[str, Any]


def begun(client: TestClient, **more: object) -> Body:
    answer = client.post("/api/jobs", json={"id": str(uuid4()), "vehicle": "Petrel", **more})
    assert answer.status_code == 201, answer.text
    return dict(answer.json())


def listed(client: TestClient, **asked: object) -> set[str]:
    return {job["id"] for job in client.get("/api/jobs", params=asked).json()["jobs"]}  # type: ignore[arg-type]


def test_practice_is_listed_apart_and_stays_what_it_is(client: TestClient) -> None:
    real, practice = begun(client), begun(client, practice=True)
    assert practice["id"] in listed(client, practice=True) - listed(client, practice=False)
    assert real["id"] in listed(client, practice=False) - listed(client, practice=True)
    assert listed(client) >= {real["id"], practice["id"]}
    for job in (real, practice):
        turned = job["sheet"] | {"practice": not job["sheet"]["practice"]}
        answer = client.put(f"/api/jobs/{job['id']}/sheet", json={"base_version": 1, "sheet": turned})
        assert answer.status_code == 422
        assert "can’t become practice later" in answer.json()["detail"]
    copies = {"id": str(uuid4())}, {"id": str(uuid4()), "practice": False}
    made = [client.post(f"/api/jobs/{practice['id']}/copy", json=copy).json()["sheet"]["practice"] for copy in copies]
    assert made == [True, False]


def test_nobody_answers_for_practice_and_it_tells_the_library_nothing(client: TestClient) -> None:
    job = begun(client, practice=True)["id"]
    changes = client.get(f"/api/jobs/{job}/sign-offs").json()["changes"]
    answer = client.post(f"/api/jobs/{job}/sign-offs", json={"id": str(uuid4()), "changes": changes})
    assert answer.status_code == 409
    assert "Practice jobs can’t be signed off" in answer.json()["detail"]
    answer = client.post(f"/api/sources/{uuid4()}/from-job", json={"job_id": job, "source": "source"})
    assert answer.status_code == 422
    assert "no real unit" in answer.json()["detail"]


def test_practice_goes_along_in_files_and_archives(client: TestClient) -> None:
    job = begun(client, practice=True)["id"]
    file = client.get(f"/api/jobs/{job}/file").content
    again = client.post(f"/api/jobs/{uuid4()}/file", content=file).json()
    archive = client.get(f"/api/jobs/{job}/archive").content
    once_more = client.post(f"/api/archives?new_id={uuid4()}", content=archive).json()
    assert {job, again["id"], once_more["id"]} <= listed(client, practice=True)


def test_a_learner_sees_and_touches_practice_only(shut: TestClient) -> None:
    real = begun(shut, vehicle="Somebody’s own")["id"]
    given = shut.post(f"/api/jobs/{real}/copy", json={"id": str(uuid4()), "practice": True}).json()["id"]
    learner = invited(shut, Role.LEARNER, "Runa")
    paths = shut.app.openapi()["paths"]  # type: ignore[attr-defined]
    asked = 0
    for path, operations in paths.items():
        if not path.startswith("/api/jobs/{job_id}"):
            continue
        for method in operations:
            # The ways of writing an id that are understood are shut out alike.
            for written in (real, real.upper(), real.replace("-", ""), f"urn:uuid:{real}"):
                address = path.replace("{job_id}", written)
                for part in ("record_id", "offer_id", "capture_id", "photo_id", "version"):
                    address = address.replace(f"{{{part}}}", str(uuid4()))
                answer = learner.request(method, address, json={})
                assert answer.status_code == 403, (method, address, answer.status_code)
                asked += 1
            of_practice = path.replace("{job_id}", given).partition("/{")[0]
            signs = of_practice.endswith("/sign-offs") and method == "post"
            not_theirs = signs or of_practice.endswith("/customer")
            assert (learner.request(method, of_practice, json={}).status_code == 403) == not_theirs, (method, path)
    assert asked > 100
    assert learner.get(f"/api/jobs/{given}/run").status_code == 200
    for wanted in ({}, {"practice": False}, {"shelf": "archive", "practice": False}):
        assert real not in listed(learner, **wanted)
    assert listed(learner, practice=False) == {given}


@pytest.mark.parametrize("way", ["new", "copy", "file"])
def test_whatever_a_learner_begins_is_practice(shut: TestClient, way: str) -> None:
    learner = invited(shut, Role.LEARNER, f"Runa {way}")
    own = begun(learner, practice=False)
    assert own["sheet"]["practice"] is True
    if way == "copy":
        copy = {"id": str(uuid4()), "practice": False}
        own = learner.post(f"/api/jobs/{own['id']}/copy", json=copy).json()
    elif way == "file":
        file = own["sheet"] | {"practice": False}
        own = learner.post(f"/api/jobs/{uuid4()}/file", json=file).json()
    assert own["sheet"]["practice"] is True
    assert own["id"] in listed(learner)
    reading = {"id": str(uuid4()), "vehicle": "x", "source_sheet": str(uuid4())}
    assert learner.post("/api/jobs", json=reading).status_code == 403
    assert learner.post(f"/api/archives?new_id={uuid4()}", content=b"").status_code == 403
