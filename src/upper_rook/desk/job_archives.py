"""A whole job out of this installation and into another."""

from typing import BinaryIO
from uuid import UUID

from psycopg import OperationalError
from pydantic import ValidationError
from sqlalchemy import Engine
from sqlalchemy.exc import DBAPIError
from sqlmodel import Session

from upper_rook.core.common.errors import BadInput
from upper_rook.desk.job_snapshots import records_now
from upper_rook.desk.transaction import transaction
from upper_rook.formats.job_archive import ReadArchive, renamed, write_archive
from upper_rook.formats.signature import signed
from upper_rook.instruments.simulated import BenchState
from upper_rook.store import archived_jobs, captures, jobs, photos, trail
from upper_rook.store.installation import installation_id
from upper_rook.store.jobs import Job
from upper_rook.store.signing import signing_key
from upper_rook.store.trail import NOBODY, Act, By


def write_job(session: Session, engine: Engine, job_id: UUID, to: BinaryIO) -> str:
    """Writes a job's archive to `to`; gives the vehicle. Raises NotFound."""
    job = archived_jobs.archived(session, job_id, records_now(session, job_id))
    installation, key = installation_id(session), signing_key(session)
    # A key that was made for it is kept.
    session.commit()
    # Reading the files may take long, and nobody is kept waiting by a transaction.
    write_archive(
        job,
        lambda capture: captures.file_of(engine, capture),
        to,
        lambda photo, small: photos.file_of(session, photo, small=small),
        lambda entries: signed(key, installation, entries),
    )
    return job.sheets[-1].sheet.vehicle


def take_in(session: Session, new_id: UUID, file: BinaryIO, by: By = NOBODY) -> Job:
    """
    Keeps a job from its archive: under its own id, or under `new_id` where something of it is here already.

    The archive has passed `check_archive`.

    A `new_id` is one sending: sent again, also at the same time, it gives the job that it became. Raises BadInput when
    it isn't a whole archive.
    """
    read = ReadArchive(file)
    if read.job.bench is not None:
        _check_bench(read.job.bench)
    try:
        with transaction(session):
            archived_jobs.hold(session, read.job.id)
            before = archived_jobs.became(session, new_id) or (new_id if jobs.has_job(session, new_id) else None)
            if before is not None:
                return jobs.get_job(session, before)
            job = renamed(read.job, new_id) if archived_jobs.is_taken(session, read.job) else read.job
            sent = {new.id: old for new, old in zip(job.captures, read.job.captures, strict=True)}
            shot = {new.id: old for new, old in zip(job.photos, read.job.photos, strict=True)}
            files = archived_jobs.FilesOf(
                lambda capture: read.pieces(sent[capture.id]), lambda photo: read.photo_files(shot[photo.id])
            )
            kept = archived_jobs.put(session, job, files)
            archived_jobs.note(session, new_id, kept.id, by.name, read.signer)
            origin = archived_jobs.origin(session, kept.id)
            trail.note(session, by, Act.BROUGHT_IN, f"{kept.id}, signed {origin.signed.value if origin else ''}")
            return kept
    except DBAPIError as error:
        if isinstance(error.orig, OperationalError):
            # The database, not the archive.
            raise
        raise BadInput("This job archive contains something that can’t be stored here.") from None


def _check_bench(state: object) -> None:
    try:
        BenchState.model_validate(state)
    except ValidationError:
        raise BadInput("The simulated bench in this job archive isn’t one of this version.", "bench") from None
