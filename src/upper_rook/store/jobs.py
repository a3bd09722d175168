"""Jobs and the versions of their sheets."""

from datetime import UTC, datetime
from uuid import UUID

from sqlalchemy import func
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import Session, col, select

from upper_rook.core.common.changes import Change, changes, with_label
from upper_rook.core.common.errors import Conflict, NotFound
from upper_rook.core.common.units import Frozen
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.store.announcements import announce
from upper_rook.store.tables import JobRow, SheetRow


class Job(Frozen):
    """A job with its newest sheet."""

    id: UUID
    version: int
    sheet: JobSheet
    created_at: datetime
    changed_at: datetime


class SheetVersion(Frozen):
    """One entry of a sheet's history."""

    version: int
    saved_at: datetime
    by: str
    changes: tuple[Change, ...]


class SheetConflict(Conflict):
    """A sheet was edited on the basis of a version that is no longer the newest."""

    def __init__(self, newest: Job, differs: tuple[Change, ...]) -> None:
        super().__init__("This job was changed somewhere else in the meantime. Nothing is lost: choose which to keep.")
        self.newest = newest
        self.differs = differs


def list_jobs(session: Session) -> list[Job]:
    """Every job, the last touched first."""
    query = (
        select(JobRow, SheetRow)
        .where(SheetRow.job_id == JobRow.id, SheetRow.version == JobRow.version)
        .order_by(col(JobRow.changed_at).desc(), col(JobRow.id))
    )
    return [_job(job, sheet) for job, sheet in session.exec(query)]


def get_job(session: Session, job_id: UUID) -> Job:
    """One job. Raises NotFound."""
    query = select(JobRow, SheetRow).where(
        JobRow.id == job_id, SheetRow.job_id == JobRow.id, SheetRow.version == JobRow.version
    )
    found = session.exec(query).first()
    if found is None:
        raise NotFound("There is no such job here: go back to the list of jobs.")
    return _job(*found)


def get_sheet(session: Session, job_id: UUID, version: int) -> JobSheet:
    """One version of a job's sheet. Raises NotFound."""
    found = session.get(SheetRow, (job_id, version))
    if found is None:
        raise NotFound(f"This job has no version {version} of its sheet: reload the page.", "sheet_version")
    return JobSheet.model_validate(found.sheet)


def history(session: Session, job_id: UUID) -> list[SheetVersion]:
    """Every version of a job's sheet, the newest first."""
    query = select(SheetRow).where(SheetRow.job_id == job_id).order_by(col(SheetRow.version).desc())
    return [
        SheetVersion(
            version=row.version,
            saved_at=row.saved_at,
            by=row.by,
            changes=tuple(with_label(Change.model_validate(one), JobSheet) for one in row.changes),
        )
        for row in session.exec(query)
    ]


def create_job(session: Session, job_id: UUID, sheet: JobSheet, by: str = "") -> Job:
    """
    A new job under the id its sender chose; sending it again gives the job as it is now.

    Raises Conflict when another document was begun under this id.
    """
    new = insert(JobRow).values(id=job_id, version=1, created_at=func.now(), changed_at=func.now())
    if not session.execute(new.on_conflict_do_nothing(index_elements=["id"]).returning(col(JobRow.id))).first():
        if get_sheet(session, job_id, 1) != sheet:
            raise Conflict("Another job was already begun under this id: take a new one.", "id")
        return get_job(session, job_id)
    job = session.get_one(JobRow, job_id)
    row = SheetRow(job_id=job_id, version=1, sheet=sheet.model_dump(mode="json"), changes=[], by=by)
    session.add(row)
    announce(session, job_id, f"sheet {job.version}")
    session.flush()
    return _job(job, row)


def save_sheet(session: Session, job_id: UUID, base_version: int, sheet: JobSheet, by: str = "") -> Job:
    """A new version of a job's sheet. Raises NotFound, or SheetConflict unless `base_version` is the newest."""
    job = session.exec(select(JobRow).where(JobRow.id == job_id).with_for_update()).first()
    if job is None:
        raise NotFound("There is no such job here: go back to the list of jobs.")
    newest = get_job(session, job_id)
    differs = changes(newest.sheet, sheet)
    if not differs:
        return newest
    if base_version != newest.version:
        raise SheetConflict(newest, differs)
    job.version += 1
    job.changed_at = datetime.now(UTC)
    row = SheetRow(
        job_id=job_id,
        version=job.version,
        sheet=sheet.model_dump(mode="json"),
        changes=[one.model_dump(mode="json", exclude={"label"}) for one in differs],
        by=by,
    )
    session.add_all((job, row))
    announce(session, job_id, f"sheet {job.version}")
    session.flush()
    return _job(job, row)


def _job(job: JobRow, sheet: SheetRow) -> Job:
    return Job(
        id=job.id,
        version=job.version,
        sheet=JobSheet.model_validate(sheet.sheet),
        created_at=job.created_at,
        changed_at=job.changed_at,
    )
