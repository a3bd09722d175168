"""Keeping a photo, changing what is said and drawn on it, removing it."""

import hashlib
from pathlib import Path
from uuid import UUID

from sqlmodel import Session

from upper_rook.core.run.readings.photos import NewPhoto, Photo, PhotoChange
from upper_rook.desk.photo_cleaning import CLEANER
from upper_rook.desk.transaction import transaction
from upper_rook.store import jobs, photos, trail
from upper_rook.store.trail import NOBODY, Act, By


def keep_photo(session: Session, job_id: UUID, new: NewPhoto, digest: str, file: Path) -> Photo:
    """
    Keeps what is to be seen of a photo's file, and nothing else of it; sent twice it is kept once.

    Raises:
        NotFound: without such a job.
        BadInput: when it isn't a photo, or the job has as many as it may have.
        Conflict: when another photo has this id.
    """
    with transaction(session):
        kept = photos.known_photo(session, job_id, new.id, digest)
        if kept:
            return kept
        photos.need_room(session, job_id, new.id)
    # Between two transactions: reading it takes a second, and nobody waits for it.
    files = CLEANER.cleaned(file)
    photo = Photo(
        **new.model_dump(),
        width=files.width,
        height=files.height,
        size=len(files.full),
        digest=hashlib.sha256(files.full).hexdigest(),
        small_digest=hashlib.sha256(files.small).hexdigest(),
        sent_digest=digest,
    )
    with transaction(session):
        # Others may have come meanwhile.
        photos.need_room(session, job_id, new.id)
        return photos.add_photo(session, job_id, photo, files.full, files.small)


def change(session: Session, job_id: UUID, photo_id: UUID, wanted: PhotoChange) -> Photo:
    """Keeps caption, place and drawing. Raises NotFound and Conflict."""
    with transaction(session):
        return photos.change_photo(session, job_id, photo_id, wanted)


def remove(session: Session, job_id: UUID, photo_id: UUID, by: By = NOBODY) -> None:
    """Deletes a photo for good; the trail names it by its id. Raises NotFound without such a job."""
    with transaction(session):
        jobs.need_job(session, job_id)
        trail.note(session, by, Act.PHOTO_REMOVED, f"{job_id} {photo_id}")
        photos.remove_photo(session, job_id, photo_id)
