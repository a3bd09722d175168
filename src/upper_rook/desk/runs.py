"""The plan, the run and the result of a job, worked out from what is stored."""

from uuid import UUID

from sqlmodel import Session

from upper_rook.core.common.units import Frozen
from upper_rook.core.plan.plan import Plan
from upper_rook.core.run.progress import Run, run_of
from upper_rook.core.run.records import Mark, Reading
from upper_rook.core.run.result import Result, result
from upper_rook.core.run.situation import Situation
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.desk.situations import situation_of
from upper_rook.store import jobs
from upper_rook.store.jobs import Job
from upper_rook.store.records import records_of, taking_records


class RunView(Frozen):
    """A job's run with every record behind it."""

    job: Job
    run: Run
    readings: tuple[Reading, ...]
    marks: tuple[Mark, ...]


def run_view(session: Session, job_id: UUID) -> RunView:
    """The plan, every step, its state, and every reading and mark. Raises NotFound."""
    job, kept = jobs.get_job(session, job_id), records_of(session, job_id)
    run = run_of(situation_of(session, job, kept))
    return RunView(job=job, run=run, readings=kept.readings, marks=kept.marks)


def result_of(session: Session, job_id: UUID) -> Result:
    """The sheet to hand over. Raises NotFound."""
    situation = situation_of(session, jobs.get_job(session, job_id), records_of(session, job_id))
    return result(situation, run_of(situation))


def preview(session: Session, job_id: UUID, sheet: JobSheet) -> Plan:
    """The plan that a sheet would have; nothing is saved. Raises NotFound."""
    jobs.get_job(session, job_id)
    kept = taking_records(session, job_id)
    return Situation(sheet=sheet, readings=kept.readings, marks=kept.marks).plan
