"""Connections that say nothing, or stop in the middle, are let go and hold up nobody."""

import asyncio
from typing import Any

import pytest
import uvicorn
from starlette.types import Message

from tests.own_loop import run
from upper_rook.web import guard, server


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


def test_more_streams_than_the_app_carries_are_refused_with_a_word(client: Any) -> None:
    job = client.post("/api/jobs", json={"id": "00000000-0000-4000-8000-00000000beef"}).json()["id"]
    changes = client.app.state.changes
    before = changes.streams
    changes.streams = 10_000
    try:
        answer = client.get("/api/live", params={"watch": job})
    finally:
        changes.streams = before
    assert (answer.status_code, answer.json()["detail"]) == (503, "Too many pages are open on this server: close some.")


async def _nothing(*_: Any) -> None:
    """An application that is never asked."""
