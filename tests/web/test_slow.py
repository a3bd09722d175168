"""Connections that say nothing, or stop in the middle, are let go and hold up nobody."""

import asyncio
from typing import Any, NamedTuple, cast

import pytest
import uvicorn
from starlette.types import Message

from tests.own_loop import run
from upper_rook.desk.auth.sessions import Passing
from upper_rook.web import guard, server, uploads
from upper_rook.web.fair_share import STREAMS, UPLOADS, FairShare, Refused
from upper_rook.web.problems import Busy


class Transport:
    """What is closed."""

    closed = False

    def close(self) -> None:
        self.closed = True


class Connection:
    """A connection as the server knows it: with a request at work, or without."""

    def __init__(self, cycle: object = None) -> None:
        self.cycle, self.transport = cycle, Transport()


def test_a_body_that_stops_coming_ends_as_one_that_broke_off(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(guard, "PATIENCE_S", 0.02)
    pieces: list[Message] = [{"type": "http.request", "body": b"a", "more_body": True}]

    async def receive() -> Message:
        if pieces:
            return pieces.pop()
        await asyncio.sleep(60)
        raise AssertionError("nobody waits as long")

    async def read() -> list[str]:
        in_time = guard._in_time(receive)
        return [(await in_time())["type"] for _ in range(2)]

    assert run(read()) == ["http.request", "http.disconnect"]


def test_a_body_that_drips_ends_as_one_that_broke_off(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(guard, "PATIENCE_S", 0.1)

    async def receive() -> Message:
        await asyncio.sleep(0.03)
        return {"type": "http.request", "body": b"a", "more_body": True}

    async def read() -> str:
        in_time = guard._in_time(receive)
        for _ in range(100):
            if (kind := (await in_time())["type"]) == "http.disconnect":
                return str(kind)
        return "still dripping"

    assert run(read()) == "http.disconnect"


def test_a_page_that_only_listens_is_waited_for(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(guard, "PATIENCE_S", 0.02)
    told: list[Message] = [{"type": "http.disconnect"}, {"type": "http.request", "body": b"", "more_body": False}]

    async def receive() -> Message:
        if len(told) == 1:
            await asyncio.sleep(0.1)
        return told.pop()

    async def read() -> list[str]:
        in_time = guard._in_time(receive)
        return [(await in_time())["type"] for _ in range(2)]

    assert run(read()) == ["http.request", "http.disconnect"]
    assert told == []


def test_only_a_connection_that_asks_for_nothing_is_closed(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(server, "SILENT_S", 0.05)
    monkeypatch.setattr(server, "_LOOK_EVERY_S", 0.02)
    silent, working = Connection(), Connection(cycle=object())

    async def watch() -> None:
        own = server.Server(uvicorn.Config(_nothing), lambda: None)
        own.server_state.connections = {silent, working}  # type: ignore[assignment]
        task = asyncio.create_task(own._close_silent())
        await asyncio.sleep(0.3)
        task.cancel()

    run(watch())
    assert silent.transport.closed
    assert not working.transport.closed


class Somebody(NamedTuple):
    """A person as the shares see one."""

    id: str


class Signed(NamedTuple):
    """Somebody who is signed in."""

    person: Somebody


def test_one_person_holds_so_many_places_and_leaves_the_others_theirs() -> None:
    share = FairShare(3, 2, Refused("all", "own"))
    passing, other = cast("Passing", Signed(Somebody("one"))), cast("Passing", Signed(Somebody("other")))
    with share.taken(passing), share.taken(passing):
        with pytest.raises(Busy, match="own"):
            share.check(passing)
        with share.taken(other), pytest.raises(Busy, match="all"):
            share.check(None)
        # What another gave back is still not this one's.
        with pytest.raises(Busy, match="own"):
            share.check(passing)
    share.check(passing)


def test_more_streams_than_the_app_carries_are_refused_with_a_word(
    client: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    job = client.post("/api/jobs", json={"id": "00000000-0000-4000-8000-00000000beef"}).json()["id"]
    monkeypatch.setattr(STREAMS, "_most", 0)
    answer = client.get("/api/live", params={"watch": job})
    assert (answer.status_code, answer.json()["detail"]) == (503, "Too many pages are open on this server: close some.")


def test_a_file_that_drips_is_told_so_and_gives_its_place_back(client: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    job = client.post("/api/jobs", json={"id": "00000000-0000-4000-8000-00000000d1e5"}).json()["id"]
    monkeypatch.setattr(uploads, "GRACE_S", -1.0)
    monkeypatch.setattr(uploads, "LEAST_BYTES_S", 1e12)
    query = {"id": "00000000-0000-4000-8000-00000000d1e6", "name": "a.csv", "taken_at": "2026-05-02T10:00:00Z"}
    answer = client.post(f"/api/jobs/{job}/captures", params=query, content=b"volume,volts")
    assert (answer.status_code, "too slowly" in answer.json()["detail"]) == (408, True)
    assert not UPLOADS._taken


async def _nothing(*_: Any) -> None:
    """An application that is never asked."""
