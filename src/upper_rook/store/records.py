"""Readings and marks: added once, struck out at most, never edited or deleted."""

from datetime import UTC, datetime
from typing import Any, TypeVar
from uuid import UUID

from sqlalchemy import update
from sqlalchemy.exc import IntegrityError
from sqlmodel import Session, col, select

from upper_rook.core.errors import Conflict, NotFound
from upper_rook.core.records import Mark, Reading
from upper_rook.store.jobs import announce
from upper_rook.store.tables import JobRow, MarkRow, ReadingRow

RowT = TypeVar("RowT", ReadingRow, MarkRow)


def readings_of(session: Session, job_id: UUID) -> tuple[Reading, ...]:
    """Every reading of a job, oldest first, struck ones too."""
    query = select(ReadingRow).where(ReadingRow.job_id == job_id).order_by(col(ReadingRow.taken_at))
    return tuple(_reading(row) for row in session.exec(query))


def marks_of(session: Session, job_id: UUID) -> tuple[Mark, ...]:
    """Every mark of a job, oldest first, struck ones too."""
    query = select(MarkRow).where(MarkRow.job_id == job_id).order_by(col(MarkRow.taken_at))
    return tuple(_mark(row) for row in session.exec(query))


def add_reading(session: Session, job_id: UUID, reading: Reading) -> Reading:
    """Keeps a reading. Sent again it is returned as kept; another one under the same id raises Conflict."""
    row = ReadingRow(job_id=job_id, **_columns(reading))
    kept = _add(session, job_id, row)
    if kept is not None and (kept.job_id != job_id or not _same(_reading(kept), reading)):
        raise Conflict("Another reading was already saved under this id: take the reading again.", "id")
    return _reading(kept) if kept else reading


def add_mark(session: Session, job_id: UUID, mark: Mark) -> Mark:
    """Keeps a mark. Sent again it is returned as kept; another one under the same id raises Conflict."""
    row = MarkRow(job_id=job_id, **_columns(mark))
    kept = _add(session, job_id, row)
    if kept is not None and (kept.job_id != job_id or not _same(_mark(kept), mark)):
        raise Conflict("Something else was already saved under this id: answer again.", "id")
    return _mark(kept) if kept else mark


def strike(session: Session, job_id: UUID, record_id: UUID, reason: str) -> None:
    """Strikes out a reading or a mark. Striking it again changes nothing. Raises NotFound."""
    found = session.get(ReadingRow, record_id) or session.get(MarkRow, record_id)
    if found is None or found.job_id != job_id:
        raise NotFound("There is no such reading or answer in this job: reload the page.")
    if found.struck is None:
        found.struck = reason
        _touch(session, job_id)
        session.commit()


def _columns(record: Reading | Mark) -> dict[str, Any]:
    # The moment stays a datetime; everything else is plain.
    return record.model_dump(mode="json") | {"taken_at": record.taken_at, "id": record.id}


def _add(session: Session, job_id: UUID, row: RowT) -> RowT | None:
    """Inserts `row`; gives the row that already has its id instead, or None when it was inserted."""
    kept = session.get(type(row), row.id)
    if kept is not None:
        return kept
    session.add(row)
    try:
        _touch(session, job_id)
        session.commit()
    except IntegrityError:
        # The same record arrived twice at the same time.
        session.rollback()
        return session.get_one(type(row), row.id)
    return None


def _touch(session: Session, job_id: UUID) -> None:
    session.execute(update(JobRow).where(col(JobRow.id) == job_id).values(changed_at=datetime.now(UTC)))
    announce(session, job_id, "run")


def _same(one: Reading | Mark, other: Reading | Mark) -> bool:
    """Whether two records say the same; what the server works out for itself may have moved since."""
    derived = {"struck", "uncertainty_v", "settings", "tone"}
    return one.model_dump(exclude=derived) == other.model_dump(exclude=derived)


def _reading(row: ReadingRow) -> Reading:
    return Reading.model_validate(row.model_dump(exclude={"job_id", "saved_at"}))


def _mark(row: MarkRow) -> Mark:
    return Mark.model_validate(row.model_dump(exclude={"job_id", "saved_at"}))
