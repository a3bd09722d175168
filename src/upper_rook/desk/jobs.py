"""Beginning a job, saving its sheet, and how each stands."""

from uuid import UUID

from sqlmodel import Session

from upper_rook.core.common.units import Frozen
from upper_rook.core.run.progress import Run, run_of
from upper_rook.core.run.step import State
from upper_rook.core.system.chain import line_output_pair
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.desk.situations import situation_of
from upper_rook.desk.transaction import transaction
from upper_rook.store import jobs
from upper_rook.store.jobs import Job
from upper_rook.store.records import records_of


class JobSummary(Frozen):
    """A job in the list."""

    job: Job
    states: tuple[State, ...]
    """One per step, in order."""
    current: str
    """The step to go on with, in words."""
    complete: bool
    stale: bool


def begin(session: Session, job_id: UUID, vehicle: str, note: str, by: str = "") -> Job:
    """A new job under the id its sender chose, with middling parts to be edited; begun twice it begins once."""
    return begin_with(session, job_id, JobSheet(vehicle=vehicle, note=note, chain=line_output_pair()), by)


def begin_with(session: Session, job_id: UUID, sheet: JobSheet, by: str = "") -> Job:
    """A new job with a sheet that there is already: a file's, a layout's."""
    with transaction(session):
        return jobs.create_job(session, job_id, sheet, by)


def save_sheet(session: Session, job_id: UUID, base_version: int, sheet: JobSheet, by: str = "") -> Job:
    """A new version of a job's sheet. Raises NotFound, or SheetConflict unless `base_version` is the newest."""
    with transaction(session):
        return jobs.save_sheet(session, job_id, base_version, sheet, by)


def summaries(session: Session) -> list[JobSummary]:
    """Every job, the last touched first."""
    return [_summary(session, job) for job in jobs.list_jobs(session)]


def _summary(session: Session, job: Job) -> JobSummary:
    run = run_of(situation_of(session, job, records_of(session, job.id)))
    states = tuple(one.state for one in run.states)
    return JobSummary(job=job, states=states, current=_current(run), complete=run.complete, stale=State.STALE in states)


def _current(run: Run) -> str:
    """What to do next; a path that isn't planned yet waits until the rest is done."""
    if not run.redo and run.plan.lacking:
        return f"Fill in {run.plan.lacking[0].name}"
    return next(step.title for step in run.steps if step.key == run.current)
