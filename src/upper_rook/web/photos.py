"""The photos of a job: in as they come, out as they are kept."""

from pathlib import Path
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query, Request, Response
from sqlalchemy.orm import sessionmaker
from sqlmodel import Session

from upper_rook.core.run.readings.photos import NewPhoto, Photo, PhotoChange
from upper_rook.desk import photos as desk
from upper_rook.formats.photo_file import LARGEST_PHOTO
from upper_rook.store import jobs, photos
from upper_rook.web import acts, bodies
from upper_rook.web.access import Here, Store, by_of, name_of
from upper_rook.web.problems import responses
from upper_rook.web.uploads import received

router = APIRouter(prefix="/api/jobs/{job_id}/photos", tags=["photos"], dependencies=[acts.WORK])


@router.get("", responses=responses(404))
def list_photos(store: Store, job_id: UUID) -> list[Photo]:
    """Every photo of a job, in the order in which they came."""
    with store() as session:
        jobs.need_job(session, job_id)
        return photos.list_photos(session, job_id)


@router.post(
    "",
    status_code=201,
    responses=responses(404, 408, 409, 413, 507),
    openapi_extra=bodies.FILE,
    max_body_size=LARGEST_PHOTO,
)
async def add_photo(
    request: Request, store: Store, who: Here, job_id: UUID, new: Annotated[NewPhoto, Query()]
) -> Photo:
    """Keeps a photo, resized and without what the camera wrote into it; sending it twice keeps it once."""
    new = new.model_copy(update={"by": name_of(who, new.by)})
    return await received(request, who, lambda file, digest: _keep(store, job_id, new, digest, file))


@router.get(
    "/{photo_id}/file", response_class=Response, responses={200: {"content": {"image/jpeg": {}}}, **responses(404)}
)
def get_file(store: Store, job_id: UUID, photo_id: UUID, *, small: bool = False) -> Response:
    """A photo as it is kept, or its small copy."""
    with store() as session:
        photos.get_photo(session, job_id, photo_id)
        return Response(photos.file_of(session, photo_id, small=small), media_type="image/jpeg")


@router.put("/{photo_id}", responses=responses(404, 409))
def change(store: Store, job_id: UUID, photo_id: UUID, wanted: PhotoChange) -> Photo:
    """Keeps a photo's caption, place and drawing."""
    with store() as session:
        return desk.change(session, job_id, photo_id, wanted)


@router.delete("/{photo_id}", status_code=204, responses=responses(404))
def remove(store: Store, who: Here, job_id: UUID, photo_id: UUID) -> None:
    """Deletes a photo for good."""
    with store() as session:
        desk.remove(session, job_id, photo_id, by_of(who))


def _keep(store: sessionmaker[Session], job_id: UUID, new: NewPhoto, digest: str, file: Path) -> Photo:
    with store() as session:
        return desk.keep_photo(session, job_id, new, digest, file)
