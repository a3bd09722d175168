"""A job as it stands, read from the store for the core."""

from collections import OrderedDict
from dataclasses import dataclass
from threading import Lock
from typing import TypeVar
from uuid import UUID

from sqlmodel import Session

from upper_rook.core.common.errors import NotFound
from upper_rook.core.run.job_snapshot import History, JobSnapshot
from upper_rook.core.run.step import Step
from upper_rook.core.run.steps import run_sheet
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.store import jobs
from upper_rook.store.jobs import Job
from upper_rook.store.records import Records, records_of, records_since

KeyT = TypeVar("KeyT")
ValueT = TypeVar("ValueT")


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


class _Remembered(OrderedDict[KeyT, ValueT]):
    """The latest few of something; whatever is in it can be had again."""

    def __init__(self, most: int) -> None:
        super().__init__()
        self._most, self._lock = most, Lock()

    def keep(self, key: KeyT, value: ValueT) -> ValueT:
        """Remembers it as the latest; requests do so side by side."""
        with self._lock:
            self[key] = value
            self.move_to_end(key)
            while len(self) > self._most:
                self.popitem(last=False)
        return value


# Two databases may hold the same job, so the key says which.
_versions: _Remembered[tuple[object, UUID, int], Sheeted] = _Remembered(64)
_records: _Remembered[tuple[object, UUID], Records] = _Remembered(16)


def records_now(session: Session, job_id: UUID) -> Records:
    """Every record of a job; of a job that was asked for lately only what is new is fetched."""
    key = (session.get_bind(), job_id)
    known = _records.get(key)
    return _records.keep(key, records_since(session, job_id, known) if known else records_of(session, job_id))


def sheeted(session: Session, job_id: UUID, version: int) -> Sheeted:
    """
    A version of a sheet with its steps; the latest that were asked for are remembered, since none ever changes.

    Raises NotFound.
    """
    key = (session.get_bind(), job_id, version)
    known = _versions.get(key)
    if known is None:
        sheet = _sheet_at(session, job_id, version)
        steps = {step.key: step for step in run_sheet(JobSnapshot(sheet=sheet))}
        known = _versions.keep(key, Sheeted(sheet, steps))
    return known


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
