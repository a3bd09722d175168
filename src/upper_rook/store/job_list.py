"""The list of jobs: searched and paged by the database, from what is kept beside each job."""

from datetime import UTC, date, datetime, timedelta
from enum import StrEnum
from typing import Any
from uuid import UUID

from pydantic import Field
from sqlalchemy import ColumnElement, Row, and_, func, or_, tuple_, update
from sqlalchemy import select as sa_select
from sqlmodel import Session, col

from upper_rook.core.common.folding import folded
from upper_rook.core.common.units import Frozen
from upper_rook.core.run.result.summary import JobSummary, Standing
from upper_rook.store.paging import named, place_of
from upper_rook.store.tables import CustomerRow, JobRow

LONGEST_SEARCH = 200


class Shelf(StrEnum):
    """Where a job is kept."""

    BENCH = "bench"
    """At hand."""
    ARCHIVE = "archive"
    BIN = "bin"
    """Deleted, and still restorable."""


class JobEntry(Frozen):
    """A job in the list."""

    id: UUID
    version: int
    vehicle: str
    note: str
    created_at: datetime
    changed_at: datetime
    archived_at: datetime | None
    deleted_at: datetime | None
    practice: bool
    due_on: date | None
    """The day that the vehicle was promised for, while it is here."""
    summary: JobSummary | None
    """None while it is being worked out."""


class Wanted(Frozen):
    """Jobs to show to list."""

    search: str = Field(default="", max_length=LONGEST_SEARCH)
    """Words that all must be found."""
    stands: Standing | None = None
    shelf: Shelf = Shelf.BENCH
    practice: bool | None = None
    """Practice jobs only, or real ones only; both where nothing is said."""


class JobPage(Frozen):
    """Some jobs, the last touched first."""

    jobs: tuple[JobEntry, ...]
    total: int
    """How many there are of that kind."""
    after: str | None
    """Cursor for the next ones, or None at the end."""
    unread: int
    """Jobs that are still being worked out: they may be missing where words or a standing are asked for."""


_SHELVES = {
    Shelf.BENCH: and_(col(JobRow.deleted_at).is_(None), col(JobRow.archived_at).is_(None)),
    Shelf.ARCHIVE: and_(col(JobRow.deleted_at).is_(None), col(JobRow.archived_at).is_not(None)),
    Shelf.BIN: col(JobRow.deleted_at).is_not(None),
}
_COLUMNS = tuple(col(getattr(JobRow, name)) for name in JobEntry.model_fields)
_BEHIND = col(JobRow.summed_up) != col(JobRow.changes)


def find(session: Session, wanted: Wanted, after: str | None, limit: int, *, customers: bool = False) -> JobPage:
    """
    One page; with `customers` words are looked for in those too.

    Raises BadInput for an `after` that this list never gave.
    """
    place = (col(JobRow.changed_at), col(JobRow.id))
    conditions = _conditions(wanted, customers=customers)
    rows = sa_select(*_COLUMNS).where(*conditions).order_by(*(mapped.desc() for mapped in place)).limit(limit + 1)
    if after is not None:
        rows = rows.where(tuple_(*place) < place_of(after))
    found = session.execute(rows).all()
    total = session.execute(sa_select(func.count()).select_from(JobRow).where(*conditions)).scalar_one()
    # Wherever they will belong: what they are found by may not be known yet either.
    unread = session.execute(sa_select(func.count()).select_from(JobRow).where(_BEHIND)).scalar_one()
    shown = tuple(_entry(row) for row in found[:limit])
    more = named(shown[-1].changed_at, shown[-1].id) if len(found) > limit else None
    return JobPage(jobs=shown, total=total, after=more, unread=unread)


def not_summed_up(session: Session, limit: int, quiet: timedelta = timedelta()) -> list[UUID]:
    """Jobs whose summary is behind and that nothing changed in for a while, the last touched first."""
    rows = sa_select(col(JobRow.id)).where(_BEHIND).order_by(col(JobRow.changed_at).desc()).limit(limit)
    if quiet:
        rows = rows.where(col(JobRow.changed_at) < datetime.now(UTC) - quiet)
    return list(session.scalars(rows))


def changes_of(session: Session, job_id: UUID) -> int:
    """The number that a summary worked out from now on is of."""
    return int(session.execute(sa_select(col(JobRow.changes)).where(col(JobRow.id) == job_id)).scalar_one())


def keep_summary(session: Session, job_id: UUID, changes: int, summary: JobSummary, words: str | None) -> None:
    """Keeps what was worked out when a job stood at `changes`; what was worked out later stays."""
    values: dict[str, Any] = {
        "summed_up": changes,
        "stands": summary.stands.value,
        "summary": summary.model_dump(mode="json"),
    }
    if words is not None:
        values["words"] = words
    rows = update(JobRow).where(col(JobRow.id) == job_id, col(JobRow.summed_up) < changes)
    session.execute(rows.values(values).execution_options(synchronize_session=False))


def _conditions(wanted: Wanted, *, customers: bool) -> list[ColumnElement[bool]]:
    found = [_holds(word, customers=customers) for word in folded(wanted.search).split()]
    if wanted.stands:
        found.append(col(JobRow.stands) == wanted.stands.value)
    if wanted.practice is not None:
        found.append(col(JobRow.practice).is_(wanted.practice))
    return [_SHELVES[wanted.shelf], *found]


def _holds(word: str, *, customers: bool) -> ColumnElement[bool]:
    """Jobs with a word in them, or in their customer's name, phone or plate where those may be seen."""
    own = col(JobRow.words).contains(word, autoescape=True)
    if not customers:
        return own
    theirs = sa_select(col(CustomerRow.job_id)).where(col(CustomerRow.words).contains(word, autoescape=True))
    return or_(own, col(JobRow.id).in_(theirs))


def _entry(row: Row[Any]) -> JobEntry:
    return JobEntry.model_validate(dict(row._mapping))
