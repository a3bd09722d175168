"""The readings and marks of a job, in the order of arrival."""

from dataclasses import dataclass
from functools import cached_property
from typing import Any
from uuid import UUID

from pydantic import TypeAdapter
from sqlalchemy import TEXT, cast, func
from sqlalchemy import select as sa_select
from sqlmodel import Session, SQLModel, col, select

from upper_rook.core.common.units import Frozen
from upper_rook.core.run.readings.records import Mark, Reading, Record
from upper_rook.store.tables import MarkRow, ReadingRow

_READINGS = TypeAdapter(tuple[Reading, ...])
_MARKS = TypeAdapter(tuple[Mark, ...])
Table = type[ReadingRow] | type[MarkRow]
_STORE_ONLY = ("job_id", "saved_at")


@dataclass(frozen=True, eq=False)
class Records:
    """Every reading and mark of a job, oldest first, struck ones too; equal only to itself."""

    readings: tuple[Reading, ...]
    marks: tuple[Mark, ...]

    @cached_property
    def ids(self) -> frozenset[UUID]:
        """The ids of all of them."""
        return frozenset(record.id for kind in (self.readings, self.marks) for record in kind)

    @cached_property
    def struck(self) -> dict[UUID, str]:
        """The reasons of those that are struck out."""
        return {
            record.id: record.struck
            for kind in (self.readings, self.marks)
            for record in kind
            if record.struck is not None
        }

    @property
    def newest(self) -> int:
        """The arrival number of the newest, 0 without any."""
        return max((record.arrival for kind in (self.readings, self.marks) for record in kind[-1:]), default=0)


class ReadingPage(Frozen):
    """Some readings, the newest first."""

    readings: tuple[Reading, ...]
    before: int | None
    """Cursor for the older ones, or None at the end."""


def records_of(session: Session, job_id: UUID) -> Records:
    """Every record of a job."""
    return _records(session, job_id, None)


def records_since(session: Session, job_id: UUID, known: Records) -> Records:
    """The same as all of them, asking only for what is new and what is struck where the rest is `known`."""
    newer = _records(session, job_id, known.newest)
    # One that came late under a lower number, or was numbered anew: all is asked for again.
    if not newer.ids.isdisjoint(known.ids) or len(newer.ids) + len(known.ids) != _count(session, job_id):
        return records_of(session, job_id)
    struck = _struck(session, job_id)
    if not newer.ids and struck == known.struck:
        return known
    return Records(
        _as_struck((*known.readings, *newer.readings), struck), _as_struck((*known.marks, *newer.marks), struck)
    )


def _count(session: Session, job_id: UUID) -> int:
    """Number of records that a job has."""
    counts = (sa_select(func.count()).where(col(table.job_id) == job_id) for table in (ReadingRow, MarkRow))
    return sum(int(session.execute(count).scalar_one()) for count in counts)


def _struck(session: Session, job_id: UUID) -> dict[UUID, str]:
    """The records that are struck out now, with their reasons."""
    found: dict[UUID, str] = {}
    for table in (ReadingRow, MarkRow):
        rows = sa_select(col(table.id), col(table.struck)).where(
            col(table.job_id) == job_id, col(table.struck).is_not(None)
        )
        found |= {row.id: row.struck for row in session.execute(rows)}
    return found


def _as_struck(records: tuple[Record, ...], struck: dict[UUID, str]) -> tuple[Record, ...]:
    """Records with what is struck out now."""
    return tuple(
        record
        if record.struck == struck.get(record.id)
        else record.model_copy(update={"struck": struck.get(record.id)})
        for record in records
    )


def _records(session: Session, job_id: UUID, after: int | None) -> Records:
    return Records(
        readings=_READINGS.validate_json(_as_json(session, ReadingRow, job_id, after)),
        marks=_MARKS.validate_json(_as_json(session, MarkRow, job_id, after)),
    )


def taking_records(session: Session, job_id: UUID) -> Records:
    """Only what clean maxima stand on: every taking that counts, and the readings of their volume steps."""
    takings = (
        select(MarkRow)
        .where(MarkRow.job_id == job_id, col(MarkRow.basis).is_not(None), col(MarkRow.struck).is_(None))
        .order_by(col(MarkRow.arrival))
    )
    marks = tuple(mark_of(row) for row in session.exec(takings))
    if not marks:
        return Records((), ())
    steps = sorted({mark.step for mark in marks})
    volume_readings = (
        select(ReadingRow)
        .where(ReadingRow.job_id == job_id, col(ReadingRow.step).in_(steps), col(ReadingRow.struck).is_(None))
        .order_by(col(ReadingRow.arrival))
    )
    return Records(tuple(reading_of(row) for row in session.exec(volume_readings)), marks)


def readings_before(session: Session, job_id: UUID, before: int | None, limit: int) -> ReadingPage:
    """The readings that arrived before one that did, or the newest; struck ones too."""
    rows = select(ReadingRow).where(ReadingRow.job_id == job_id).order_by(col(ReadingRow.arrival).desc())
    if before is not None:
        rows = rows.where(col(ReadingRow.arrival) < before)
    found = [reading_of(row) for row in session.exec(rows.limit(limit + 1))]
    return ReadingPage(readings=tuple(found[:limit]), before=found[limit - 1].arrival if len(found) > limit else None)


def get_reading(session: Session, reading_id: UUID) -> Reading | None:
    """One reading, struck or not."""
    row = session.get(ReadingRow, reading_id)
    return reading_of(row) if row else None


def has_reading_at(session: Session, job_id: UUID, step: str, volume: int) -> bool:
    """Whether a reading of `step` at a volume number still counts."""
    rows = (
        select(ReadingRow.id)
        .where(ReadingRow.job_id == job_id, ReadingRow.step == step, col(ReadingRow.struck).is_(None))
        .where(col(ReadingRow.circumstances)["volume"].as_integer() == volume)
    )
    return session.exec(rows.limit(1)).first() is not None


def _as_json(session: Session, table: Table, job_id: UUID, after: int | None) -> str:
    """Rows as one JSON list, put together by the server: mapped rows take several times as long."""
    shown = [
        column for column in SQLModel.metadata.tables[table.__tablename__].columns if column.name not in _STORE_ONLY
    ]
    rows = sa_select(*shown).where(col(table.job_id) == job_id)
    if after is not None:
        rows = rows.where(col(table.arrival) > after)
    listed = rows.order_by(col(table.arrival)).subquery()
    query = sa_select(cast(func.json_agg(listed.table_valued()), TEXT))
    return session.execute(query).scalar_one() or "[]"


def reading_of(row: ReadingRow) -> Reading:
    """A row as a reading."""
    return Reading.model_validate(_values(row))


def mark_of(row: MarkRow) -> Mark:
    """A row as a mark."""
    return Mark.model_validate(_values(row))


def _values(row: ReadingRow | MarkRow) -> dict[str, Any]:
    # Read one by one: a row that was just committed is fetched again by that.
    return {name: getattr(row, name) for name in type(row).model_fields if name not in _STORE_ONLY}
