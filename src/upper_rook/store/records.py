"""Readings and marks: added once, struck out at most, never edited or deleted."""

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, TypeVar
from uuid import UUID

from pydantic import TypeAdapter
from sqlalchemy import TEXT, cast, func, update
from sqlalchemy import select as sa_select
from sqlalchemy.dialects.postgresql import ARRAY, aggregate_order_by
from sqlalchemy.exc import IntegrityError
from sqlmodel import Session, col, select

from upper_rook.core.common.errors import Conflict, NotFound
from upper_rook.core.run.records import Mark, Reading
from upper_rook.store.jobs import announce
from upper_rook.store.tables import JobRow, MarkRow, ReadingRow

RowT = TypeVar("RowT", ReadingRow, MarkRow)
_READINGS = TypeAdapter(tuple[Reading, ...])
_MARKS = TypeAdapter(tuple[Mark, ...])
_STORE_ONLY = ("job_id", "saved_at")


@dataclass(frozen=True)
class Records:
    """Every reading and mark of a job, oldest first, struck ones too."""

    readings: tuple[Reading, ...]
    marks: tuple[Mark, ...]


def records_of(session: Session, job_id: UUID) -> Records:
    """Every record of a job."""
    return Records(
        readings=_READINGS.validate_json(_as_json(session, ReadingRow, job_id)),
        marks=_MARKS.validate_json(_as_json(session, MarkRow, job_id)),
    )


def ceiling_records(session: Session, job_id: UUID, step: str) -> Records:
    """Only what the source's clean maximum stands on: the newest taking in `step`, and the reading it took."""
    takings = (
        select(MarkRow)
        .where(MarkRow.job_id == job_id, MarkRow.step == step, col(MarkRow.struck).is_(None))
        .where(col(MarkRow.basis).is_not(None))
        .order_by(col(MarkRow.taken_at).desc())
    )
    mark = session.exec(takings.limit(1)).first()
    if mark is None or mark.volume is None:
        return Records((), ())
    reading = reading_at(session, job_id, step, mark.volume)
    return Records((reading,) if reading else (), (_mark(mark),))


def get_reading(session: Session, reading_id: UUID) -> Reading | None:
    """One reading, struck or not."""
    row = session.get(ReadingRow, reading_id)
    return _reading(row) if row else None


def reading_at(session: Session, job_id: UUID, step: str, volume: int) -> Reading | None:
    """The newest reading of `step` at a volume number that still counts."""
    rows = (
        select(ReadingRow)
        .where(ReadingRow.job_id == job_id, ReadingRow.step == step, ReadingRow.volume == volume)
        .where(col(ReadingRow.struck).is_(None))
        .order_by(col(ReadingRow.taken_at).desc())
    )
    row = session.exec(rows.limit(1)).first()
    return _reading(row) if row else None


def _as_json(session: Session, table: type[ReadingRow] | type[MarkRow], job_id: UUID) -> str:
    """Rows as one JSON list, put together by the server: mapped rows take several times as long."""
    rows = select(table).where(table.job_id == job_id).subquery()
    plain = func.to_jsonb(rows.table_valued()).op("-")(cast(list(_STORE_ONLY), ARRAY(TEXT)))
    query = sa_select(cast(func.jsonb_agg(aggregate_order_by(plain, rows.c.taken_at)), TEXT))
    return session.execute(query).scalar_one() or "[]"


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


def strike(session: Session, job_id: UUID, record_id: UUID, reason: str) -> Reading | Mark:
    """Strikes out a reading or a mark. Striking it again changes nothing. Raises NotFound."""
    found = session.get(ReadingRow, record_id) or session.get(MarkRow, record_id)
    if found is None or found.job_id != job_id:
        raise NotFound("There is no such reading or answer in this job: reload the page.")
    if found.struck is None:
        found.struck = reason
        _touch(session, job_id)
        session.commit()
    return _reading(found) if isinstance(found, ReadingRow) else _mark(found)


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
    return Reading.model_validate(_values(row))


def _mark(row: MarkRow) -> Mark:
    return Mark.model_validate(_values(row))


def _values(row: ReadingRow | MarkRow) -> dict[str, Any]:
    # Read one by one: a row that was just committed is fetched again by that.
    return {name: getattr(row, name) for name in type(row).model_fields if name not in _STORE_ONLY}
