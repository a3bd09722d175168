"""A job as it is, read from the store for the core."""

from dataclasses import dataclass
from uuid import UUID

from sqlmodel import Session

from upper_rook.core.common.errors import NotFound
from upper_rook.core.run.snapshot.job_snapshot import History, JobSnapshot
from upper_rook.core.run.steps import run_sheet
from upper_rook.core.run.steps.step import Step
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.desk.remembered import Remembered
from upper_rook.store import jobs
from upper_rook.store.jobs import Job
from upper_rook.store.records import Records, records_of, records_since


def snapshot_of(session: Session, job: Job, kept: Records) -> JobSnapshot:
    """A job with its records, and with its sheet as it was in any version."""
    return JobSnapshot(
        sheet=job.sheet, readings=kept.readings, marks=kept.marks, history=_history(session, job.id, job)
    )


@dataclass(frozen=True)
class Sheeted:
    """A version of a sheet and the steps that it asks for."""

    sheet: JobSheet
    steps: dict[str, Step]


# Two databases may hold the same job, so the key says which.
_versions: Remembered[tuple[object, UUID, int], Sheeted] = Remembered(64)
_records: Remembered[tuple[object, UUID], Records] = Remembered(16)


def records_now(session: Session, job_id: UUID) -> Records:
    """
    Every record of a job; of a job that was asked for lately only what is new is fetched.

    As long as nothing changes it is the same object.
    """
    key = (session.get_bind(), job_id)
    known = _records.get(key)
    now = records_since(session, job_id, known) if known else records_of(session, job_id)
    return now if now is known else _records.keep(key, now)


def sheeted(session: Session, job_id: UUID, version: int) -> Sheeted:
    """
    A version of a sheet with its steps; the latest that were asked for are remembered, since none ever changes.

    Raises NotFound.
    """

    def read() -> Sheeted:
        sheet = _sheet_at(session, job_id, version)
        return Sheeted(sheet, {step.key: step for step in run_sheet(JobSnapshot(sheet=sheet))})

    return _versions.once((session.get_bind(), job_id, version), read)


def _sheet_at(session: Session, job_id: UUID, version: int) -> JobSheet:
    try:
        return jobs.get_sheet(session, job_id, version)
    except NotFound:
        # The likelier reason is told first: there is no such job at all.
        jobs.need_job(session, job_id)
        raise


def _history(session: Session, job_id: UUID, newest: Job) -> History:
    versions = {newest.version: newest.sheet}

    def at(version: int) -> JobSheet:
        if version not in versions:
            versions[version] = jobs.get_sheet(session, job_id, version)
        return versions[version]

    return at
