"""The Captures screen: files in, what each says, and the files out unchanged."""

from pathlib import Path
from typing import Annotated
from urllib.parse import quote
from uuid import UUID

from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import StreamingResponse
from pydantic import BaseModel, ConfigDict
from sqlalchemy.orm import sessionmaker
from sqlmodel import Session

from upper_rook.core.run.readings.kept_captures import Capture, CaptureKind, CaptureName, ListedCapture, NewCapture
from upper_rook.core.run.readings.records import Reading, Reason
from upper_rook.desk import captures as desk
from upper_rook.desk.captures import CaptureUse, CaptureView
from upper_rook.formats.capture_reader import LARGEST_BYTES
from upper_rook.store import captures, jobs
from upper_rook.web import acts, bodies
from upper_rook.web.access import Here, Store, by_of, name_of
from upper_rook.web.problems import responses
from upper_rook.web.uploads import received

router = APIRouter(prefix="/api/jobs/{job_id}/captures", tags=["captures"], dependencies=[acts.WORK])

_MEDIA = {
    CaptureKind.CSV: "text/csv",
    CaptureKind.VOLUME_STEPS: "text/csv",
    CaptureKind.WAV: "audio/wav",
    CaptureKind.BINARY: "application/octet-stream",
}


class Attachment(BaseModel):
    """The reading that a capture belongs to, or none."""

    model_config = ConfigDict(extra="forbid")
    reading_id: UUID | None


class CaptureStrike(BaseModel):
    """Why a capture no longer counts."""

    model_config = ConfigDict(extra="forbid")
    reason: Reason


class CaptureCalled(BaseModel):
    """Name of a capture."""

    model_config = ConfigDict(extra="forbid")
    name: CaptureName


@router.get("", responses=responses(404))
def list_captures(store: Store, job_id: UUID) -> list[ListedCapture]:
    """Every capture of a job, the newest first."""
    with store() as session:
        jobs.need_job(session, job_id)
        return captures.list_captures(session, job_id)


@router.post(
    "",
    status_code=201,
    responses=responses(404, 408, 409, 413, 507),
    openapi_extra=bodies.FILE,
    max_body_size=LARGEST_BYTES,
)
async def add_capture(
    request: Request, store: Store, who: Here, job_id: UUID, new: Annotated[NewCapture, Query()]
) -> Capture:
    """Judges a file and keeps it with the job; sending it twice keeps it once."""
    new = new.model_copy(update={"by": name_of(who, new.by)})
    await run_in_threadpool(_need_job, store, job_id)
    return await received(request, who, lambda file, digest: _keep(store, job_id, new, digest, file))


@router.get("/{capture_id}", responses=responses(404))
def get_capture(store: Store, job_id: UUID, capture_id: UUID) -> CaptureView:
    """One capture with its verdict."""
    with store() as session:
        return desk.capture_view(session, job_id, capture_id)


@router.get(
    "/{capture_id}/file",
    response_class=StreamingResponse,
    responses={200: {"content": {"application/octet-stream": {}}}, **responses(404)},
)
def get_file(request: Request, store: Store, job_id: UUID, capture_id: UUID) -> StreamingResponse:
    """The file as it came."""
    with store() as session:
        found = captures.get_capture(session, job_id, capture_id)
    headers = {"Content-Disposition": f"attachment; filename*=UTF-8''{quote(found.name, safe='')}"}
    pieces = captures.file_of(request.app.state.engine, capture_id)
    return StreamingResponse(pieces, media_type=_MEDIA[found.kind], headers=headers)


@router.put("/{capture_id}/reading", responses=responses(404))
def attach(store: Store, who: Here, job_id: UUID, capture_id: UUID, to: Attachment) -> CaptureView:
    """Attaches a capture to a reading of the job, or to none."""
    with store() as session:
        return desk.attach(session, job_id, capture_id, to.reading_id, by_of(who))


@router.post("/{capture_id}/readings", responses=responses(404, 422))
def use(store: Store, who: Here, job_id: UUID, capture_id: UUID, used: CaptureUse) -> list[Reading]:
    """Takes the readings that a recording answers for a step."""
    with store() as session:
        used = used.model_copy(update={"by": name_of(who, used.by)})
        return list(desk.use(session, job_id, capture_id, used))


@router.put("/{capture_id}/name", responses=responses(404))
def rename(store: Store, who: Here, job_id: UUID, capture_id: UUID, to: CaptureCalled) -> Capture:
    """Calls a capture something else; its file stays as it came."""
    with store() as session:
        return desk.rename(session, job_id, capture_id, to.name, by_of(who))


@router.post("/{capture_id}/strike", responses=responses(404))
def strike(store: Store, who: Here, job_id: UUID, capture_id: UUID, why: CaptureStrike) -> Capture:
    """Strikes a capture out; it stays with the job, with the reason."""
    with store() as session:
        return desk.strike(session, job_id, capture_id, why.reason, by_of(who))


@router.post("/{capture_id}/put-back", responses=responses(404))
def put_back(store: Store, who: Here, job_id: UUID, capture_id: UUID) -> Capture:
    """Has a capture that was struck out count again."""
    with store() as session:
        return desk.put_back(session, job_id, capture_id, by_of(who))


def _need_job(store: sessionmaker[Session], job_id: UUID) -> None:
    """Raises NotFound without such a job, before a file is received for it."""
    with store() as session:
        jobs.need_job(session, job_id)


def _keep(store: sessionmaker[Session], job_id: UUID, new: NewCapture, digest: str, file: Path) -> Capture:
    with store() as session:
        return desk.keep_capture(session, job_id, new, digest, file)
