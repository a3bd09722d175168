"""Whose data a server holds, and that nothing meant for another gets in."""

from typing import Any
from uuid import uuid4

from starlette.testclient import TestClient


def test_health_says_whose_data_this_is_and_what_time_it_is(client: TestClient) -> None:
    first, second = (client.get("/api/health").json() for _ in range(2))
    assert first["installation"] == second["installation"]
    assert first["writes"] is True
    assert first["disk_free"] > 0
    assert first["now"] <= second["now"]


def test_what_is_meant_for_another_installation_is_refused_and_not_kept(
    client: TestClient, job: dict[str, Any], a_reading: Any
) -> None:
    body, place = a_reading(), f"/api/jobs/{job['id']}/readings"
    answer = client.post(place, json=body, headers={"rook-installation": str(uuid4())})
    assert answer.status_code == 421
    assert "another workshop" in answer.json()["detail"]
    assert client.get(place).json()["readings"] == []
    own = client.get("/api/health").json()["installation"]
    assert client.post(place, json=body, headers={"rook-installation": own}).status_code == 201


def test_readings_come_by_page_and_the_run_carries_only_the_newest(
    client: TestClient, job: dict[str, Any], a_reading: Any
) -> None:
    place = f"/api/jobs/{job['id']}"
    for number in range(45):
        assert client.post(f"{place}/readings", json=a_reading(volts=round(1 + number / 100, 2))).status_code == 201
    view = client.get(f"{place}/run").json()
    assert view["taken"] == 45
    assert [reading["value"] for reading in view["readings"]] == [round(1 + number / 100, 2) for number in range(5, 45)]
    found: list[float] = []
    page: dict[str, Any] = {"before": None}
    while True:
        more = {"before": page["before"]} if page["before"] else {}
        page = client.get(f"{place}/readings", params={"limit": 20} | more).json()
        found += [reading["value"] for reading in page["readings"]]
        if page["before"] is None:
            break
    assert found == [round(1 + number / 100, 2) for number in reversed(range(45))]
