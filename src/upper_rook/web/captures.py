"""The Captures screen: files in, what each says, and the files out unchanged."""

import hashlib
from tempfile import SpooledTemporaryFile
from typing import Annotated, BinaryIO, cast
from urllib.parse import quote
from uuid import UUID

from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import StreamingResponse
from pydantic import BaseModel, ConfigDict
from sqlalchemy import Engine
from sqlmodel import Session
from starlette.exceptions import HTTPException
from starlette.requests import ClientDisconnect

from upper_rook.core.run.kept_captures import Capture, CaptureEntry, CaptureKind, NewCapture
from upper_rook.core.run.records import Reason
from upper_rook.desk import captures as desk
from upper_rook.desk.captures import CaptureView
from upper_rook.formats.capture_reader import LARGEST_BYTES
from upper_rook.store import captures, jobs
from upper_rook.web.access import Database
from upper_rook.web.problems import responses

router = APIRouter(prefix="/api/jobs/{job_id}/captures", tags=["captures"])

_IN_MEMORY_BYTES = 8_000_000
_MEDIA = {CaptureKind.CSV: "text/csv", CaptureKind.LADDER: "text/csv", CaptureKind.WAV: "audio/wav"}
_BODY = {"requestBody": {"required": True, "content": {"application/octet-stream": {"schema": {"type": "string"}}}}}


class Attachment(BaseModel):
    """The reading that a capture belongs to, or none."""

    model_config = ConfigDict(extra="forbid")
    reading_id: UUID | None


class CaptureStrike(BaseModel):
    """Why a capture no longer counts."""

    model_config = ConfigDict(extra="forbid")
    reason: Reason


@router.get("", responses=responses(404))
def list_captures(session: Database, job_id: UUID) -> list[CaptureEntry]:
    """Every capture of a job, the newest first."""
    jobs.get_job(session, job_id)
    return captures.list_captures(session, job_id)


@router.post("", status_code=201, responses=responses(404, 409, 413), openapi_extra=_BODY, max_body_size=LARGEST_BYTES)
async def add_capture(request: Request, job_id: UUID, new: Annotated[NewCapture, Query()]) -> Capture:
    """Judges a file and keeps it with the job; sending it twice keeps it once."""
    engine = request.app.state.engine
    await run_in_threadpool(desk.need_job, engine, job_id)
    with SpooledTemporaryFile(max_size=_IN_MEMORY_BYTES) as spooled:
        file = cast("BinaryIO", spooled)
        digest = await _receive(request, file)
        return await run_in_threadpool(_keep, engine, job_id, new, digest, file)


@router.get("/{capture_id}", responses=responses(404))
def get_capture(session: Database, job_id: UUID, capture_id: UUID) -> CaptureView:
    """One capture and all that it came to."""
    return desk.capture_view(session, job_id, capture_id)


@router.get(
    "/{capture_id}/file",
    response_class=StreamingResponse,
    responses={200: {"content": {"application/octet-stream": {}}}, **responses(404)},
)
def get_file(request: Request, session: Database, job_id: UUID, capture_id: UUID) -> StreamingResponse:
    """The file as it came."""
    found = captures.get_capture(session, job_id, capture_id)
    headers = {"Content-Disposition": f"attachment; filename*=UTF-8''{quote(found.name, safe='')}"}
    pieces = captures.file_of(request.app.state.engine, capture_id)
    return StreamingResponse(pieces, media_type=_MEDIA[found.kind], headers=headers)


@router.put("/{capture_id}/reading", responses=responses(404))
def attach(session: Database, job_id: UUID, capture_id: UUID, to: Attachment) -> CaptureView:
    """Attaches a capture to a reading of the job, or to none."""
    return desk.attach(session, job_id, capture_id, to.reading_id)


@router.post("/{capture_id}/strike", responses=responses(404))
def strike(session: Database, job_id: UUID, capture_id: UUID, why: CaptureStrike) -> Capture:
    """Strikes a capture out; it stays with the job, with the reason."""
    return desk.strike(session, job_id, capture_id, why.reason)


async def _receive(request: Request, file: BinaryIO) -> str:
    """Writes the body to `file` and gives its digest."""
    digest = hashlib.sha256()
    try:
        async for piece in request.stream():
            digest.update(piece)
            file.write(piece)
    except ClientDisconnect:
        raise HTTPException(400, "The file broke off.") from None
    return digest.hexdigest()


def _keep(engine: Engine, job_id: UUID, new: NewCapture, digest: str, file: BinaryIO) -> Capture:
    with Session(engine) as session:
        return desk.keep_capture(session, job_id, new, digest, file)
