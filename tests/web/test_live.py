"""The live channel, over a real socket."""

import json
import time
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
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
def listening(http: httpx2.Client, *watched: str) -> Iterator[Events]:
    with http.stream("GET", "/api/live", params={"watch": watched}, timeout=10) as answer:

        def events() -> Events:
            name = ""
            for line in answer.iter_lines():
                if line.startswith("event: "):
                    name = line[7:]
                elif line.startswith("data: "):
                    yield name, line[6:]

        yield events()


def changed(job_id: str, what: str) -> str:
    return json.dumps({"job": job_id, "what": what}, separators=(",", ":"))


def until(events: Events, wanted: Callable[[str, str], bool]) -> str:
    return next(data for name, data in events if wanted(name, data))


def test_another_windows_edit_arrives(http: httpx2.Client, server: Server, job_id: str) -> None:
    job = http.get(f"/api/jobs/{job_id}").json()
    with listening(http, job_id) as events:
        assert next(events) == ("beat", "hello")
        with httpx2.Client(base_url=server.url) as other:
            sheet = job["sheet"] | {"note": "from elsewhere"}
            other.put(f"/api/jobs/{job_id}/sheet", json={"base_version": 1, "sheet": sheet})
        assert until(events, lambda name, _: name == "changed") == changed(job_id, "sheet 2")


def test_an_idle_stream_says_that_it_is_there(http: httpx2.Client, job_id: str) -> None:
    with listening(http, job_id) as events:
        next(events)
        assert next(events) == ("beat", "still here")


def test_a_turned_knob_shows_on_the_meter(http: httpx2.Client, server: Server, job_id: str) -> None:
    state = http.get(f"/api/jobs/{job_id}/bench").json()["state"]
    with listening(http, f"{job_id}~ceiling.source.line") as events:
        before = json.loads(until(events, lambda name, _: name == "meter"))["shows"]["sample"]["value_v"]
        with httpx2.Client(base_url=server.url) as other:
            other.put(f"/api/jobs/{job_id}/bench", json=state | {"volume": state["volume"] + 6})
        started = time.monotonic()

        def has_it(name: str, data: str) -> bool:
            # A reading from before the turn differs by the meter's scatter.
            return name == "meter" and json.loads(data)["shows"]["sample"]["value_v"] > before * 1.5

        until(events, has_it)
        # Three updates a second: one of the next ones has it.
        assert time.monotonic() - started < 5


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
            assert until(events, lambda name, _: name == "changed") == changed(job_id, "sheet 2")
    finally:
        second.stop()


def test_a_job_that_is_not_there_is_silent_and_leaves_the_others_their_stream(
    http: httpx2.Client, server: Server, job_id: str
) -> None:
    job = http.get(f"/api/jobs/{job_id}").json()
    with listening(http, str(uuid4()), f"{uuid4()}~ceiling.source.line", job_id) as events:
        next(events)
        with httpx2.Client(base_url=server.url) as other:
            edit = {"base_version": 1, "sheet": job["sheet"] | {"note": "from elsewhere"}}
            other.put(f"/api/jobs/{job_id}/sheet", json=edit)
        assert until(events, lambda name, _: name == "changed") == changed(job_id, "sheet 2")


def test_three_hundred_pages_hold_no_connection_to_the_database(
    http: httpx2.Client, server: Server, job_id: str
) -> None:
    """The app has twenty connections; a stream that held one would leave none for anybody."""
    with ExitStack() as pages, httpx2.Client(base_url=server.url, limits=httpx2.Limits(max_connections=320)) as many:
        streams = [pages.enter_context(listening(many, job_id)) for _ in range(300)]
        assert all(next(stream) == ("beat", "hello") for stream in streams)
        assert http.get("/api/health", timeout=5).status_code == 200
        assert http.get(f"/api/jobs/{job_id}/run", timeout=5).status_code == 200


def test_one_stream_carries_what_several_pages_watch(http: httpx2.Client, server: Server, job_id: str) -> None:
    other_job = http.post("/api/jobs", json={"id": str(uuid4())}).json()
    with listening(http, job_id, other_job["id"], f"{job_id}~ceiling.source.line") as events:
        next(events)
        with httpx2.Client(base_url=server.url) as other:
            edit = {"base_version": 1, "sheet": other_job["sheet"] | {"note": "from elsewhere"}}
            other.put(f"/api/jobs/{other_job['id']}/sheet", json=edit)
        assert until(events, lambda name, _: name == "changed") == changed(other_job["id"], "sheet 2")
        shown = json.loads(until(events, lambda name, _: name == "meter"))
        assert (shown["job"], shown["step"]) == (job_id, "ceiling.source.line")


@pytest.mark.parametrize("watch", [["nonsense"], [], [str(uuid4())] * 61])
def test_a_stream_of_nonsense_is_refused(http: httpx2.Client, watch: list[str]) -> None:
    assert http.get("/api/live", params={"watch": watch}).status_code == 422
