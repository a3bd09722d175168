"""The live channel, over a real socket."""

import json
import time
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from typing import Any
from uuid import uuid4

import httpx2
import pytest

from tests.servers import Server


@pytest.fixture
def http(server: Server) -> Iterator[httpx2.Client]:
    """A client of the real server."""
    with httpx2.Client(base_url=server.url) as client:
        yield client


@pytest.fixture
def job_id(http: httpx2.Client) -> str:
    """A new job."""
    return str(http.post("/api/jobs", json={"id": str(uuid4())}).json()["id"])


Events = Iterator[tuple[str, str]]


@contextmanager
def listening(http: httpx2.Client, job_id: str, **params: Any) -> Iterator[Events]:
    with http.stream("GET", f"/api/jobs/{job_id}/live", params=params, timeout=10) as answer:

        def events() -> Events:
            name = ""
            for line in answer.iter_lines():
                if line.startswith("event: "):
                    name = line[7:]
                elif line.startswith("data: "):
                    yield name, line[6:]

        yield events()


def until(events: Events, wanted: Callable[[str, str], bool]) -> str:
    return next(data for name, data in events if wanted(name, data))


def test_another_windows_edit_arrives(http: httpx2.Client, server: Server, job_id: str) -> None:
    job = http.get(f"/api/jobs/{job_id}").json()
    with listening(http, job_id) as events:
        assert next(events) == ("beat", "hello")
        with httpx2.Client(base_url=server.url) as other:
            sheet = job["sheet"] | {"note": "from elsewhere"}
            other.put(f"/api/jobs/{job_id}/sheet", json={"base_version": 1, "sheet": sheet})
        assert until(events, lambda name, _: name == "changed") == "sheet 2"


def test_an_idle_stream_says_that_it_is_there(http: httpx2.Client, job_id: str) -> None:
    with listening(http, job_id) as events:
        next(events)
        assert next(events) == ("beat", "still here")


def test_a_turned_knob_shows_on_the_meter(http: httpx2.Client, server: Server, job_id: str) -> None:
    state = http.get(f"/api/jobs/{job_id}/bench").json()["state"]
    with listening(http, job_id, meter=True, step="ceiling.source.line") as events:
        before = json.loads(until(events, lambda name, _: name == "meter"))["sample"]["value_v"]
        with httpx2.Client(base_url=server.url) as other:
            other.put(f"/api/jobs/{job_id}/bench", json=state | {"volume": state["volume"] + 6})
        started = time.monotonic()
        after = json.loads(until(events, lambda name, data: name == "meter" and f'"value_v":{before}' not in data))
        # Three updates a second: the next one or the one after has it.
        assert time.monotonic() - started < 2
        assert after["sample"]["value_v"] > before * 1.5


def test_a_second_process_on_the_same_database_shows_it_too(
    http: httpx2.Client, database_url: str, job_id: str
) -> None:
    second = Server(database_url).start()
    try:
        with httpx2.Client(base_url=second.url) as other, listening(other, job_id) as events:
            next(events)
            job = http.get(f"/api/jobs/{job_id}").json()
            sheet = job["sheet"] | {"note": "from the first"}
            http.put(f"/api/jobs/{job_id}/sheet", json={"base_version": 1, "sheet": sheet})
            assert until(events, lambda name, _: name == "changed") == "sheet 2"
    finally:
        second.stop()


def test_a_job_that_is_not_there_has_no_stream(http: httpx2.Client) -> None:
    assert http.get(f"/api/jobs/{uuid4()}/live").status_code == 404


def test_sixty_open_pages_hold_no_connection_to_the_database(http: httpx2.Client, server: Server, job_id: str) -> None:
    """The app has twenty connections; a stream that held one would leave none for anybody."""
    with ExitStack() as pages, httpx2.Client(base_url=server.url, limits=httpx2.Limits(max_connections=70)) as many:
        streams = [pages.enter_context(listening(many, job_id)) for _ in range(60)]
        assert all(next(stream) == ("beat", "hello") for stream in streams)
        assert http.get("/api/health", timeout=5).status_code == 200
        assert http.get(f"/api/jobs/{job_id}/run", timeout=5).status_code == 200
