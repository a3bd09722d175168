"""Photos of a job, with the two files of each."""

from collections.abc import Iterable
from datetime import UTC, datetime
from uuid import UUID

from sqlalchemy import func
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import Session, col, select

from upper_rook.core.common.errors import BadInput, Conflict, NotFound
from upper_rook.core.run.readings.photos import MOST_PHOTOS, Photo, PhotoChange
from upper_rook.store.announcements import announce
from upper_rook.store.jobs import need_job
from upper_rook.store.tables import JobRow, PhotoFileRow, PhotoRow

_STORE_ONLY = {"job_id", "saved_at"}


def list_photos(session: Session, job_id: UUID) -> list[Photo]:
    """Every photo of a job, in the order in which they came."""
    rows = session.exec(select(PhotoRow).where(PhotoRow.job_id == job_id).order_by(col(PhotoRow.arrival)))
    return [photo_of(row) for row in rows]


def get_photo(session: Session, job_id: UUID, photo_id: UUID) -> Photo:
    """One photo. Raises NotFound."""
    return photo_of(_row(session, job_id, photo_id))


def known_photo(session: Session, job_id: UUID, photo_id: UUID, sent_digest: str) -> Photo | None:
    """The photo already kept under this id, or None. Raises Conflict when it is another file or another job's."""
    kept = session.get(PhotoRow, photo_id)
    if kept is None:
        return None
    if kept.job_id != job_id or kept.sent_digest != sent_digest:
        raise Conflict("Another photo was already saved under this id: send the file again.", "id")
    return photo_of(kept)


def need_room(session: Session, job_id: UUID, photo_id: UUID) -> None:
    """
    Raises BadInput where a job has as many other photos as it may have, NotFound without such a job.

    Until the transaction ends nobody else adds one.
    """
    if session.exec(select(JobRow.id).where(JobRow.id == job_id).with_for_update()).first() is None:
        need_job(session, job_id)
    others = select(func.count()).select_from(PhotoRow).where(PhotoRow.job_id == job_id, PhotoRow.id != photo_id)
    count = session.exec(others).one()
    if count >= MOST_PHOTOS:
        raise BadInput(f"A job keeps {MOST_PHOTOS} photos: remove one first.", "photo")


def add_photo(session: Session, job_id: UUID, photo: Photo, full: bytes, small: bytes) -> Photo:
    """Keeps a photo with its files, in one transaction. Sent again it is returned as kept."""
    plain = photo.model_dump(mode="json", exclude={"arrival"}) | {
        "id": photo.id,
        "device": photo.device,
        "taken_at": photo.taken_at,
        "job_id": job_id,
        "saved_at": datetime.now(UTC),
    }
    row = insert(PhotoRow).values(plain).on_conflict_do_nothing(index_elements=["id"]).returning(col(PhotoRow.id))
    if not session.execute(row).first():
        # The same photo arrived twice at the same time.
        return known_photo(session, job_id, photo.id, photo.sent_digest) or photo
    session.execute(insert(PhotoFileRow).values(photo_id=photo.id, full=full, small=small))
    announce(session, job_id, "photos")
    return get_photo(session, job_id, photo.id)


def file_of(session: Session, photo_id: UUID, *, small: bool) -> bytes:
    """A photo's file. Raises NotFound."""
    column = col(PhotoFileRow.small if small else PhotoFileRow.full)
    data = session.exec(select(column).where(PhotoFileRow.photo_id == photo_id)).first()
    if data is None:
        raise NotFound("There is no such photo: reload the page.")
    return data


def small_files(session: Session, photo_ids: Iterable[UUID]) -> dict[UUID, bytes]:
    """The small files of several photos, by their ids."""
    rows = session.exec(
        select(PhotoFileRow.photo_id, PhotoFileRow.small).where(col(PhotoFileRow.photo_id).in_(list(photo_ids)))
    )
    return dict(rows.all())


def change_photo(session: Session, job_id: UUID, photo_id: UUID, change: PhotoChange) -> Photo:
    """Keeps caption, place and drawing. Raises NotFound; Conflict where somebody changed them meanwhile."""
    row = _row(session, job_id, photo_id, lock=True)
    if row.revision != change.revision:
        raise Conflict("Somebody changed this photo meanwhile: look at it again, then repeat your change.", "revision")
    row.name, row.part, row.step = change.name, change.part, change.step
    row.drawn = [mark.model_dump(mode="json") for mark in change.drawn]
    row.revision += 1
    session.add(row)
    announce(session, job_id, "photos")
    session.flush()
    return photo_of(row)


def remove_photo(session: Session, job_id: UUID, photo_id: UUID) -> None:
    """Deletes a photo and its files for good; one that is gone already is no error."""
    row = session.get(PhotoRow, photo_id)
    if row is None or row.job_id != job_id:
        return
    file = session.get(PhotoFileRow, photo_id)
    if file is not None:
        session.delete(file)
        session.flush()
    session.delete(row)
    announce(session, job_id, "photos")


def photo_of(row: PhotoRow) -> Photo:
    """A row as what it holds."""
    values = {name: getattr(row, name) for name in PhotoRow.model_fields if name not in _STORE_ONLY}
    return Photo.model_validate(values)


def _row(session: Session, job_id: UUID, photo_id: UUID, *, lock: bool = False) -> PhotoRow:
    row = session.get(PhotoRow, photo_id, with_for_update=lock)
    if row is None or row.job_id != job_id:
        raise NotFound("There is no such photo in this job: reload the page.")
    return row
