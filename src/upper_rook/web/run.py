"""The Plan, Run and Result screens: what to do, what was read, its result."""

from typing import Annotated
from urllib.parse import quote
from uuid import UUID

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, ConfigDict

from upper_rook.core.metrology.meters import PROFILES, MeterProfile
from upper_rook.core.plan.plan import Plan
from upper_rook.core.run.readings.records import Mark, NewMark, NewReading, Reading, Reason
from upper_rook.core.run.result.chapters import Chapter
from upper_rook.core.run.result.result import Result
from upper_rook.core.run.result.spectra import Spectra
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.desk import records, runs
from upper_rook.desk.runs import RunView
from upper_rook.store import jobs
from upper_rook.store.records import ReadingPage
from upper_rook.web import acts
from upper_rook.web.access import Here, Store, by_of, name_of
from upper_rook.web.problems import responses

router = APIRouter(prefix="/api", tags=["run"], dependencies=[acts.WORK])


class Strike(BaseModel):
    """Why a record no longer counts."""

    model_config = ConfigDict(extra="forbid")
    reason: Reason


@router.get("/jobs/{job_id}/run", responses=responses(404))
def get_run(store: Store, job_id: UUID) -> RunView:
    """The plan, every step, its state, and the newest readings and marks."""
    with store() as session:
        return runs.run_view(session, job_id)


@router.get("/jobs/{job_id}/readings", responses=responses(404))
def list_readings(
    store: Store,
    job_id: UUID,
    before: Annotated[int | None, Query(ge=1, le=2**53)] = None,
    limit: Annotated[int, Query(ge=1, le=500)] = 100,
) -> ReadingPage:
    """A page of the readings, the newest first, struck ones too; `before` is what the page before gave."""
    with store() as session:
        return runs.readings_page(session, job_id, before, limit)


@router.get("/jobs/{job_id}/readings.csv", response_class=Response, responses=responses(404))
def export_readings(store: Store, job_id: UUID) -> Response:
    """Every reading as a table (RFC 4180), with names and units."""
    with store() as session:
        vehicle = jobs.get_job(session, job_id).sheet.vehicle or "job"
        table = runs.readings_table_of(session, job_id)
    name = quote(f"{vehicle} readings.csv", safe="")
    headers = {"Content-Disposition": f"attachment; filename*=UTF-8''{name}"}
    return Response(table, media_type="text/csv; charset=utf-8", headers=headers)


@router.get("/jobs/{job_id}/spectra", responses=responses(404))
def get_spectra(store: Store, job_id: UUID) -> tuple[Spectra, ...]:
    """The recordings of noise that readings stand on, as third octaves: factory wires, groups in the cabin."""
    with store() as session:
        return runs.spectra_of(session, job_id)


@router.post("/jobs/{job_id}/preview", responses=responses(404), dependencies=[acts.LOOK])
def preview(store: Store, job_id: UUID, sheet: JobSheet) -> Plan:
    """The plan that a sheet would have; nothing is saved."""
    with store() as session:
        return runs.preview(session, job_id, sheet)


@router.post("/jobs/{job_id}/readings", status_code=201, responses=responses(404, 409))
def add_reading(store: Store, who: Here, job_id: UUID, new: NewReading) -> Reading:
    """Keeps a reading; sending it twice keeps it once."""
    with store() as session:
        return records.take_reading(session, job_id, new.model_copy(update={"by": name_of(who, new.by)}))


@router.post("/jobs/{job_id}/marks", status_code=201, responses=responses(404, 409))
def add_mark(store: Store, who: Here, job_id: UUID, new: NewMark) -> Mark:
    """Keeps an answer, a decision or a skip; sending it twice keeps it once."""
    with store() as session:
        return records.say(session, job_id, new.model_copy(update={"by": name_of(who, new.by)}))


@router.post("/jobs/{job_id}/records/{record_id}/strike", responses=responses(404))
def strike(store: Store, who: Here, job_id: UUID, record_id: UUID, why: Strike) -> Reading | Mark:
    """Strikes out a reading or a mark; it stays in the record with the reason."""
    with store() as session:
        return records.strike(session, job_id, record_id, why.reason, by_of(who))


@router.post("/jobs/{job_id}/records/{record_id}/put-back", responses=responses(404))
def put_back(store: Store, who: Here, job_id: UUID, record_id: UUID) -> Reading | Mark:
    """Has a reading or a mark that was struck out count again."""
    with store() as session:
        return records.put_back(session, job_id, record_id, by_of(who))


@router.get("/jobs/{job_id}/result", responses=responses(404))
def get_result(store: Store, job_id: UUID) -> Result:
    """The sheet: what was set, at which volume, what is open, skipped or guessed."""
    with store() as session:
        return runs.result_of(session, job_id)


@router.get("/jobs/{job_id}/chapters", responses=responses(404))
def get_chapters(store: Store, job_id: UUID) -> tuple[Chapter, ...]:
    """The first work and every visit since, each as it was left."""
    with store() as session:
        return runs.chapters_of(session, job_id)


@router.get("/instruments", responses=responses())
def list_instruments() -> list[MeterProfile]:
    """The meters a reading can come from, and what each can be trusted for."""
    return list(PROFILES)
