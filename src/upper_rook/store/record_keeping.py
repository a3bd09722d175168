"""Readings and marks are added once, struck out or put back at most, never edited or deleted."""

from datetime import UTC, datetime
from functools import cache
from typing import Any
from uuid import UUID

from psycopg.errors import ForeignKeyViolation
from sqlalchemy import Select, String, bindparam, func, literal, text, update
from sqlalchemy import select as sa_select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.exc import IntegrityError
from sqlmodel import Session, SQLModel, col

from upper_rook.core.common.errors import Conflict, NotFound
from upper_rook.core.run.readings.records import Mark, Reading
from upper_rook.store.announcements import CHANNEL, told, touch
from upper_rook.store.jobs import no_such_job
from upper_rook.store.records import mark_of, reading_of
from upper_rook.store.tables import MarkRow, ReadingRow

# A column's own name is the statement's to use.
_OWN = "own_"

Table = type[ReadingRow] | type[MarkRow]


def add_reading(session: Session, job_id: UUID, reading: Reading) -> Reading:
    """
    Keeps a reading. Sent again it is returned as kept.

    Raises:
        NotFound: without such a job.
        Conflict: when something else has its id.
    """
    arrival = _add(session, job_id, ReadingRow, reading)
    if arrival is not None:
        return reading.model_copy(update={"arrival": arrival})
    row = session.get_one(ReadingRow, reading.id)
    if row.job_id != job_id or not _same(reading_of(row), reading):
        raise Conflict("Another reading already has this id. Save the reading again.", "id")
    return reading_of(row)


def add_mark(session: Session, job_id: UUID, mark: Mark) -> Mark:
    """The same for a mark."""
    arrival = _add(session, job_id, MarkRow, mark)
    if arrival is not None:
        return mark.model_copy(update={"arrival": arrival})
    row = session.get_one(MarkRow, mark.id)
    if row.job_id != job_id or not _same(mark_of(row), mark):
        raise Conflict("Something else was already saved under this id: answer again.", "id")
    return mark_of(row)


def strike(session: Session, job_id: UUID, record_id: UUID, reason: str) -> Reading | Mark:
    """Strikes out a reading or a mark. Striking it again changes nothing. Raises NotFound."""
    return _set_struck(session, job_id, record_id, reason)


def put_back(session: Session, job_id: UUID, record_id: UUID) -> Reading | Mark:
    """Has a reading or a mark count again, at its own place in the order. Raises NotFound."""
    return _set_struck(session, job_id, record_id, None)


def _set_struck(session: Session, job_id: UUID, record_id: UUID, reason: str | None) -> Reading | Mark:
    row = session.get(ReadingRow, record_id) or session.get(MarkRow, record_id)
    if row is None or row.job_id != job_id:
        raise NotFound("There is no such reading or answer in this job: reload the page.")
    if (row.struck is None) != (reason is None):
        row.struck = reason
        touch(session, job_id, "run")
        session.flush()
    return reading_of(row) if isinstance(row, ReadingRow) else mark_of(row)


def _add(session: Session, job_id: UUID, table: Table, record: Reading | Mark) -> int | None:
    """Inserts a row and gives its arrival number, or None when there is a row with its id already."""
    own = columns_of(record) | {"job_id": job_id}
    values = {_OWN + name: value for name, value in own.items()}
    values |= {"then": datetime.now(UTC), "told": told(job_id, "run")}
    if record.sequence is not None:
        # Held before anything is numbered: of a device's records that arrive at once each is numbered in its turn, and
        # the statement that follows sees all that came before it.
        session.connection().execute(_HOLD, {"job": job_id})
    try:
        # Below the mapper: this is what is waited for fifty times a second.
        arrival, taken, overtaken = session.connection().execute(_adding(table), values).one()
    except IntegrityError as error:
        if not isinstance(error.orig, ForeignKeyViolation):
            raise
        raise no_such_job() from None
    if taken:
        raise Conflict("Another record already has this id. Save it again.", "id")
    if arrival is not None and overtaken:
        return _in_sequence(session, job_id, record, arrival)
    return arrival if arrival is None else int(arrival)


@cache
def _adding(table: Table) -> Select[Any, Any, Any]:
    """
    The one statement of a save, built once.

    It writes the row, has the job count as changed, tells every page, and gives the arrival number, whether something
    of the other kind has the id, and whether the record was overtaken on its way.
    """
    tables = SQLModel.metadata.tables
    own, job = tables[table.__tablename__], tables["job"]
    other = tables["mark" if table is ReadingRow else "reading"]
    columns = [column for column in own.columns if column.name != "arrival"]
    named = {column.name: bindparam(_OWN + column.name, type_=column.type) for column in columns}
    new = (
        insert(own)
        .values(named)
        .on_conflict_do_nothing(index_elements=["id"])
        .returning(own.c.arrival.label("arrival"))
        .cte("new")
    )
    touched = (
        update(job)
        .where(job.c.id == named["job_id"], sa_select(new.c.arrival).exists())
        .values(changed_at=bindparam("then", type_=job.c.changed_at.type), changes=job.c.changes + 1)
        .returning(func.pg_notify(CHANNEL, bindparam("told", type_=String)))
        .cte("touched")
    )
    later = [
        sa_select(literal(1))
        .where(
            table.c.job_id == named["job_id"], table.c.device == named["device"], table.c.sequence > named["sequence"]
        )
        .exists()
        for table in (own, other)
    ]
    return sa_select(
        sa_select(new.c.arrival).scalar_subquery(),
        sa_select(literal(1)).where(other.c.id == named["id"]).exists(),
        later[0] | later[1],
    ).add_cte(touched)


_HOLD = text("select id from job where id = :job for update")


def columns_of(record: Reading | Mark) -> dict[str, Any]:
    """A record as the columns of its row, but for the job."""
    # The moment and the ids stay what they are; everything else is plain. The database numbers what arrives.
    plain = record.model_dump(mode="json", exclude={"arrival"})
    exact = {name: getattr(record, name) for name in ("taken_at", "id", "device")}
    return plain | exact | {"saved_at": datetime.now(UTC)}


def _later(job_id: UUID, record: Reading | Mark, table: Table) -> Select[UUID, int, int | None]:
    """The records that the same device took later in the same job."""
    return sa_select(col(table.id), col(table.arrival), col(table.sequence)).where(
        col(table.job_id) == job_id, col(table.device) == record.device, col(table.sequence) > (record.sequence or 0)
    )


def _in_sequence(session: Session, job_id: UUID, record: Reading | Mark, arrival: int) -> int:
    """
    Has a record that was overtaken on its way stand before what its device took later.

    Their arrival numbers are dealt out anew among them, in the device's sequence; gives the record's.
    """
    own = ReadingRow if isinstance(record, Reading) else MarkRow
    rows: list[tuple[int, UUID, Table, int]] = [(record.sequence or 0, record.id, own, arrival)]
    for table in (ReadingRow, MarkRow):
        later = session.execute(_later(job_id, record, table)).all()
        rows += [(sequence, row_id, table, number) for row_id, number, sequence in later]
    places = sorted(number for *_, number in rows)
    for (_, row_id, table, _), place in zip(sorted(rows, key=lambda row: row[0]), places, strict=True):
        session.execute(update(table).where(col(table.id) == row_id).values(arrival=place))
    return places[0]


def _same(reading: Reading | Mark, other: Reading | Mark) -> bool:
    """Whether two records say the same; what the server works out for itself may have moved since."""
    derived = {"struck", "uncertainty", "point", "circumstances", "builds_on", "arrival", "device", "sequence"}
    volumes = [record.volume for record in (reading, other)]
    return reading.model_dump(exclude=derived) == other.model_dump(exclude=derived) and volumes[0] == volumes[1]
