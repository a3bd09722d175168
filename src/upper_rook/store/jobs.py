"""Jobs and the versions of their sheets."""

from collections.abc import Sequence
from datetime import UTC, date, datetime
from typing import Any, Literal
from uuid import UUID

from pydantic import ValidationError
from sqlalchemy import Date, cast, delete, func
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import Session, col, select

from upper_rook.core.common.changes import Change, changes, with_label
from upper_rook.core.common.errors import BadInput, Conflict, NotFound
from upper_rook.core.common.refusals import refusals
from upper_rook.core.common.units import Frozen
from upper_rook.core.system.job_sheet import FORMAT, JobSheet
from upper_rook.core.system.search_words import search_words
from upper_rook.store.announcements import announce
from upper_rook.store.tables import (
    BenchRow,
    CapturePartRow,
    CaptureRow,
    JobRow,
    MarkRow,
    OfferRow,
    PhotoFileRow,
    PhotoRow,
    PresentRow,
    ReadingRow,
    RunningDayRow,
    SheetFormatRow,
    SheetRow,
    SignOffRow,
)


class Job(Frozen):
    """A job with its newest sheet."""

    id: UUID
    version: int
    sheet: JobSheet
    created_at: datetime
    changed_at: datetime
    archived_at: datetime | None = None
    deleted_at: datetime | None = None
    """When it was put into the bin."""


class SheetVersion(Frozen):
    """One entry of a sheet's history."""

    version: int
    saved_at: datetime
    by: str
    changes: tuple[Change, ...]


class KeptVersion(Frozen):
    """A sheet as it once was."""

    version: int
    sheet: JobSheet
    differs: tuple[Change, ...]
    """Values that differ now, and their earlier ones."""


class Unreadable(Conflict):
    """A sheet that this version of the app can't read."""


class SheetConflict(Conflict):
    """A sheet was edited on the basis of a version that is no longer the newest."""

    def __init__(self, newest: Job, differs: tuple[Change, ...]) -> None:
        super().__init__("This job was changed elsewhere. Nothing is lost: choose a version.")
        self.newest = newest
        self.differs = differs


def has_job(session: Session, job_id: UUID) -> bool:
    """Whether there is such a job, put away or not."""
    return session.exec(select(JobRow.id).where(JobRow.id == job_id)).first() is not None


def is_practice(session: Session, job_id: UUID) -> bool | None:
    """Whether a job is practice; None without such a job."""
    return session.exec(select(JobRow.practice).where(JobRow.id == job_id)).first()


def need_job(session: Session, job_id: UUID) -> None:
    """Raises NotFound without such a job."""
    if not has_job(session, job_id):
        raise no_such_job()


def no_such_job() -> NotFound:
    """Error for a job that isn't there."""
    return NotFound("There is no such job here: go back to the list of jobs.")


def get_job(session: Session, job_id: UUID) -> Job:
    """One job. Raises NotFound."""
    query = select(JobRow, SheetRow).where(
        JobRow.id == job_id, SheetRow.job_id == JobRow.id, SheetRow.version == JobRow.version
    )
    found = session.exec(query).first()
    if found is None:
        raise no_such_job()
    job, row = found
    return _job(job, sheet_of(session, row.sheet))


def get_sheet(session: Session, job_id: UUID, version: int) -> JobSheet:
    """One version of a job's sheet. Raises NotFound."""
    found = session.get(SheetRow, (job_id, version))
    if found is None:
        raise NotFound(f"This job has no version {version} of its sheet: reload the page.", "sheet_version")
    return sheet_of(session, found.sheet)


def history(session: Session, job_id: UUID) -> list[SheetVersion]:
    """Every version of a job's sheet, the newest first."""
    query = select(SheetRow).where(SheetRow.job_id == job_id).order_by(col(SheetRow.version).desc())
    return [
        SheetVersion(
            version=row.version,
            saved_at=row.saved_at,
            by=row.by,
            changes=tuple(with_label(Change.model_validate(change), JobSheet) for change in row.changes),
        )
        for row in session.exec(query)
    ]


def kept_version(session: Session, job_id: UUID, version: int) -> KeptVersion:
    """One version of a job's sheet beside the newest. Raises NotFound."""
    newest = get_job(session, job_id)
    sheet = get_sheet(session, job_id, version)
    return KeptVersion(version=version, sheet=sheet, differs=changes(newest.sheet, sheet))


def create_job(session: Session, job_id: UUID, sheet: JobSheet, by: str = "") -> Job:
    """
    A new job under the id its sender chose; sending it again gives the job as it is now.

    Raises Conflict when another document was begun under this id.
    """
    new = insert(JobRow).values(id=job_id, version=1, created_at=func.now(), changed_at=func.now(), **shown_of(sheet))
    if not session.execute(new.on_conflict_do_nothing(index_elements=["id"]).returning(col(JobRow.id))).first():
        if get_sheet(session, job_id, 1) != sheet:
            raise Conflict("Another job already has this id. Use a new one.", "id")
        return get_job(session, job_id)
    job = session.get_one(JobRow, job_id)
    row = SheetRow(job_id=job_id, version=1, sheet=sheet.model_dump(mode="json"), changes=[], by=by)
    session.add(row)
    announce(session, job_id, f"sheet {job.version}")
    session.flush()
    return _job(job, sheet)


def save_sheet(session: Session, job_id: UUID, base_version: int, sheet: JobSheet, by: str = "") -> Job:
    """
    A new version of a job's sheet.

    Raises NotFound, SheetConflict unless `base_version` is the newest, BadInput where practice would become real.
    """
    job = session.exec(select(JobRow).where(JobRow.id == job_id).with_for_update()).first()
    if job is None:
        raise no_such_job()
    newest = get_job(session, job_id)
    if sheet.practice is not newest.sheet.practice:
        raise BadInput("A job can’t become practice later. Copy it as practice.", "sheet.practice")
    differs = changes(newest.sheet, sheet)
    if not differs:
        return newest
    if base_version != newest.version:
        raise SheetConflict(newest, differs)
    job.version += 1
    job.changes += 1
    job.changed_at = datetime.now(UTC)
    for name, shown in shown_of(sheet).items():
        setattr(job, name, shown)
    row = SheetRow(
        job_id=job_id,
        version=job.version,
        sheet=sheet.model_dump(mode="json"),
        changes=[difference.model_dump(mode="json", exclude={"label"}) for difference in differs],
        by=by,
    )
    session.add_all((job, row))
    announce(session, job_id, f"sheet {job.version}")
    session.flush()
    return _job(job, sheet)


def set_shelf(session: Session, job_id: UUID, shelf: Literal["archived_at", "deleted_at"], there: bool) -> Job:
    """Notes when a job was put away, or that it no longer is; done twice it is done once. Raises NotFound."""
    job = session.exec(select(JobRow).where(JobRow.id == job_id).with_for_update()).first()
    if job is None:
        raise no_such_job()
    if (getattr(job, shelf) is None) == there:
        setattr(job, shelf, datetime.now(UTC) if there else None)
        announce(session, job_id, "run")
    session.flush()
    return get_job(session, job_id)


def note_running(session: Session, today: date) -> None:
    """Notes that the app runs on a day; done twice it is done once."""
    session.execute(insert(RunningDayRow).values(day=today).on_conflict_do_nothing())


def long_in_bin(session: Session, days: int) -> list[UUID]:
    """
    The jobs that the app has run on so many days since they were put into the bin, or changed there.

    Days on which it ran, so that a clock that leaps counts as one.
    """
    since = func.greatest(col(JobRow.deleted_at), col(JobRow.changed_at))
    ran = select(func.count()).where(col(RunningDayRow.day) > cast(since, Date)).scalar_subquery()
    return list(session.exec(select(JobRow.id).where(col(JobRow.deleted_at).is_not(None), ran >= days)))


def purge(session: Session, gone: Sequence[UUID]) -> None:
    """Deletes jobs for good, with all that belongs to them."""
    captures = select(CaptureRow.id).where(col(CaptureRow.job_id).in_(gone))
    session.execute(delete(CapturePartRow).where(col(CapturePartRow.capture_id).in_(captures)))
    photos = select(PhotoRow.id).where(col(PhotoRow.job_id).in_(gone))
    session.execute(delete(PhotoFileRow).where(col(PhotoFileRow.photo_id).in_(photos)))
    for table in (PhotoRow, CaptureRow, ReadingRow, MarkRow, BenchRow, SignOffRow, OfferRow, PresentRow, SheetRow):
        session.execute(delete(table).where(col(table.job_id).in_(gone)))
    session.execute(delete(JobRow).where(col(JobRow.id).in_(gone)))


def sheet_of(session: Session, document: dict[str, Any]) -> JobSheet:
    """A kept sheet as this version reads it. Raises Unreadable."""
    try:
        return JobSheet.model_validate(document)
    except ValidationError as error:
        version = document.get("format")
        if isinstance(version, int) and version > FORMAT:
            known = session.get(SheetFormatRow, version)
            needs = f"version {known.least_version} or newer" if known else "a newer version"
            raise Unreadable(f"This job needs {needs} of Upper Rook: bring the app up to date.") from None
        first, *_ = refusals(error.errors(include_url=False))
        told = f"{first.place or 'the document'}: {first.sentence}"
        raise Unreadable(f"This job’s sheet can’t be read: {told}.") from None


def shown_of(sheet: JobSheet) -> dict[str, str | bool]:
    """Words of a sheet that a list shows and searches."""
    return {
        "vehicle": sheet.vehicle,
        "note": sheet.note,
        "practice": sheet.practice,
        "words": search_words(sheet),
    }


def _job(job: JobRow, sheet: JobSheet) -> Job:
    return Job(
        id=job.id,
        version=job.version,
        sheet=sheet,
        created_at=job.created_at,
        changed_at=job.changed_at,
        archived_at=job.archived_at,
        deleted_at=job.deleted_at,
    )
