"""Fixtures for every test: a database of one's own on the real server, and sheets to work with."""

import os
import time
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager, suppress
from functools import cache
from uuid import uuid4

import psycopg
import pytest
from hypothesis import settings
from sqlalchemy import Engine
from sqlmodel import Session

from tests import quick_hashes
from tests.servers import Server
from upper_rook.core.system.chain import line_output_pair
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.store.database import make_engine, migrate

# Tests don't time; a busy machine must not fail them. The same code is always tried with the same examples, few of
# them unless it is `./rook test --deep`; `./rook test --hypothesis-profile search …` looks for others.
FEW = 30
settings.register_profile("same", deadline=None, derandomize=True, max_examples=FEW)
settings.register_profile("deep", deadline=None, derandomize=True, max_examples=300)
settings.register_profile("search", deadline=None, max_examples=1000, print_blob=True)
settings.load_profile("same")
quick_hashes.use()


def pytest_addoption(parser: pytest.Parser) -> None:
    """`--deep`."""
    parser.addoption("--deep", action="store_true", help="long searches in full, and the tests that are marked deep")


def pytest_configure(config: pytest.Config) -> None:
    """Searches are as long as they are wanted."""
    config.addinivalue_line("markers", "deep: takes long and finds little that quicker tests don't; run by --deep")
    if config.getoption("--deep"):
        settings.load_profile("deep")


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """Leaves out what is deep, unless that is wanted or named itself."""
    if config.getoption("--deep") or any("::" in argument for argument in config.args):
        return
    deep = [item for item in items if item.get_closest_marker("deep")]
    items[:] = [item for item in items if item not in deep]
    config.hook.pytest_deselected(items=deep)


def _server() -> str:
    url = os.environ.get("ROOK_TEST_DATABASE")
    if not url:
        pytest.exit("The tests need the database server: run them as ./rook test [pytest …].", 4)
    return url


def _drop(connection: psycopg.Connection, name: str) -> None:
    """Drops a database; the server's own vacuum may be in it for a moment, and isn't ours to send away."""
    for _ in range(50):
        with suppress(psycopg.errors.InsufficientPrivilege):
            connection.execute(f'drop database "{name}" with (force)')
            return
        time.sleep(0.2)
    raise AssertionError(f"{name} could not be dropped in ten seconds")


@contextmanager
def empty_database(template: str = "template1") -> Iterator[str]:
    """The URL of an empty database, or of a copy of `template`, dropped afterwards."""
    server = _server()
    name = f"rook_test_{uuid4().hex[:12]}"
    with _connected("postgres") as connection:
        connection.execute(f'create database "{name}" template "{template}"')
    yield server.rsplit("/", 1)[0] + "/" + name
    with _connected("postgres") as connection:
        _drop(connection, name)


@contextmanager
def migrated_database() -> Iterator[str]:
    """The URL of a database with today's tables and an id of its own: a copy, in a tenth of the time."""
    with empty_database(_template()) as url:
        with _connected(url.rsplit("/", 1)[1]) as connection:
            connection.execute("update installation set id = gen_random_uuid()")
        yield url


def _connected(name: str) -> psycopg.Connection:
    server = _server().replace("postgresql+psycopg://", "postgresql://")
    return psycopg.connect(server.rsplit("/", 1)[0] + "/" + name, autocommit=True)


_kept = ExitStack()


@cache
def _template() -> str:
    url = _kept.enter_context(empty_database())
    migrate(url)
    return url.rsplit("/", 1)[1]


def pytest_unconfigure() -> None:
    """Drops the template, where one was made."""
    _kept.close()


@pytest.fixture
def fresh_database() -> Iterator[str]:
    """An empty database for one test."""
    with empty_database() as url:
        yield url


@pytest.fixture(scope="session")
def database_url() -> Iterator[str]:
    """A migrated database, one for each test process."""
    with migrated_database() as url:
        yield url


@pytest.fixture(scope="session")
def server(database_url: str) -> Iterator[Server]:
    """The app as a process of its own, on that database."""
    server = Server(database_url).start()
    yield server
    server.stop()


@pytest.fixture(scope="session")
def engine(database_url: str) -> Iterator[Engine]:
    """An engine on it."""
    engine = make_engine(database_url)
    yield engine
    engine.dispose()


@pytest.fixture
def session(engine: Engine) -> Iterator[Session]:
    """A session on it."""
    with Session(engine) as session:
        yield session


@pytest.fixture
def sheet() -> JobSheet:
    """The sheet of a new job: 4 V source to 40, 75 W at 4 ohm, one 60 W speaker of 4 ohm on each channel."""
    return JobSheet(vehicle="Test van", chain=line_output_pair())
