"""Readings and marks, on the real server."""

from concurrent.futures import ThreadPoolExecutor
from uuid import UUID, uuid4

import pytest
from sqlalchemy import Engine
from sqlmodel import Session

from tests.core.helpers import mark, reading, steps_of
from upper_rook.core.common.errors import Conflict, NotFound
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.desk.transaction import transaction
from upper_rook.store.jobs import create_job
from upper_rook.store.records import add_mark, add_reading, records_of, strike


@pytest.fixture
def job_id(session: Session, sheet: JobSheet) -> UUID:
    """A new job."""
    with transaction(session):
        return create_job(session, uuid4(), sheet).id


def test_what_is_kept_comes_back_whole(session: Session, sheet: JobSheet, job_id: UUID) -> None:
    taken = reading(steps_of(sheet)["ceiling.source.line"], 20, 1.2345678901234)
    said = mark("safe", item="running", answer="left", note="no fuel")
    add_reading(session, job_id, taken)
    add_mark(session, job_id, said)
    session.expire_all()
    assert records_of(session, job_id).readings == (taken,)
    assert records_of(session, job_id).marks == (said,)


def test_the_same_reading_at_the_same_time_is_kept_once(engine: Engine, sheet: JobSheet, job_id: UUID) -> None:
    taken = reading(steps_of(sheet)["ceiling.source.line"], 20, 1.5)

    def send(_: int) -> UUID:
        with Session(engine) as own, transaction(own):
            return add_reading(own, job_id, taken).id

    with ThreadPoolExecutor(8) as pool:
        assert set(pool.map(send, range(16))) == {taken.id}
    with Session(engine) as session:
        assert len(records_of(session, job_id).readings) == 1


def test_another_reading_under_a_used_id_is_refused(session: Session, sheet: JobSheet, job_id: UUID) -> None:
    taken = reading(steps_of(sheet)["ceiling.source.line"], 20, 1.5)
    add_reading(session, job_id, taken)
    with pytest.raises(Conflict):
        add_reading(session, job_id, taken.model_copy(update={"value": 1.6}))
    other = create_job(session, uuid4(), sheet).id
    with pytest.raises(Conflict):
        add_reading(session, other, taken)


def test_striking_keeps_the_record_and_its_first_reason(session: Session, sheet: JobSheet, job_id: UUID) -> None:
    taken = reading(steps_of(sheet)["ceiling.source.line"], 20, 1.5)
    add_reading(session, job_id, taken)
    strike(session, job_id, taken.id, "wrong pair")
    strike(session, job_id, taken.id, "again")
    assert [one.struck for one in records_of(session, job_id).readings] == ["wrong pair"]
    # Sent once more by a device that had not heard: still the struck one.
    assert add_reading(session, job_id, taken).struck == "wrong pair"


def test_striking_what_belongs_to_another_job_is_refused(session: Session, sheet: JobSheet, job_id: UUID) -> None:
    said = mark("safe", item="running", answer="done")
    add_mark(session, job_id, said)
    with pytest.raises(NotFound):
        strike(session, create_job(session, uuid4(), sheet).id, said.id, "not mine")
    with pytest.raises(NotFound):
        strike(session, job_id, uuid4(), "nothing there")


def test_one_id_is_a_reading_or_a_mark_never_both(session: Session, sheet: JobSheet, job_id: UUID) -> None:
    taken = reading(steps_of(sheet)["ceiling.source.line"], 20, 1.5)
    add_reading(session, job_id, taken)
    with pytest.raises(Conflict, match="another kind"):
        add_mark(session, job_id, mark("safe", item="running", answer="done", id=taken.id))
