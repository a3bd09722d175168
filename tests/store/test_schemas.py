"""
A database of every schema that there ever was, brought up: every row and byte is there, every job opens as before.

Each `tests/shared/schemas/NNNN.sql.xz` was filled by the version that wrote it, with its own demo (files over 60 kB are
left out); the document beside it says how many readings and which state of each step that version showed.
scripts/keep_schema.py makes them.
"""

import json
import lzma
from collections.abc import Iterator
from pathlib import Path
from typing import Any, NamedTuple
from uuid import UUID

import psycopg
import pytest
from alembic.script import ScriptDirectory
from sqlmodel import Session

from tests.conftest import empty_database
from upper_rook.core.run.readings.older_records import present_step
from upper_rook.core.run.steps.step import State
from upper_rook.desk import runs
from upper_rook.store.database import make_engine, migrate, migration_config

SCHEMAS = Path(__file__).parents[1] / "shared" / "schemas"
NOW_CALLED = {"voltage_v": "value", "uncertainty_v": "uncertainty"}
"""Columns that have another name since."""
# What migrations bring to another form on purpose; what it says is compared by the states of the steps.
REWRITTEN = {
    "reading": {"step", "point", "circumstances", "tone", "volume", "ways", "arrival", "extra"},
    "mark": {"step", "arrival"},
    "sheet": {"sheet", "changes"},
    "capture": {"examination", "arrival"},
    "job": {"words", "summary", "summed_up", "stands", "changes", "vehicle", "note"},
    "source_sheet": {"sheet", "words"},
}
STATES_NOW = {"stale": "outdated"}
Rows = dict[str, dict[str, dict[str, Any]]]


class Brought(NamedTuple):
    """A database before and after."""

    name: str
    url: str
    before: Rows
    after: Rows


def _rows(connection: psycopg.Connection) -> Rows:
    """Every row of every table by its key; a table without `id` by its whole text."""
    found: Rows = {}
    names = connection.execute("select tablename from pg_tables where schemaname = 'public'").fetchall()
    for (name,) in names:
        with connection.cursor(row_factory=psycopg.rows.dict_row) as cursor:
            rows = cursor.execute(f'select * from "{name}"').fetchall()  # noqa: S608 names of our own tables
        found[name] = {str(row.get("id", sorted(map(str, row.items())))): row for row in rows}
    return found


@pytest.fixture(scope="module", params=sorted(path.name[:4] for path in SCHEMAS.glob("*.sql.xz")))
def brought(request: pytest.FixtureRequest) -> Iterator[Brought]:
    """One of them."""
    with empty_database() as url:
        with psycopg.connect(url.replace("postgresql+psycopg://", "postgresql://")) as connection:
            connection.execute(lzma.decompress((SCHEMAS / f"{request.param}.sql.xz").read_bytes()))
            connection.commit()
            before = _rows(connection)
        migrate(url)
        with psycopg.connect(url.replace("postgresql+psycopg://", "postgresql://")) as connection:
            yield Brought(request.param, url, before, _rows(connection))


# Written by no version alone: another migration came in the same change. 0002 has a test of its own (before-points).
NEVER_ALONE = {"0002", "0005", "0006", "0010"}


def test_every_schema_before_the_present_one_is_kept() -> None:
    every = sorted(script.revision for script in ScriptDirectory.from_config(migration_config("")).walk_revisions())
    kept = {path.name[:4] for path in SCHEMAS.glob("*.sql.xz")}
    assert set(every[:-1]) - NEVER_ALONE <= kept, "run scripts/keep_schema.py at the version before the migration"


def test_every_row_is_there_with_all_that_it_said(brought: Brought) -> None:
    kept = {name: rows for name, rows in brought.before.items() if name in REWRITTEN}
    assert sum(map(len, kept.values())) > 10
    for name, rows in kept.items():
        assert rows.keys() == brought.after[name].keys(), name
        for key, row in rows.items():
            now = brought.after[name][key]
            for column, value in row.items():
                if column in REWRITTEN[name]:
                    continue
                called = NOW_CALLED.get(column, column)
                assert now.get(called, value) == value, (name, key, column)


def test_every_byte_of_a_file_is_there(brought: Brought) -> None:
    if "capture_part" not in brought.before:
        assert brought.name < "0002"
        return
    was, now = (
        sorted((str(row["capture_id"]), bytes(row["data"])) for row in rows["capture_part"].values())
        for rows in (brought.before, brought.after)
    )
    assert was == now


def test_every_job_opens_with_its_steps_as_they_were(brought: Brought) -> None:
    told = json.loads((SCHEMAS / f"{brought.name}.json").read_text("utf-8"))
    engine = make_engine(brought.url)
    with Session(engine) as session:
        for job, before in told.items():
            view = runs.run_view(session, UUID(job))
            assert view.taken == before["readings"]
            chain = view.job.sheet.model_dump(mode="json")["chain"]
            was = {
                present_step(step, chain): State(STATES_NOW.get(state, state))
                for step, state in before["states"].items()
            }
            now = {state.step: state.state for state in view.run.states}
            assert {step: now.get(step) for step in was} == was, job
            # Nobody has worked the steps that have come since.
            assert {state for step, state in now.items() if step not in was} <= {State.OPEN}
    engine.dispose()
