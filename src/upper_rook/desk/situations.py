"""A job as it stands, read from the store for the core."""

from uuid import UUID

from sqlmodel import Session

from upper_rook.core.common.errors import NotFound
from upper_rook.core.run.situation import History, Situation
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.store import jobs
from upper_rook.store.jobs import Job
from upper_rook.store.records import Records


def situation_of(session: Session, job: Job, kept: Records) -> Situation:
    """A job with its records, and with its sheet as it was in any version."""
    return Situation(sheet=job.sheet, readings=kept.readings, marks=kept.marks, history=_history(session, job.id, job))


def sheet_at(session: Session, job_id: UUID, version: int) -> JobSheet:
    """The sheet as it was when a record was taken. Raises NotFound."""
    try:
        return jobs.get_sheet(session, job_id, version)
    except NotFound:
        # The likelier reason is told first: there is no such job at all.
        jobs.get_job(session, job_id)
        raise


def _history(session: Session, job_id: UUID, newest: Job) -> History:
    versions = {newest.version: newest.sheet}

    def at(version: int) -> JobSheet:
        if version not in versions:
            versions[version] = jobs.get_sheet(session, job_id, version)
        return versions[version]

    return at
