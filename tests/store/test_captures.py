"""Captures on the real server: kept with their files, once, and never mixed up."""

import hashlib
import io
import threading
from datetime import UTC, datetime
from uuid import UUID, uuid4

import pytest
from sqlalchemy import Engine, text
from sqlmodel import Session

from tests.core.waves import clipped, digitised, trace
from upper_rook.core.common.errors import Conflict, NotFound
from upper_rook.core.judge.examination import examine_wave
from upper_rook.core.run.readings.kept_captures import Capture, CaptureKind, headline
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.desk.transaction import transaction
from upper_rook.store import captures, jobs

EXAMINATION = examine_wave([trace(digitised(clipped(1.0)[0]))])


def capture(name: str = "one.csv", size: int = 10) -> Capture:
    return Capture(
        id=uuid4(),
        name=name,
        kind=CaptureKind.CSV,
        headline=headline(EXAMINATION),
        size=size,
        examination=EXAMINATION,
        taken_at=datetime.now(UTC),
    )


def digest(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


@pytest.fixture
def job(session: Session, sheet: JobSheet) -> UUID:
    with transaction(session):
        return jobs.create_job(session, uuid4(), sheet).id


def keep(session: Session, job: UUID, other: Capture, data: bytes) -> Capture:
    with transaction(session):
        return captures.add_capture(session, job, other, digest(data), io.BytesIO(data))


@pytest.mark.parametrize("size", [0, 1, captures.PART_BYTES - 1, captures.PART_BYTES, 2 * captures.PART_BYTES + 7])
def test_a_file_of_any_size_comes_back_byte_for_byte(session: Session, engine: Engine, job: UUID, size: int) -> None:
    data = bytes(range(256)) * (size // 256 + 1)
    one = capture(size=size)
    keep(session, job, one, data[:size])
    assert b"".join(captures.file_of(engine, one.id)) == data[:size]
    assert captures.get_capture(session, job, one.id) == one


def test_the_list_is_newest_first_and_without_the_weight(session: Session, job: UUID) -> None:
    first, second = capture("first.csv"), capture("second.csv")
    keep(session, job, first, b"1")
    keep(session, job, second, b"2")
    assert [list_capture.name for list_capture in captures.list_captures(session, job)] == ["second.csv", "first.csv"]
    assert not hasattr(captures.list_captures(session, job)[0], "examination")


def test_the_list_tells_the_same_file_and_the_worst_of_its_channels(session: Session, job: UUID) -> None:
    clean = examine_wave([trace(digitised(clipped(-1.0)[0]))])
    both = EXAMINATION.model_copy(update={"channels": (*EXAMINATION.channels, *clean.channels)})
    for name, data, came_to in (("a.csv", b"1", clean), ("b.csv", b"2", both), ("c.csv", b"1", clean)):
        one = capture(name)
        keep(session, job, one.model_copy(update={"examination": came_to}), data)
    listed = captures.list_captures(session, job)
    assert [(listed_capture.name, listed_capture.verdict, listed_capture.same_as) for listed_capture in listed] == [
        ("c.csv", "clean", "a.csv"),
        ("b.csv", "clipped", None),
        ("a.csv", "clean", None),
    ]
    last = captures.rename_capture(session, job, listed[0].id, "again")
    assert (last.name, captures.same_file(session, last)) == ("again", "a.csv")


def test_the_same_name_for_another_file_is_a_conflict(session: Session, job: UUID) -> None:
    one = capture()
    keep(session, job, one, b"this")
    assert captures.known_capture(session, job, one.id, digest(b"this")) == one
    with pytest.raises(Conflict, match="already saved"):
        captures.known_capture(session, job, one.id, digest(b"that"))
    assert captures.known_capture(session, job, uuid4(), digest(b"this")) is None


def test_two_that_arrive_at_once_are_kept_once(engine: Engine, session: Session, job: UUID) -> None:
    one, results = capture(), []

    def send() -> None:
        with Session(engine) as own:
            results.append(keep(own, job, one, b"x" * 100_000))

    threads = [threading.Thread(target=send) for _ in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert results == [one] * 4
    count = session.execute(text("select count(*) from capture_part where capture_id = :id"), {"id": one.id})
    assert count.scalar_one() == 1


def test_a_struck_capture_stays_with_its_first_reason(session: Session, job: UUID) -> None:
    one = capture()
    keep(session, job, one, b"1")
    assert captures.strike_capture(session, job, one.id, "probe off").struck == "probe off"
    assert captures.strike_capture(session, job, one.id, "again").struck == "probe off"
    assert captures.get_capture(session, job, one.id).examination == EXAMINATION


def test_another_jobs_capture_is_not_there(session: Session, job: UUID, sheet: JobSheet) -> None:
    one = capture()
    keep(session, job, one, b"1")
    other = jobs.create_job(session, uuid4(), sheet).id
    for work in (
        lambda: captures.get_capture(session, other, one.id),
        lambda: captures.strike_capture(session, other, one.id, "x"),
        lambda: captures.attach(session, other, one.id, None),
    ):
        with pytest.raises(NotFound):
            work()
