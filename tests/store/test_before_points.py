"""A database and job files of the version before readings had points: everything is as it was, but for its form."""

import copy
import gzip
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from uuid import UUID

import psycopg
import pytest
from alembic import command
from sqlalchemy import Engine
from sqlmodel import Session

from tests.conftest import empty_database
from upper_rook.core.run.readings.older_records import present_step
from upper_rook.core.run.steps.step import State
from upper_rook.core.system.job_sheet import FORMAT
from upper_rook.desk import runs
from upper_rook.formats.job_file import read_job, write_job
from upper_rook.store import captures, jobs
from upper_rook.store.database import make_engine, migrate, migration_config

BEFORE = Path(__file__).parents[1] / "shared" / "before-points"
JOBS: dict[str, dict[str, Any]] = json.loads((BEFORE / "jobs.json").read_text("utf-8"))
NAMES = {one["file"]["vehicle"] or key: key for key, one in JOBS.items()}


@pytest.fixture(scope="module")
def brought_up() -> Iterator[Engine]:
    """That database, brought up."""
    with empty_database() as url:
        command.upgrade(migration_config(url), "0002")
        dump = gzip.decompress((BEFORE / "store.sql.gz").read_bytes()).decode()
        with psycopg.connect(url.replace("postgresql+psycopg://", "postgresql://")) as connection:
            connection.execute(dump.encode())
        migrate(url)
        engine = make_engine(url)
        yield engine
        engine.dispose()


@pytest.fixture
def migrated(brought_up: Engine) -> Iterator[Session]:
    """A session of one test: the server ends one that stays in a transaction while others are at work."""
    with Session(brought_up) as session:
        yield session


@pytest.mark.parametrize("name", NAMES)
def test_every_state_reading_mark_and_capture_is_as_it_was(migrated: Session, name: str) -> None:
    job_id, before = UUID(NAMES[name]), JOBS[NAMES[name]]
    view = runs.run_view(migrated, job_id)
    chain = before["file"]["chain"]
    was = {present_step(step, chain): State(state) for step, state in before["states"].items()}
    now = {state.step: state.state for state in view.run.states}
    assert {step: now[step] for step in was} == was
    # Nobody has worked the steps that have come since.
    assert {state for step, state in now.items() if step not in was} <= {State.OPEN}
    told = [
        {
            "id": str(reading.id),
            "step": reading.step,
            "voltage_v": reading.value,
            "uncertainty_v": reading.uncertainty,
            "instrument": reading.instrument,
            "volume": reading.volume,
            "seen": reading.seen.value,
            "tone": reading.tone.model_dump(mode="json") if reading.tone else None,
            "sheet_version": reading.sheet_version,
            "taken_at": reading.model_dump(mode="json")["taken_at"],
            "by": reading.by,
            "struck": reading.struck,
        }
        for reading in view.readings
    ]
    assert told == [reading | {"step": present_step(reading["step"], chain)} for reading in before["readings"]]
    marks = [mark.model_dump(mode="json", exclude={"device", "sequence", "arrival"}) for mark in view.marks]
    assert marks == [mark | {"step": present_step(mark["step"], chain)} for mark in before["marks"]]
    clean_maxima = [state.clean_maximum for state in view.run.states if state.clean_maximum]
    assert [(clean_maximum.volume, clean_maximum.voltage_v, clean_maximum.basis) for clean_maximum in clean_maxima] == [
        (one["volume"], one["voltage_v"], one["basis"]) for one in (before["ceiling"],) if one
    ]
    kept = [list_capture.model_dump(mode="json") for list_capture in captures.list_captures(migrated, job_id)]
    assert [{name: one[name] for name in told} for one, told in zip(kept, before["captures"], strict=True)] == before[
        "captures"
    ]
    for capture in kept:
        assert captures.get_capture(migrated, job_id, UUID(capture["id"])).examination.channels or capture["kind"]


@pytest.mark.parametrize("name", NAMES)
def test_a_job_file_is_unchanged(migrated: Session, name: str) -> None:
    before = JOBS[NAMES[name]]["file"]
    after = json.loads(write_job(read_job(json.dumps(before).encode())))
    # Brought up to the present format: everything that was there is there as it was, and only defaults are new. The
    # routing switch has moved from the path to its amplifier.
    assert after["format"] == FORMAT
    moved = copy.deepcopy(before | {"format": FORMAT})
    stands = {path["amplifier"]: path.pop("routing", None) for path in moved["chain"]["paths"]}
    for amplifier in moved["chain"]["amplifiers"]:
        amplifier["routing"] = stands.get(amplifier["id"])
    assert _held(moved, after)
    assert jobs.get_job(migrated, UUID(NAMES[name])).sheet == read_job(json.dumps(before).encode())


def _held(before: object, after: object) -> bool:
    """Whether everything in a document is in another one, at its place."""
    if isinstance(before, dict) and isinstance(after, dict):
        return all(key in after and _held(value, after[key]) for key, value in before.items())
    if isinstance(before, list) and isinstance(after, list):
        return len(before) == len(after) and all(_held(*pair) for pair in zip(before, after, strict=True))
    return before == after


def test_a_step_key_that_was_cut_names_its_path_again(migrated: Session) -> None:
    view = runs.run_view(migrated, UUID(NAMES["Petrel box van"]))
    assert "gain.front-left-and-right-woofers-in-doors" in {reading.step for reading in view.readings}


def test_back_to_the_form_before_and_up_again_loses_no_reading() -> None:
    with empty_database() as url:
        command.upgrade(migration_config(url), "0002")
        plain = url.replace("postgresql+psycopg://", "postgresql://")
        with psycopg.connect(plain, autocommit=True) as connection:
            connection.execute(gzip.decompress((BEFORE / "store.sql.gz").read_bytes()))
            asked = "select id, step, voltage_v, uncertainty_v, volume, tone, taken_at, struck from reading order by id"
            before = connection.execute(asked).fetchall()
            migrate(url)
            command.downgrade(migration_config(url), "0002")
            assert connection.execute(asked).fetchall() == before
