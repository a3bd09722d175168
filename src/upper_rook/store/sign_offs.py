"""Sign-offs of a job, and whether it is still as it was then."""

from datetime import datetime
from uuid import UUID

from sqlalchemy import func
from sqlmodel import Session, col, select

from upper_rook.core.common.errors import Conflict, NotFound
from upper_rook.core.common.units import Frozen, Name
from upper_rook.store.announcements import announce
from upper_rook.store.tables import CaptureRow, JobRow, ReadingRow, SignOffRow


class SignOff(Frozen):
    """That somebody answered for a job as it stood."""

    id: UUID
    by: str
    note: str
    covers: str
    """The version, readings and recordings that counted then; empty in those of earlier versions."""
    at: datetime
    stands: bool
    """Whether nothing that could change the job's state has changed since."""


class NewSignOff(Frozen):
    """Answering for a job."""

    id: UUID
    changes: int
    """Version that was seen, as SignOffs has it."""
    note: Name = ""
    by: Name = ""
    """Name of the person, where nobody has to sign in."""


class SignOffs(Frozen):
    """Those of a job, the newest first."""

    changes: int
    """Counts what could change the job's state: whoever signs tells what they saw."""
    signed: tuple[SignOff, ...]


def of_job(session: Session, job_id: UUID) -> SignOffs:
    """Every sign-off of a job. Raises NotFound."""
    changes = session.exec(select(JobRow.changes).where(JobRow.id == job_id)).first()
    if changes is None:
        raise NotFound("There is no such job.")
    rows = select(SignOffRow).where(SignOffRow.job_id == job_id).order_by(col(SignOffRow.at).desc())
    signed = (
        SignOff(id=row.id, by=row.by, note=row.note, covers=row.covers, at=row.at, stands=row.changes == changes)
        for row in session.exec(rows)
    )
    return SignOffs(changes=changes, signed=tuple(signed))


def add(session: Session, job_id: UUID, new: NewSignOff, by: str) -> bool:
    """
    Keeps a sign-off, and says whether it is a new one; the same one twice is once.

    Raises NotFound for a job that isn't there, Conflict where it changed after it was looked at or is practice.
    """
    job = session.exec(select(JobRow).where(JobRow.id == job_id).with_for_update()).first()
    if job is None or job.deleted_at is not None:
        raise NotFound("There is no such job.")
    known = session.get(SignOffRow, new.id)
    if known is not None:
        if (known.job_id, known.by) != (job_id, by):
            raise Conflict("Another record already has this id.", "id")
        return False
    if job.practice:
        raise Conflict("Practice jobs can’t be signed off.")
    if job.changes != new.changes:
        raise Conflict("The job changed a moment ago: look at it again, then sign.", "changes")
    covers = _covered(session, job)
    session.add(SignOffRow(id=new.id, job_id=job_id, by=by, changes=new.changes, note=new.note, covers=covers))
    announce(session, job_id, "run")
    return True


def _covered(session: Session, job: JobRow) -> str:
    """Everything of a job that counts as it stands, in words."""
    readings, captures = (
        session.exec(select(func.count()).where(table.job_id == job.id, col(table.struck).is_(None))).one()
        for table in (ReadingRow, CaptureRow)
    )
    attached = session.exec(
        select(func.count()).where(
            CaptureRow.job_id == job.id, col(CaptureRow.struck).is_(None), col(CaptureRow.reading_id).is_not(None)
        )
    ).one()
    told = f"version {job.version}, {_counted(readings, 'reading')}, {_counted(captures, 'recording')}"
    return f"{told}, {attached} of them attached" if captures else told


def _counted(number: int, what: str) -> str:
    return f"{number} {what}{'' if number == 1 else 's'}"
