"""A visit through the API: begun, checked, side by side with the work before it, and whole in an archive."""

from typing import Any
from uuid import uuid4

from starlette.testclient import TestClient

from tests.web.test_handovers import measured

Body = dict[str, Any]
SINCE = "2026-05-09T10:00:00Z"


def run_of(client: TestClient, job: str) -> Body:
    return dict(client.get(f"/api/jobs/{job}/run").json()["run"])


def kept(client: TestClient, job: str, kind: str, **body: Any) -> Body:
    sent = {"id": str(uuid4()), "sheet_version": 1, "taken_at": SINCE, "by": "Wren", **body}
    answer = client.post(f"/api/jobs/{job}/{kind}", json=sent)
    assert answer.status_code == 201, answer.text
    return dict(answer.json())


def with_gain(client: TestClient) -> str:
    """A job whose gain was set to its target."""
    job = str(measured(client, "front", "Dunlin, day van")["id"])
    gain = next(step for step in run_of(client, job)["steps"] if step["kind"] == "gain")
    at = {"step": gain["key"], "circumstances": gain["wants"], "instrument": "true-rms"}
    kept(client, job, "readings", value=gain["target"]["value"], seen="clean", evidence="eye", **at)
    return job


def back(client: TestClient, job: str, note: str = "") -> None:
    kept(client, job, "marks", step="check", item="back", answer="done", note=note)


def read_again(client: TestClient, job: str, part: float) -> Body:
    """Every required reading of the check at such a part of what it was; the check's state."""
    step = next(step for step in run_of(client, job)["steps"] if step["kind"] == "check")
    for row in (row for row in step["rows"] if not row["optional"]):
        now = row["wants"] | {"row": row["key"]}
        value = part * row["target"]["value"]
        kept(client, job, "readings", step="check", value=value, circumstances=now, instrument="true-rms")
    return dict(next(state for state in run_of(client, job)["states"] if state["step"] == "check"))


def test_a_visit_needs_something_that_was_measured(client: TestClient) -> None:
    job = client.post("/api/jobs", json={"id": str(uuid4()), "layout": "front"}).json()
    body = {"id": str(uuid4()), "step": "check", "item": "back", "answer": "done"}
    answer = client.post(f"/api/jobs/{job['id']}/marks", json=body | {"sheet_version": 1, "taken_at": SINCE})
    assert answer.status_code == 422
    assert "Nothing was measured yet" in answer.json()["detail"]
    # Nor is “doesn’t apply” a beginning.
    job = with_gain(client)
    left = body | {"id": str(uuid4()), "answer": "absent", "sheet_version": 1, "taken_at": SINCE}
    assert client.post(f"/api/jobs/{job}/marks", json=left).status_code == 422
    assert len(client.get(f"/api/jobs/{job}/chapters").json()) == 1


def test_a_gain_that_moved_is_found_redone_and_stands_beside_what_it_was(client: TestClient) -> None:
    job = with_gain(client)
    was = client.get(f"/api/jobs/{job}/chapters").json()
    assert [one["number"] for one in was] == [0]
    back(client, job, "quieter than before")
    state = read_again(client, job, 0.8)
    assert state["checked"]["missed"] >= 1
    assert "1.9 dB less" in state["sentence"]
    run = run_of(client, job)
    assert next(state for state in run["states"] if state["step"] == "gain.front")["state"] == "outdated"
    # Set again, it stands; the visit keeps what it found.
    gain = next(step for step in run["steps"] if step["key"] == "gain.front")
    at = {"step": gain["key"], "circumstances": gain["wants"], "instrument": "true-rms"}
    kept(client, job, "readings", value=1.01 * gain["target"]["value"], seen="clean", evidence="eye", **at)
    assert next(state for state in run_of(client, job)["states"] if state["step"] == "gain.front")["state"] == "done"
    first, visit = client.get(f"/api/jobs/{job}/chapters").json()
    assert (first["number"], visit["number"], visit["note"], visit["by"]) == (0, 1, "quieter than before", "Wren")
    assert "1.9 dB less" in visit["check"]
    assert first["outputs"] == was[0]["outputs"]
    assert visit["outputs"][0]["voltage_v"] > first["outputs"][0]["voltage_v"]


def test_a_visit_is_whole_in_an_archive(client: TestClient) -> None:
    job = with_gain(client)
    back(client, job, "quieter")
    read_again(client, job, 0.8)
    archive = client.get(f"/api/jobs/{job}/archive").content
    before = client.get(f"/api/jobs/{job}/chapters").json()
    again = client.post("/api/archives", params={"new_id": str(uuid4())}, content=archive)
    assert again.status_code == 201, again.text
    assert client.get(f"/api/jobs/{again.json()['id']}/chapters").json() == before


def test_a_beginning_that_was_struck_out_is_no_visit(client: TestClient) -> None:
    job = with_gain(client)
    body = {"step": "check", "item": "back", "answer": "done"}
    mark = kept(client, job, "marks", **body)
    client.post(f"/api/jobs/{job}/records/{mark['id']}/strike", json={"reason": "the wrong van"})
    assert not [step for step in run_of(client, job)["steps"] if step["kind"] == "check"]
    assert len(client.get(f"/api/jobs/{job}/chapters").json()) == 1
