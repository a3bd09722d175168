"""The Plan, Run and Result screens: what to do, what was read, what it came to."""

from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict

from upper_rook.core.errors import BadInput
from upper_rook.core.instruments import PROFILES, MeterProfile, profile
from upper_rook.core.progress import Run, progress
from upper_rook.core.records import Mark, NewMark, NewReading, Reading, Reason
from upper_rook.core.result import Result, result
from upper_rook.core.runsheet import Step
from upper_rook.store import jobs, records
from upper_rook.store.jobs import Job
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
    return _view(session, jobs.get_job(session, job_id))


@router.post("/jobs/{job_id}/readings", status_code=201, responses=responses(404, 409))
def add_reading(session: Database, job_id: UUID, new: NewReading) -> RunView:
    """Keeps a reading; sending it twice keeps it once."""
    job = jobs.get_job(session, job_id)
    step = _step(session, job, new.step, new.sheet_version)
    if step.tone is None:
        raise BadInput(f"“{step.title}” takes no readings: open a step that measures.", "step")
    sheet = jobs.get_sheet(session, job_id, new.sheet_version)
    top = max(source.top_volume for source in sheet.chain.sources)
    if new.volume > top:
        raise BadInput(f"Volume {new.volume} is outside the scale, which ends at {top}.", "volume")
    doubt = profile(new.instrument).uncertainty_v(new.voltage_v, step.tone.frequency_hz)
    records.add_reading(
        session,
        job_id,
        Reading(**new.model_dump(), uncertainty_v=doubt, tone=step.tone, settings=step.settings),
    )
    return _view(session, job)


@router.post("/jobs/{job_id}/marks", status_code=201, responses=responses(404, 409))
def add_mark(session: Database, job_id: UUID, new: NewMark) -> RunView:
    """Keeps an answer, a decision or a skip; sending it twice keeps it once."""
    job = jobs.get_job(session, job_id)
    step = _step(session, job, new.step, new.sheet_version)
    if new.item is not None and new.item not in {item.key for item in step.items}:
        raise BadInput(f"“{step.title}” has no line “{new.item}”.", "item")
    if new.basis is not None:
        _check_basis(session, job_id, step.key, new)
    records.add_mark(session, job_id, Mark(**new.model_dump()))
    return _view(session, job)


@router.post("/jobs/{job_id}/records/{record_id}/strike", responses=responses(404))
def strike(session: Database, job_id: UUID, record_id: UUID, why: Strike) -> RunView:
    """Strikes out a reading or a mark; it stays in the record with the reason."""
    job = jobs.get_job(session, job_id)
    records.strike(session, job_id, record_id, why.reason)
    return _view(session, job)


@router.get("/jobs/{job_id}/result", responses=responses(404))
def get_result(session: Database, job_id: UUID) -> Result:
    """The sheet: what was set, at which volume, what is open, skipped or guessed."""
    job = jobs.get_job(session, job_id)
    return result(job.sheet, _progress(session, job))


@router.get("/instruments", responses=responses())
def list_instruments() -> list[MeterProfile]:
    """The meters a reading can come from, and what each can be trusted for."""
    return list(PROFILES)


def _progress(session: Database, job: Job) -> Run:
    return progress(job.sheet, records.readings_of(session, job.id), records.marks_of(session, job.id))


def _view(session: Database, job: Job) -> RunView:
    readings, marks = records.readings_of(session, job.id), records.marks_of(session, job.id)
    return RunView(job=job, run=progress(job.sheet, readings, marks), readings=list(readings), marks=list(marks))


def _step(session: Database, job: Job, key: str, version: int) -> Step:
    """The step as it was under the version a record was taken under, so that a late arrival keeps its settings."""
    sheet = job.sheet if version == job.version else jobs.get_sheet(session, job.id, version)
    run = progress(sheet, records.readings_of(session, job.id), records.marks_of(session, job.id))
    for step in run.steps:
        if step.key == key:
            return step
    raise BadInput(f"There is no step “{key}” in this run: reload the page.", "step")


def _check_basis(session: Database, job_id: UUID, step: str, mark: NewMark) -> None:
    taken: list[Reading] = [one for one in records.readings_of(session, job_id) if one.step == step and not one.struck]
    if mark.volume not in {one.volume for one in taken}:
        raise BadInput(f"There is no reading at {mark.volume} yet: take one there first.", "volume")
