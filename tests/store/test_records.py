"""Readings and marks, on the real server."""

from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime
from random import Random
from uuid import UUID, uuid4

import pytest
from sqlalchemy import Engine, text
from sqlmodel import Session

from tests.core.helpers import mark, reading, steps_of
from upper_rook.core.common.errors import Conflict, NotFound
from upper_rook.core.run.readings.records import Reading, latest_by_volume
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.desk.transaction import transaction
from upper_rook.store.jobs import create_job
from upper_rook.store.record_keeping import add_mark, add_reading, put_back, strike
from upper_rook.store.records import records_of, records_since


@pytest.fixture
def job_id(session: Session, sheet: JobSheet) -> UUID:
    """A new job."""
    with transaction(session):
        return create_job(session, uuid4(), sheet).id


def test_what_is_kept_comes_back_whole(session: Session, sheet: JobSheet, job_id: UUID) -> None:
    taken = reading(steps_of(sheet)["ceiling.source.line"], 20, 1.2345678901234)
    said = mark("safe", item="running", answer="left", note="no fuel")
    first = add_reading(session, job_id, taken).arrival
    second = add_mark(session, job_id, said).arrival
    assert first < second
    session.expire_all()
    assert records_of(session, job_id).readings == (taken.model_copy(update={"arrival": first}),)
    assert records_of(session, job_id).marks == (said.model_copy(update={"arrival": second}),)


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
    assert [reading.struck for reading in records_of(session, job_id).readings] == ["wrong pair"]
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
    with pytest.raises(Conflict, match="Another record"):
        add_mark(session, job_id, mark("safe", item="running", answer="done", id=taken.id))


def test_what_comes_later_is_newer_whatever_a_clock_says(session: Session, sheet: JobSheet, job_id: UUID) -> None:
    step = steps_of(sheet)["ceiling.source.line"]
    for volts, year in ((1.5, 2099), (1.6, 1999)):
        taken = reading(step, 20, volts).model_copy(update={"taken_at": datetime(year, 1, 1, tzinfo=UTC)})
        add_reading(session, job_id, taken)
    assert [reading.value for reading in records_of(session, job_id).readings] == [1.5, 1.6]
    assert latest_by_volume(list(records_of(session, job_id).readings))[20].value == 1.6


def test_what_one_device_sent_out_of_order_stands_in_its_own_sequence(
    session: Session, sheet: JobSheet, job_id: UUID
) -> None:
    step = steps_of(sheet)["ceiling.source.line"]
    tablet, phone = uuid4(), uuid4()

    def take(device: UUID, sequence: int, volts: float) -> None:
        add_reading(
            session, job_id, reading(step, 20, volts).model_copy(update={"device": device, "sequence": sequence})
        )

    take(tablet, 1, 1.0)
    take(tablet, 4, 4.0)
    take(phone, 1, 9.0)
    said = mark("safe", item="running", answer="done").model_copy(update={"device": tablet, "sequence": 2})
    placed = add_mark(session, job_id, said)
    take(tablet, 3, 3.0)
    session.expire_all()
    kept = records_of(session, job_id)
    # The tablet's own places are dealt out in its sequence; the phone keeps its place between them.
    assert [reading.value for reading in kept.readings] == [1.0, 9.0, 3.0, 4.0]
    (own,) = kept.marks
    assert own.arrival == placed.arrival
    before, after, *_ = kept.readings
    assert before.arrival < own.arrival < after.arrival


def test_what_was_struck_out_can_be_put_back_at_its_own_place(session: Session, sheet: JobSheet, job_id: UUID) -> None:
    step = steps_of(sheet)["ceiling.source.line"]
    first, second = (add_reading(session, job_id, reading(step, 20, volts)) for volts in (1.5, 1.6))
    strike(session, job_id, first.id, "undone")
    assert put_back(session, job_id, first.id).struck is None
    put_back(session, job_id, first.id)
    session.expire_all()
    assert [reading.id for reading in records_of(session, job_id).readings] == [first.id, second.id]
    with pytest.raises(NotFound):
        put_back(session, job_id, uuid4())


def test_a_record_of_a_job_that_is_not_there_is_told_so(session: Session, sheet: JobSheet) -> None:
    with pytest.raises(NotFound, match="no such job"):
        add_reading(session, uuid4(), reading(steps_of(sheet)["ceiling.source.line"], 20, 1.5))


def test_what_is_known_is_brought_up_to_what_is_there(session: Session, sheet: JobSheet, job_id: UUID) -> None:
    step = steps_of(sheet)["ceiling.source.line"]
    tablet = uuid4()

    def take(volts: float, sequence: int) -> UUID:
        taken = reading(step, 20, volts).model_copy(update={"device": tablet, "sequence": sequence})
        return add_reading(session, job_id, taken).id

    def known_is_all() -> None:
        nonlocal known
        session.expire_all()
        known = records_since(session, job_id, known)
        there = records_of(session, job_id)
        assert (known.readings, known.marks) == (there.readings, there.marks)

    known = records_of(session, job_id)
    first = take(1.0, 1)
    known_is_all()
    strike(session, job_id, first, "undone")
    take(3.0, 3)
    add_mark(session, job_id, mark("safe", item="running", answer="done"))
    known_is_all()
    put_back(session, job_id, first)
    known_is_all()
    # One that was overtaken on its way has the others numbered anew.
    take(2.0, 2)
    known_is_all()
    # One that came under a lower number than what is known, as two devices at once may.
    late = take(4.0, 4)
    session.execute(text("update reading set arrival = 0 where id = :id"), {"id": late})
    known_is_all()
    assert [reading.value for reading in known.readings] == [4.0, 1.0, 2.0, 3.0]


def test_readings_of_one_device_that_arrive_at_once_keep_its_sequence(engine: Engine, sheet: JobSheet) -> None:
    step, dice = steps_of(sheet)["ceiling.source.line"], Random(4)

    def send(job_id: UUID, other: Reading) -> None:
        with Session(engine) as own, transaction(own):
            add_reading(own, job_id, other)

    for _ in range(8):
        with Session(engine) as own, transaction(own):
            job_id = create_job(own, uuid4(), sheet).id
        tablet = uuid4()
        taken = [
            reading(step, 20, 1 + number / 100).model_copy(update={"device": tablet, "sequence": number})
            for number in range(1, 21)
        ]
        dice.shuffle(taken)
        with ThreadPoolExecutor(20) as pool:
            list(pool.map(lambda one, job=job_id: send(job, one), taken))
        with Session(engine) as own:
            assert [reading.sequence for reading in records_of(own, job_id).readings] == list(range(1, 21))
