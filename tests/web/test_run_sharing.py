"""One run on several devices: one holds it, the others follow, offer and ask."""

from collections.abc import Callable
from typing import Any
from uuid import uuid4

import pytest
from sqlalchemy import text
from starlette.testclient import TestClient

from tests.web.people import invited, paired, sign_in, store
from upper_rook.core.common.roles import Role

Body = dict[str, Any]


class Screen:
    """Somebody's device at a run."""

    def __init__(self, browser: TestClient, job: str) -> None:
        self.browser, self.at = browser, f"/api/jobs/{job}"
        self.device = browser.get("/api/doors").json()["device"]["id"]

    def sign(self, step: str = "safe", **more: bool) -> Body:
        answer = self.browser.put(f"{self.at}/presence", json={"step": step} | more)
        assert answer.status_code == 200, answer.text
        return dict(answer.json())

    def wish(self, wanted: str) -> int:
        return self.browser.post(f"{self.at}/holding", json={"wish": wanted}).status_code

    @property
    def holds(self) -> bool:
        return any(one["holds"] for one in self.sign()["present"] if one["device"] == self.device)

    def offer(self, reading: Body) -> int:
        return self.browser.post(f"{self.at}/offers", json=reading).status_code


@pytest.fixture
def screens(shut: TestClient) -> tuple[Screen, Screen, Screen]:
    """Two who work and one who looks on, at one run."""
    job = str(uuid4())
    assert shut.post("/api/jobs", json={"id": job, "vehicle": "Dory"}).status_code == 201
    people = [invited(shut, role, f"{role} {job[:8]}") for role in (Role.FITTER, Role.APPRENTICE, Role.LOOKER_ON)]
    screen, other, looker = (Screen(each, job) for each in people)
    return screen, other, looker


def test_the_first_who_works_holds_it_and_hands_it_over(screens: tuple[Screen, Screen, Screen]) -> None:
    first, second, looker = screens
    # Whoever only looks on never holds it, though nobody else is there.
    assert not looker.holds
    assert first.holds
    told = second.sign("gain.front")
    assert [one["holds"] for one in told["present"] if one["device"] == second.device] == [False]
    assert {one["step"] for one in told["present"]} == {"safe", "gain.front"}
    assert not told["may_take"]
    assert (second.wish("hand_over"), second.wish("take")) == (409, 409)
    assert second.wish("ask") == 200
    assert [one["asks"] for one in first.sign()["present"] if one["device"] == second.device] == [True]
    assert first.wish("keep") == 200
    assert not any(one["asks"] for one in first.sign()["present"])
    second.wish("ask")
    assert first.wish("hand_over") == 200
    assert (first.holds, second.holds) == (False, True)
    # Where nobody asked it goes to another who works, never to who only looks on.
    assert looker.sign()["may_take"] is False
    assert second.wish("hand_over") == 200
    assert (first.holds, second.holds, looker.holds) == (True, False, False)
    second.sign(leaves=True)
    assert first.wish("hand_over") == 409
    assert first.holds
    assert looker.wish("ask") == 403


def test_who_answers_nothing_or_is_gone_loses_it(shut: TestClient, screens: tuple[Screen, Screen, Screen]) -> None:
    first, second, _ = screens
    assert first.holds
    second.sign()
    second.wish("ask")
    aged(shut, "asked_at", 16, first)
    assert second.sign()["may_take"]
    assert second.wish("take") == 200
    assert (first.holds, second.holds) == (False, True)
    aged(shut, "seen_at", 31, second)
    assert first.holds
    # It comes back as one who looks on.
    assert not second.holds
    first.sign(leaves=True)
    assert second.holds


def test_a_page_that_only_shows_the_run_takes_nothing_from_its_device(screens: tuple[Screen, Screen, Screen]) -> None:
    first, second, _ = screens
    # Alone it doesn't hold it either.
    assert [one["works"] for one in second.sign(looks_on=True)["present"]] == [False]
    assert first.holds
    # Beside the work of the same device it changes nothing, also when it is shut.
    told = first.sign("seal", looks_on=True)
    assert [(one["step"], one["holds"]) for one in told["present"] if one["device"] == first.device] == [("safe", True)]
    first.sign(leaves=True, looks_on=True)
    assert [one["holds"] for one in second.sign(looks_on=True)["present"] if one["device"] == first.device] == [True]
    second.sign(leaves=True, looks_on=True)
    assert {one["device"] for one in first.sign()["present"]} == {first.device}


def test_ones_own_other_device_takes_it_at_once(shut: TestClient) -> None:
    job = str(uuid4())
    shut.post("/api/jobs", json={"id": job, "vehicle": "Dory"})
    other = paired(shut)
    assert sign_in(other, "Mara")[0] == 200
    tablet, phone = Screen(shut, job), Screen(other, job)
    assert tablet.holds
    assert phone.sign()["may_take"]
    assert phone.wish("take") == 200
    assert (tablet.holds, phone.holds) == (False, True)


def test_what_is_read_elsewhere_is_offered_and_taken_under_its_own_name(
    screens: tuple[Screen, Screen, Screen], a_reading: Callable[..., Body]
) -> None:
    first, second, looker = screens
    assert first.holds
    second.sign()
    reading = a_reading(by="somebody else")
    assert looker.offer(reading) == 403
    assert (second.offer(reading), second.offer(reading)) == (201, 201)
    run = first.browser.get(f"{first.at}/run").json()
    assert run["readings"] == []
    offered = first.sign()["offers"]
    assert [one["reading"]["value"] for one in offered] == [1.5]
    taken = first.browser.post(f"{first.at}/offers/{reading['id']}/take")
    assert taken.status_code == 201
    assert taken.json()["by"] == second.browser.get("/api/doors").json()["person"]["name"]
    assert first.sign()["offers"] == []
    assert first.browser.post(f"{first.at}/offers/{reading['id']}/take").status_code == 404
    assert [reading["value"] for reading in first.browser.get(f"{first.at}/run").json()["readings"]] == [1.5]
    # Sent once more, because its answer got lost, it isn't offered once more.
    assert second.offer(reading) == 201
    assert first.sign()["offers"] == []
    other = a_reading(volts=1.6)
    second.offer(other)
    assert first.browser.delete(f"{first.at}/offers/{other['id']}").status_code == 204
    assert first.sign()["offers"] == []


def test_without_doors_there_is_one_device(client: TestClient, job: Body) -> None:
    answer = client.put(f"/api/jobs/{job['id']}/presence", json={"step": "safe"})
    assert answer.status_code == 401


def aged(shut: TestClient, column: str, seconds: int, of: Screen) -> None:
    """The signs at a run, put back."""
    with store(shut) as session:
        session.execute(
            text(f"update present set {column} = {column} - make_interval(secs => :s) where job_id = :job"),  # noqa: S608
            {"s": seconds, "job": of.at.rpartition("/")[2]},
        )
        session.commit()
