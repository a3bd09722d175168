"""The application in this process, on the real database."""

import warnings
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from typing import Any
from uuid import uuid4

import pytest

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    from starlette.testclient import TestClient

from tests.conftest import migrated_database
from tests.web.people import come_in
from upper_rook.desk.auth.links import first_link
from upper_rook.web.app import create_app
from upper_rook.web.settings import Settings


@pytest.fixture(scope="session")
def client(database_url: str) -> Iterator[TestClient]:
    """A client of the running application."""
    app = create_app(Settings(database_url=database_url))
    with TestClient(app, base_url="http://localhost", raise_server_exceptions=False) as client:
        yield client


@pytest.fixture
def job(client: TestClient) -> dict[str, Any]:
    """A new job, as answered."""
    return client.post("/api/jobs", json={"id": str(uuid4()), "vehicle": "Test van"}).json()


@pytest.fixture
def a_reading() -> Callable[..., dict[str, Any]]:
    """Makes the body of a reading."""

    def make(step: str = "ceiling.source.line", volume: int = 20, volts: float = 1.5, **more: Any) -> dict[str, Any]:
        return {
            "id": str(uuid4()),
            "step": step,
            "value": volts,
            "instrument": "true-rms",
            "circumstances": {"volume": volume},
            "seen": "clean",
            "sheet_version": 1,
            "taken_at": datetime.now(UTC).isoformat(),
        } | more

    return make


@pytest.fixture
def a_mark() -> Callable[..., dict[str, Any]]:
    """Makes the body of a mark."""

    def make(step: str, **said: Any) -> dict[str, Any]:
        return {
            "id": str(uuid4()),
            "step": step,
            "sheet_version": 1,
            "taken_at": datetime.now(UTC).isoformat(),
        } | said

    return make


@pytest.fixture(scope="module")
def shut() -> Iterator[TestClient]:
    """An app with doors, and its owner's browser."""
    with migrated_database() as url:
        app = create_app(Settings(database_url=url, doors=True))
        with TestClient(app, base_url="https://localhost", raise_server_exceptions=False) as client:
            with app.state.store() as session:
                link = first_link(session)
            come_in(client, link or "", "Mara")
            yield client
