"""Job files out and in, a data sheet's text, and a filter's true corner from readings."""

import json
from pathlib import Path
from typing import Annotated, Any, BinaryIO, cast
from urllib.parse import quote
from uuid import UUID

from fastapi import APIRouter, Request, Response
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import FileResponse
from pydantic import BaseModel, ConfigDict, Field
from starlette.background import BackgroundTask

from upper_rook.core.signal.filters import Pass
from upper_rook.core.signal.measured_corner import FilterReading, MeasuredCorner, measured_corner
from upper_rook.core.system.amplifier_spec import AmplifierSpec, amplifier_spec
from upper_rook.core.system.loads import ImpedancePoint
from upper_rook.core.system.speaker_spec import SpeakerSpec, speaker_spec
from upper_rook.core.system.spec_lines import LONGEST_TEXT
from upper_rook.desk import job_archives
from upper_rook.desk import jobs as desk
from upper_rook.desk.archive_check import check_archive
from upper_rook.desk.scratch import scratch_file
from upper_rook.formats.impedance_csv import read_impedance
from upper_rook.formats.job_archive import LARGEST_ARCHIVE
from upper_rook.formats.job_file import job_schema, read_job, write_job
from upper_rook.store import jobs
from upper_rook.store.jobs import Job
from upper_rook.web import acts, bodies
from upper_rook.web.access import Here, Store, by_of, name_of, practice_of
from upper_rook.web.problems import responses
from upper_rook.web.uploads import received

router = APIRouter(prefix="/api", tags=["exchange"], dependencies=[acts.WORK])

_JSON: dict[int | str, dict[str, Any]] = {200: {"content": {"application/json": {}}}}


class CornerQuestion(BaseModel):
    """Readings of one filter, and its slope where that is known."""

    model_config = ConfigDict(extra="forbid")
    kind: Pass
    readings: Annotated[list[FilterReading], Field(min_length=1, max_length=20)]
    order: Annotated[int, Field(ge=1, le=8)] | None = None


@router.get("/jobs/{job_id}/file", response_class=Response, responses={**_JSON, **responses(404)})
def export_job(store: Store, job_id: UUID) -> Response:
    """The job's sheet as a job file."""
    with store() as session:
        sheet = jobs.get_job(session, job_id).sheet
        name = quote(f"{sheet.vehicle or 'job'}.json", safe="")
        return Response(
            write_job(sheet),
            media_type="application/json",
            headers={"Content-Disposition": f"attachment; filename*=UTF-8''{name}"},
        )


@router.post("/jobs/{job_id}/file", status_code=201, responses=responses(409), openapi_extra=bodies.DOCUMENT)
async def import_job(request: Request, store: Store, who: Here, job_id: UUID) -> Job:
    """Begins a job from a job file, under an id that its sender chose."""
    text = await request.body()

    def begin() -> Job:
        with store() as session:
            sheet = read_job(text)
            sheet = sheet.model_copy(update={"practice": practice_of(who, sheet.practice)})
            return desk.begin_with(session, job_id, sheet, name_of(who, ""))

    return await run_in_threadpool(begin)


@router.get(
    "/jobs/{job_id}/archive",
    response_class=FileResponse,
    responses={200: {"content": {"application/zip": {}}}, **responses(404)},
)
def export_archive(request: Request, store: Store, job_id: UUID) -> FileResponse:
    """The job with everything that belongs to it, as a zip file."""
    with scratch_file(delete=False) as file:
        try:
            with store() as session:
                vehicle = job_archives.write_job(session, request.app.state.engine, job_id, cast("BinaryIO", file))
        except BaseException:
            Path(file.name).unlink()
            raise
    return FileResponse(
        file.name,
        filename=f"{vehicle or 'job'}.zip",
        media_type="application/zip",
        background=BackgroundTask(Path(file.name).unlink),
    )


@router.post(
    "/archives",
    status_code=201,
    responses=responses(408, 409, 413, 507),
    openapi_extra=bodies.FILE,
    max_body_size=LARGEST_ARCHIVE,
)
async def import_archive(request: Request, store: Store, who: Here, new_id: UUID) -> Job:
    """Keeps a job from its archive: under its own id, or under `new_id` where something of it is here already."""

    def take_in(file: Path, _digest: str) -> Job:
        check_archive(file)
        with store() as session, file.open("rb") as archive:
            return job_archives.take_in(session, new_id, archive, by_of(who))

    return await received(request, who, take_in)


@router.get("/job-file.schema.json", response_class=Response, responses=_JSON)
def get_schema() -> Response:
    """The JSON Schema of a job file."""
    return Response(json.dumps(job_schema(), indent=2, ensure_ascii=False), media_type="application/json")


@router.post("/corner", responses=responses())
def find_corner(question: CornerQuestion) -> MeasuredCorner:
    """Where a filter really is, from volts with it in and with it open."""
    return measured_corner(question.kind, question.readings, question.order)


class SpecText(BaseModel):
    """Text of a data sheet, typed or pasted."""

    model_config = ConfigDict(extra="forbid")
    text: Annotated[str, Field(max_length=LONGEST_TEXT)]


@router.post("/spec-text/amplifier", responses=responses())
def read_amplifier_spec(sheet: SpecText) -> AmplifierSpec:
    """Figures of an amplifier in the text of its data sheet, to be confirmed; nothing is kept."""
    return amplifier_spec(sheet.text)


@router.post("/spec-text/speakers", responses=responses())
def read_speaker_spec(sheet: SpecText) -> SpeakerSpec:
    """Figures of a speaker in the text of its data sheet, to be confirmed; nothing is kept."""
    return speaker_spec(sheet.text)


@router.post("/impedance", responses=responses(), openapi_extra=bodies.TABLE)
async def read_curve(request: Request) -> tuple[ImpedancePoint, ...]:
    """An impedance curve of a speaker, from a table of hertz and ohms."""
    return await run_in_threadpool(read_impedance, await request.body())
