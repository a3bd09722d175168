"""The Plan, Run and Result screens: what to do, what was read, what it came to."""

from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict
from sqlmodel import Session

from upper_rook.core.common.errors import BadInput, NotFound
from upper_rook.core.metrology.meters import PROFILES, MeterProfile, profile
from upper_rook.core.plan.plan import Plan, plan
from upper_rook.core.run.progress import Run, ceiling_taken, progress
from upper_rook.core.run.records import Mark, NewMark, NewReading, Reading, Reason
from upper_rook.core.run.result import Result, result
from upper_rook.core.run.runsheet import CEILING, Step, run_sheet
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.store import jobs, records
from upper_rook.store.jobs import Job
from upper_rook.store.records import Records, records_of
from upper_rook.web.access import Database
from upper_rook.web.problems import responses

router = APIRouter(prefix="/api", tags=["run"])


class RunView(BaseModel):
    """A job's run with every record behind it."""

    job: Job
    run: Run
    readings: list[Reading]
    marks: list[Mark]


class Strike(BaseModel):
    """Why a record no longer counts."""

    model_config = ConfigDict(extra="forbid")
    reason: Reason


@router.get("/jobs/{job_id}/run", responses=responses(404))
def get_run(session: Database, job_id: UUID) -> RunView:
    """The plan, every step, its state, and every reading and mark."""
    job = jobs.get_job(session, job_id)
    return _view(job, records_of(session, job_id))


@router.post("/jobs/{job_id}/preview", responses=responses(404))
def preview(session: Database, job_id: UUID, sheet: JobSheet) -> Plan:
    """The plan that a sheet would have; nothing is saved."""
    jobs.get_job(session, job_id)
    kept = records.ceiling_records(session, job_id, CEILING)
    return plan(sheet, ceiling_taken(sheet.choices, kept.readings, kept.marks))


@router.post("/jobs/{job_id}/readings", status_code=201, responses=responses(404, 409))
def add_reading(session: Database, job_id: UUID, new: NewReading) -> Reading:
    """Keeps a reading; sending it twice keeps it once."""
    sheet = _sheet_at(session, job_id, new.sheet_version)
    step = _step(session, job_id, sheet, new.step)
    if step.tone is None:
        raise BadInput(f"“{step.title}” takes no readings: open a step that measures.", "step")
    top = max(source.top_volume for source in sheet.chain.sources)
    if new.volume > top:
        raise BadInput(f"Volume {new.volume} is outside the scale, which ends at {top}.", "volume")
    doubt = profile(new.instrument).uncertainty_v(new.voltage_v, step.tone.frequency_hz)
    reading = Reading(**new.model_dump(), uncertainty_v=doubt, tone=step.tone, settings=step.settings)
    return records.add_reading(session, job_id, reading)


@router.post("/jobs/{job_id}/marks", status_code=201, responses=responses(404, 409))
def add_mark(session: Database, job_id: UUID, new: NewMark) -> Mark:
    """Keeps an answer, a decision or a skip; sending it twice keeps it once."""
    step = _step(session, job_id, _sheet_at(session, job_id, new.sheet_version), new.step)
    if new.item is not None and new.item not in {item.key for item in step.items}:
        raise BadInput(f"“{step.title}” has no line “{new.item}”.", "item")
    if new.volume is not None and records.reading_at(session, job_id, step.key, new.volume) is None:
        raise BadInput(f"There is no reading at {new.volume} yet: take one there first.", "volume")
    return records.add_mark(session, job_id, Mark(**new.model_dump()))


@router.post("/jobs/{job_id}/records/{record_id}/strike", responses=responses(404))
def strike(session: Database, job_id: UUID, record_id: UUID, why: Strike) -> Reading | Mark:
    """Strikes out a reading or a mark; it stays in the record with the reason."""
    return records.strike(session, job_id, record_id, why.reason)


@router.get("/jobs/{job_id}/result", responses=responses(404))
def get_result(session: Database, job_id: UUID) -> Result:
    """The sheet: what was set, at which volume, what is open, skipped or guessed."""
    job = jobs.get_job(session, job_id)
    return result(job.sheet, _progress(job.sheet, records_of(session, job_id)))


@router.get("/instruments", responses=responses())
def list_instruments() -> list[MeterProfile]:
    """The meters a reading can come from, and what each can be trusted for."""
    return list(PROFILES)


def _progress(sheet: JobSheet, kept: Records) -> Run:
    return progress(sheet, kept.readings, kept.marks)


def _view(job: Job, kept: Records) -> RunView:
    return RunView(job=job, run=_progress(job.sheet, kept), readings=list(kept.readings), marks=list(kept.marks))


def _sheet_at(session: Session, job_id: UUID, version: int) -> JobSheet:
    """The sheet as it was when a record was taken, so that a late arrival keeps its settings."""
    try:
        return jobs.get_sheet(session, job_id, version)
    except NotFound:
        # The likelier reason is told first: there is no such job at all.
        jobs.get_job(session, job_id)
        raise


def _step(session: Session, job_id: UUID, sheet: JobSheet, key: str) -> Step:
    kept = records.ceiling_records(session, job_id, CEILING)
    ceiling = ceiling_taken(sheet.choices, kept.readings, kept.marks)
    for step in run_sheet(sheet, plan(sheet, ceiling), ceiling):
        if step.key == key:
            return step
    raise BadInput(f"There is no step “{key}” in this run: reload the page.", "step")
