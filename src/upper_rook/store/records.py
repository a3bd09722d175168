"""Readings and marks: added once, struck out at most, never edited or deleted."""

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, TypeVar
from uuid import UUID

from pydantic import TypeAdapter
from sqlalchemy import TEXT, cast, func
from sqlalchemy import select as sa_select
from sqlalchemy.dialects.postgresql import ARRAY, aggregate_order_by, insert
from sqlmodel import Session, col, select

from upper_rook.core.common.errors import Conflict, NotFound
from upper_rook.core.run.records import Mark, Reading
from upper_rook.store.announcements import touch
from upper_rook.store.tables import MarkRow, ReadingRow

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


def taking_records(session: Session, job_id: UUID) -> Records:
    """Only what clean maxima stand on: every taking that stands, and the readings of their ladders."""
    takings = (
        select(MarkRow)
        .where(MarkRow.job_id == job_id, col(MarkRow.basis).is_not(None), col(MarkRow.struck).is_(None))
        .order_by(col(MarkRow.taken_at))
    )
    marks = tuple(_mark(row) for row in session.exec(takings))
    if not marks:
        return Records((), ())
    steps = sorted({mark.step for mark in marks})
    rungs = (
        select(ReadingRow)
        .where(ReadingRow.job_id == job_id, col(ReadingRow.step).in_(steps), col(ReadingRow.struck).is_(None))
        .order_by(col(ReadingRow.taken_at))
    )
    return Records(tuple(_reading(row) for row in session.exec(rungs)), marks)


def get_reading(session: Session, reading_id: UUID) -> Reading | None:
    """One reading, struck or not."""
    row = session.get(ReadingRow, reading_id)
    return _reading(row) if row else None


def has_reading_at(session: Session, job_id: UUID, step: str, volume: int) -> bool:
    """Whether a reading of `step` at a volume number still counts."""
    rows = (
        select(ReadingRow.id)
        .where(ReadingRow.job_id == job_id, ReadingRow.step == step, col(ReadingRow.struck).is_(None))
        .where(col(ReadingRow.circumstances)["volume"].as_integer() == volume)
    )
    return session.exec(rows.limit(1)).first() is not None


def _as_json(session: Session, table: type[ReadingRow] | type[MarkRow], job_id: UUID) -> str:
    """Rows as one JSON list, put together by the server: mapped rows take several times as long."""
    rows = select(table).where(table.job_id == job_id).subquery()
    plain = func.to_jsonb(rows.table_valued()).op("-")(cast(list(_STORE_ONLY), ARRAY(TEXT)))
    query = sa_select(cast(func.jsonb_agg(aggregate_order_by(plain, rows.c.taken_at)), TEXT))
    return session.execute(query).scalar_one() or "[]"


def add_reading(session: Session, job_id: UUID, reading: Reading) -> Reading:
    """Keeps a reading. Sent again it is returned as kept; another one under the same id raises Conflict."""
    kept = _add(session, job_id, ReadingRow, _columns(reading))
    if kept is not None and (kept.job_id != job_id or not _same(_reading(kept), reading)):
        raise Conflict("Another reading was already saved under this id: take the reading again.", "id")
    return _reading(kept) if kept else reading


def add_mark(session: Session, job_id: UUID, mark: Mark) -> Mark:
    """Keeps a mark. Sent again it is returned as kept; another one under the same id raises Conflict."""
    kept = _add(session, job_id, MarkRow, _columns(mark))
    if kept is not None and (kept.job_id != job_id or not _same(_mark(kept), mark)):
        raise Conflict("Something else was already saved under this id: answer again.", "id")
    return _mark(kept) if kept else mark


def strike(session: Session, job_id: UUID, record_id: UUID, reason: str) -> Reading | Mark:
    """Strikes out a reading or a mark. Striking it again changes nothing. Raises NotFound."""
    row = session.get(ReadingRow, record_id) or session.get(MarkRow, record_id)
    if row is None or row.job_id != job_id:
        raise NotFound("There is no such reading or answer in this job: reload the page.")
    if row.struck is None:
        row.struck = reason
        touch(session, job_id, "run")
        session.flush()
    return _reading(row) if isinstance(row, ReadingRow) else _mark(row)


def _columns(record: Reading | Mark) -> dict[str, Any]:
    # The moment stays a datetime; everything else is plain.
    return record.model_dump(mode="json") | {"taken_at": record.taken_at, "id": record.id}


def _add(session: Session, job_id: UUID, table: type[RowT], values: dict[str, Any]) -> RowT | None:
    """Inserts a row; gives the row that already has its id instead, or None when it was inserted."""
    other = MarkRow if table is ReadingRow else ReadingRow
    if session.get(other, values["id"]) is not None:
        raise Conflict("Something of another kind was already saved under this id: take it again.", "id")
    row = values | {"job_id": job_id, "saved_at": datetime.now(UTC)}
    new = insert(table).values(row).on_conflict_do_nothing(index_elements=["id"]).returning(col(table.id))
    if session.execute(new).first():
        touch(session, job_id, "run")
        return None
    return session.get_one(table, values["id"])


def _same(one: Reading | Mark, other: Reading | Mark) -> bool:
    """Whether two records say the same; what the server works out for itself may have moved since."""
    derived = {"struck", "uncertainty", "point", "circumstances", "builds_on"}
    volumes = [record.volume for record in (one, other)]
    return one.model_dump(exclude=derived) == other.model_dump(exclude=derived) and volumes[0] == volumes[1]


def _reading(row: ReadingRow) -> Reading:
    return Reading.model_validate(_values(row))


def _mark(row: MarkRow) -> Mark:
    return Mark.model_validate(_values(row))


def _values(row: ReadingRow | MarkRow) -> dict[str, Any]:
    # Read one by one: a row that was just committed is fetched again by that.
    return {name: getattr(row, name) for name in type(row).model_fields if name not in _STORE_ONLY}
