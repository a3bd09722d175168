"""Browsers at the door of a workshop: of people, and on devices that were let in."""

from typing import Any

from sqlmodel import Session
from starlette.testclient import TestClient

from upper_rook.core.common.roles import Role

WORDS = "a few words of one’s own"


def store(client: TestClient) -> Session:
    made: Session = client.app.state.store()  # type: ignore[attr-defined]
    return made


def another(client: TestClient) -> TestClient:
    """Another browser at the same door."""
    return TestClient(client.app, base_url="https://localhost", raise_server_exceptions=False)


def come_in(client: TestClient, link: str, name: str, status: int = 201, words: str = WORDS) -> dict[str, Any]:
    body = {"link": link.partition("#")[2] or link, "name": name, "password": words, "device": "tablet, bay 2"}
    answer = client.post("/api/doors/come-in", json=body)
    assert answer.status_code == status, answer.text
    return dict(answer.json())


def invited(client: TestClient, role: Role, name: str) -> TestClient:
    """The browser of somebody new."""
    link = client.post("/api/people/invitations", json={"role": role}).json()["link"]
    browser = another(client)
    come_in(browser, link, name)
    return browser


def paired(client: TestClient, name: str = "phone, bay 1") -> TestClient:
    """Another browser, on a device that was let in by a code."""
    browser = another(client)
    link = client.post("/api/people/invitations", json={}).json()["link"]
    answer = browser.post("/api/doors/pair", json={"link": link.partition("#")[2], "device": name})
    assert answer.status_code == 201, answer.text
    return browser


def sign_in(browser: TestClient, name: str, words: str = WORDS) -> tuple[int, str]:
    answer = browser.post("/api/doors/sign-in", json={"name": name, "password": words})
    return answer.status_code, answer.json().get("detail", "")
