"""Job files out and in, and a filter's true corner from readings."""

import json
from typing import Annotated, Any
from urllib.parse import quote
from uuid import UUID

from fastapi import APIRouter, Request, Response
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, ConfigDict, Field

from upper_rook.core.signal.filters import Pass
from upper_rook.core.signal.measured_corner import FilterReading, MeasuredCorner, measured_corner
from upper_rook.desk import jobs as desk
from upper_rook.formats.job_file import job_schema, read_job, write_job
from upper_rook.store import jobs
from upper_rook.store.jobs import Job
from upper_rook.web.access import Database
from upper_rook.web.problems import responses

router = APIRouter(prefix="/api", tags=["exchange"])

_JSON: dict[int | str, dict[str, Any]] = {200: {"content": {"application/json": {}}}}
_BODY = {"requestBody": {"required": True, "content": {"application/json": {"schema": {"type": "object"}}}}}


class CornerQuestion(BaseModel):
    """Readings of one filter, and its slope where that is known."""

    model_config = ConfigDict(extra="forbid")
    kind: Pass
    readings: Annotated[list[FilterReading], Field(min_length=1, max_length=20)]
    order: Annotated[int, Field(ge=1, le=8)] | None = None


@router.get("/jobs/{job_id}/file", response_class=Response, responses={**_JSON, **responses(404)})
def export_job(session: Database, job_id: UUID) -> Response:
    """The job's sheet as a job file."""
    sheet = jobs.get_job(session, job_id).sheet
    name = quote(f"{sheet.vehicle or 'job'}.json", safe="")
    return Response(
        write_job(sheet),
        media_type="application/json",
        headers={"Content-Disposition": f"attachment; filename*=UTF-8''{name}"},
    )


@router.post("/jobs/{job_id}/file", status_code=201, responses=responses(409), openapi_extra=_BODY)
async def import_job(request: Request, session: Database, job_id: UUID) -> Job:
    """Begins a job from a job file, under an id that its sender chose."""
    sheet = read_job(await request.body())
    return await run_in_threadpool(desk.begin_with, session, job_id, sheet)


@router.get("/job-file.schema.json", response_class=Response, responses=_JSON)
def get_schema() -> Response:
    """The JSON Schema of a job file."""
    return Response(json.dumps(job_schema(), indent=2, ensure_ascii=False), media_type="application/json")


@router.post("/corner", responses=responses())
def find_corner(question: CornerQuestion) -> MeasuredCorner:
    """Where a filter really is, from volts with it in and with it open."""
    return measured_corner(question.kind, question.readings, question.order)
