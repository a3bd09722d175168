"""The Plan, Run and Result screens: what to do, what was read, what it came to."""

from uuid import UUID

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict

from upper_rook.core.metrology.meters import PROFILES, MeterProfile
from upper_rook.core.plan.plan import Plan
from upper_rook.core.run.records import Mark, NewMark, NewReading, Reading, Reason
from upper_rook.core.run.result import Result
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.desk import records, runs
from upper_rook.desk.runs import RunView
from upper_rook.web.access import Database
from upper_rook.web.problems import responses

router = APIRouter(prefix="/api", tags=["run"])


class Strike(BaseModel):
    """Why a record no longer counts."""

    model_config = ConfigDict(extra="forbid")
    reason: Reason


@router.get("/jobs/{job_id}/run", responses=responses(404))
def get_run(session: Database, job_id: UUID) -> RunView:
    """The plan, every step, its state, and every reading and mark."""
    return runs.run_view(session, job_id)


@router.post("/jobs/{job_id}/preview", responses=responses(404))
def preview(session: Database, job_id: UUID, sheet: JobSheet) -> Plan:
    """The plan that a sheet would have; nothing is saved."""
    return runs.preview(session, job_id, sheet)


@router.post("/jobs/{job_id}/readings", status_code=201, responses=responses(404, 409))
def add_reading(session: Database, job_id: UUID, new: NewReading) -> Reading:
    """Keeps a reading; sending it twice keeps it once."""
    return records.take_reading(session, job_id, new)


@router.post("/jobs/{job_id}/marks", status_code=201, responses=responses(404, 409))
def add_mark(session: Database, job_id: UUID, new: NewMark) -> Mark:
    """Keeps an answer, a decision or a skip; sending it twice keeps it once."""
    return records.say(session, job_id, new)


@router.post("/jobs/{job_id}/records/{record_id}/strike", responses=responses(404))
def strike(session: Database, job_id: UUID, record_id: UUID, why: Strike) -> Reading | Mark:
    """Strikes out a reading or a mark; it stays in the record with the reason."""
    return records.strike(session, job_id, record_id, why.reason)


@router.get("/jobs/{job_id}/result", responses=responses(404))
def get_result(session: Database, job_id: UUID) -> Result:
    """The sheet: what was set, at which volume, what is open, skipped or guessed."""
    return runs.result_of(session, job_id)


@router.get("/instruments", responses=responses())
def list_instruments() -> list[MeterProfile]:
    """The meters a reading can come from, and what each can be trusted for."""
    return list(PROFILES)
