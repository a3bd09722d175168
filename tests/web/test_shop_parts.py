"""The parts of the shop through the API: out of one job with what it measured, into the next, as files, in backups."""

from pathlib import Path
from typing import Any
from uuid import uuid4

import pytest
from starlette.testclient import TestClient

from tests.conftest import empty_database
from tests.web.people import invited
from upper_rook.core.common.roles import Role
from upper_rook.desk.backups import back_up, restore
from upper_rook.store.database import make_engine
from upper_rook.web.app import create_app
from upper_rook.web.settings import Settings

Body = dict[str, Any]


@pytest.fixture
def job(client: TestClient) -> Body:
    """A job with a named amplifier."""
    made = client.post("/api/jobs", json={"id": str(uuid4()), "vehicle": "Test van", "layout": "front"}).json()
    made["sheet"]["chain"]["amplifiers"][0]["name"] = "Brackwater Twin"
    edit = {"base_version": 1, "sheet": made["sheet"]}
    assert client.put(f"/api/jobs/{made['id']}/sheet", json=edit).status_code == 200
    return dict(client.get(f"/api/jobs/{made['id']}").json())


def measured(client: TestClient, job: Body, a_reading: Any, a_mark: Any, clips_v: float) -> None:
    """A gain that was set, and the volts at which its amplifier clips with load resistors."""
    place, version = f"/api/jobs/{job['id']}", {"sheet_version": job["version"]}
    client.post(f"{place}/readings", json=a_reading(volume=31, volts=3.8, **version))
    client.post(f"{place}/marks", json=a_mark("ceiling.source.line", basis="marked", volume=31) | version)
    step = next(step for step in client.get(f"{place}/run").json()["run"]["steps"] if step["key"] == "gain.front")
    builds = {"builds_on": step["builds_on"], **version}
    for volts, row in ((15.4, ""), (clips_v, "loaded")):
        around = step["wants"] | {"volume": 31} | ({"row": row, "hanging": "dummy"} if row else {})
        answer = client.post(
            f"{place}/readings", json=a_reading("gain.front", 31, volts, **builds) | {"circumstances": around}
        )
        assert answer.status_code == 201, answer.text


def test_what_one_job_measures_is_there_in_the_next(client: TestClient, job: Body, a_reading: Any, a_mark: Any) -> None:
    place = f"amplifiers.{job['sheet']['chain']['amplifiers'][0]['id']}"
    part = str(uuid4())
    of_job = {"job_id": job["id"], "place": place}
    assert client.post(f"/api/parts/{part}/from-job", json=of_job).json()["sheet"]["units"] == []
    nothing = client.post(f"/api/parts/{part}/from-job", json=of_job)
    assert (nothing.status_code, nothing.json()["detail"]) == (
        422,
        "Nothing of this part was measured in this job yet.",
    )
    measured(client, job, a_reading, a_mark, 16.0)
    kept = client.post(f"/api/parts/{part}/from-job", json=of_job).json()
    assert [unit["name"] for unit in kept["sheet"]["units"]] == ["Test van"]
    (row,) = client.get(f"/api/parts/{part}").json()["report"]
    # 16² / 4 Ω = 64 W of 75 W stated.
    assert (row["kind"], row["usual"], row["stated"]) == ("loaded_watts", pytest.approx(64.0), 75.0)
    assert row["sentence"].startswith("64 W ± ")
    assert row["sentence"].endswith(", 15 % less than stated (75 W).")
    # Kept again it is the same unit.
    assert len(client.post(f"/api/parts/{part}/from-job", json=of_job).json()["sheet"]["units"]) == 1
    (listed,) = client.get("/api/parts", params={"search": "test van", "kind": "amplifier"}).json()["parts"]
    assert (listed["id"], listed["units"]) == (part, 1)

    other = client.post("/api/jobs", json={"id": str(uuid4()), "vehicle": "Other", "layout": "front"}).json()["sheet"]
    into = client.post(f"/api/parts/{part}/into-job", json={"sheet": other, "place": place}).json()
    assert into["chain"]["amplifiers"][0]["name"] == "Brackwater Twin"
    assert {mark["place"].split(".")[0] for mark in into["not_confirmed"]} == {"sources", "loads"}
    wrong = client.post(f"/api/parts/{part}/into-job", json={"sheet": other, "place": "loads.front"})
    assert "no amplifier" in wrong.json()["detail"]


def test_a_part_goes_out_as_a_file_and_comes_back_the_same(client: TestClient, job: Body) -> None:
    part, again = str(uuid4()), str(uuid4())
    place = f"amplifiers.{job['sheet']['chain']['amplifiers'][0]['id']}"
    kept = client.post(f"/api/parts/{part}/from-job", json={"job_id": job["id"], "place": place}).json()
    file = client.get(f"/api/parts/{part}/file").content
    assert client.post(f"/api/parts/{again}/file", content=file).json()["sheet"] == kept["sheet"]
    assert client.post(f"/api/parts/{again}/file", content=file).status_code == 201
    for bad, word in (
        (b"{}", "exactly one"),
        (b"[]", "a list"),
        (file.replace(b'"power_w": 75.0', b'"power_w": -1'), "watts"),
    ):
        refused = client.post(f"/api/parts/{uuid4()}/file", content=bad)
        assert refused.status_code == 422
        assert word in refused.json()["detail"]


def test_parts_are_in_backups_and_shut_to_learners(client: TestClient, shut: TestClient, tmp_path: Path) -> None:
    part = str(uuid4())
    speakers = {"format": 1, "speakers": {"id": "part", "name": "Marram 130", "impedance_ohm": 4.0}}
    assert shut.post(f"/api/parts/{part}/file", json=speakers).status_code == 201
    learner = invited(shut, Role.LEARNER, "Learner of parts")
    assert learner.get("/api/parts").status_code == 403
    assert learner.get(f"/api/parts/{part}").status_code == 403
    url = shut.app.state.settings.database_url  # type: ignore[attr-defined]
    back_up(url, tmp_path / "backup.zip")
    with empty_database() as empty:
        restore(empty, tmp_path / "backup.zip", None)
        app = create_app(Settings(database_url=empty))
        with TestClient(app, base_url="http://localhost") as restored:
            assert restored.get(f"/api/parts/{part}").json()["kept"]["sheet"]["speakers"]["name"] == "Marram 130"
        make_engine(empty).dispose()
