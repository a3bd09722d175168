"""Behind a proxy: only the ones named, only what came over TLS; two processes behind Debian's nginx are one app."""

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from uuid import uuid4

import httpx2
import pytest
from starlette.testclient import TestClient

from tests.conftest import empty_database, migrated_database
from tests.nginx import two_behind_nginx
from tests.web.people import WORDS
from upper_rook.core.common.errors import BadInput
from upper_rook.web.app import create_app
from upper_rook.web.proxies import FromProxies
from upper_rook.web.settings import Settings
from upper_rook.web.unix_socket import listening_socket


@pytest.mark.parametrize(
    ("peer", "headers", "status"),
    [
        ("10.9.0.1", {"x-forwarded-proto": "https", "x-forwarded-for": "192.168.7.5"}, 401),
        # Whoever isn't the proxy may claim what they like.
        ("10.9.0.2", {"x-forwarded-proto": "https", "x-forwarded-for": "10.9.0.1"}, 403),
        ("testclient", {"x-forwarded-proto": "https"}, 403),
        # The proxy itself was asked in plain words, or doesn't say.
        ("10.9.0.1", {"x-forwarded-proto": "http"}, 403),
        ("10.9.0.1", {}, 403),
    ],
)
def test_only_a_named_proxy_asks_and_only_over_tls(peer: str, headers: dict[str, str], status: int) -> None:
    with migrated_database() as url:
        app = create_app(Settings(database_url=url, doors=True))
        with TestClient(app, base_url="http://localhost"):
            browser = TestClient(FromProxies(app, ("10.9.0.1",)), base_url="http://localhost", client=(peer, 5))
            assert browser.get("/api/jobs", headers=headers).status_code == status


def test_whom_it_comes_from_is_what_the_named_proxy_says() -> None:
    seen: list[Any] = []

    async def app(scope: Any, receive: Any, send: Any) -> None:
        seen.append((scope["client"][0], scope["scheme"]))
        await send({"type": "http.response.start", "status": 204, "headers": []})
        await send({"type": "http.response.body"})

    browser = TestClient(FromProxies(app, ("10.9.0.0/24",)), client=("10.9.0.1", 5))
    # What a client put there before the proxy did is not believed.
    chain = "203.0.113.7, 192.168.7.5, 10.9.0.3"
    browser.get("/", headers={"x-forwarded-for": chain, "x-forwarded-proto": "https"})
    assert seen == [("192.168.7.5", "https")]


def test_a_socket_that_a_killed_app_left_is_taken_over_and_no_other(tmp_path: Path) -> None:
    place = tmp_path / "app.sock"
    listening_socket(place).close()
    with listening_socket(place), pytest.raises(BadInput, match="Another app listens"):
        listening_socket(place)
    file = tmp_path / "notes"
    file.write_text("mine", "utf-8")
    with pytest.raises(BadInput, match="is a file already"):
        listening_socket(file)
    assert file.read_text("utf-8") == "mine"
    with pytest.raises(BadInput, match="make its folder first"):
        listening_socket(tmp_path / "nowhere" / "app.sock")
    with pytest.raises(BadInput, match="107 bytes"):
        listening_socket(tmp_path / ("x" * 120))


def test_on_a_socket_whom_it_comes_from_is_what_the_proxy_says_last() -> None:
    seen: list[Any] = []

    async def app(scope: Any, receive: Any, send: Any) -> None:
        seen.append((scope["client"][0], scope["scheme"]))
        await send({"type": "http.response.start", "status": 204, "headers": []})
        await send({"type": "http.response.body"})

    browser = TestClient(FromProxies(app, (), on_socket=True))
    browser.get("/", headers={"x-forwarded-for": "203.0.113.7, 192.168.7.5", "x-forwarded-proto": "https"})
    assert seen == [("192.168.7.5", "https")]
    assert browser.get("/").status_code == 403


def _events(stream: httpx2.Response) -> Iterator[str]:
    for line in stream.iter_lines():
        if line.startswith("data:"):
            yield line


def test_two_processes_behind_nginx_are_one_app(tmp_path: Path) -> None:
    with empty_database() as database, two_behind_nginx(tmp_path, database) as workshop, workshop.client() as client:
        # Others than its owner and its folder's group can't open the socket.
        assert workshop.socket.stat().st_mode & 0o777 == 0o660
        # Straight to a process, past the proxy, there is nothing.
        assert httpx2.get(f"http://localhost:{workshop.port}/api/jobs").status_code == 403
        body = {"link": workshop.link, "name": "Mara", "password": WORDS, "device": "laptop, bench"}
        assert client.post("/api/doors/come-in", json=body).status_code == 201
        # One session, whichever process answers.
        assert {client.get("/api/jobs").status_code for _ in range(6)} == {200}
        job = str(uuid4())
        assert client.post("/api/jobs", json={"id": job, "vehicle": "Dory"}).status_code == 201
        with client.stream("GET", f"/api/live?watch={job}") as stream:
            events = _events(stream)
            next(events)
            # Each of the two processes saves, and the one stream hears of both.
            for version in (1, 2):
                sheet = client.get(f"/api/jobs/{job}").json()["sheet"] | {"vehicle": f"Dory {version}"}
                edit = {"base_version": version, "sheet": sheet}
                assert client.put(f"/api/jobs/{job}/sheet", json=edit).status_code == 200
                heard = next(event for event in events if "sheet" in event)
                assert json.loads(heard.removeprefix("data:"))["what"] == f"sheet {version + 1}"
        holds = [client.put(f"/api/jobs/{job}/presence", json={"step": "safe"}).json() for _ in range(4)]
        assert all(held["present"][0]["holds"] for held in holds)
