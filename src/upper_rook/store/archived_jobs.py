"""A whole job out of the database and into one."""

from collections.abc import Callable, Iterable
from datetime import datetime
from enum import StrEnum
from typing import NamedTuple
from uuid import UUID

from sqlalchemy import func, insert, update
from sqlmodel import Session, col, select

from upper_rook import __version__
from upper_rook.core.common.changes import Change
from upper_rook.core.common.units import Frozen
from upper_rook.core.run.readings.archived_job import FORMAT, ArchivedCapture, ArchivedJob, ArchivedSheet, file_place
from upper_rook.core.run.readings.photos import Photo
from upper_rook.core.run.readings.records import Mark, Reading
from upper_rook.store import signing
from upper_rook.store.announcements import touch
from upper_rook.store.benches import bench_state
from upper_rook.store.captures import capture_of, keep_file
from upper_rook.store.jobs import Job, get_job, need_job, sheet_of, shown_of
from upper_rook.store.photos import add_photo, list_photos
from upper_rook.store.record_keeping import columns_of
from upper_rook.store.records import Records
from upper_rook.store.tables import BenchRow, CaptureRow, JobRow, MarkRow, PhotoRow, ReadingRow, SheetRow, TakenInRow


def archived(session: Session, job_id: UUID, kept: Records) -> ArchivedJob:
    """Everything of a job with its records `kept`, but for the files themselves. Raises NotFound."""
    need_job(session, job_id)
    job = session.get_one(JobRow, job_id)
    sheets = session.exec(select(SheetRow).where(SheetRow.job_id == job_id).order_by(col(SheetRow.version)))
    captures = session.exec(select(CaptureRow).where(CaptureRow.job_id == job_id).order_by(col(CaptureRow.arrival)))
    # Each part was checked when it was read.
    return ArchivedJob.model_construct(
        format=FORMAT,
        app=__version__,
        id=job_id,
        created_at=job.created_at,
        sheets=tuple(
            ArchivedSheet(
                version=row.version,
                sheet=sheet_of(session, row.sheet),
                changes=tuple(Change.model_validate(change) for change in row.changes),
                by=row.by,
                saved_at=row.saved_at,
            )
            for row in sheets
        ),
        readings=kept.readings,
        marks=kept.marks,
        captures=tuple(_capture(row) for row in captures),
        photos=tuple(list_photos(session, job_id)),
        bench=bench_state(session, job_id),
    )


def _capture(row: CaptureRow) -> ArchivedCapture:
    capture = capture_of(row)
    return ArchivedCapture(**dict(capture), file=file_place(capture), digest=row.digest)


def hold(session: Session, job_id: UUID) -> None:
    """Has whoever takes in the same job wait for this transaction."""
    session.execute(select(func.pg_advisory_xact_lock(func.hashtextextended(str(job_id), 0))))


def became(session: Session, sending: UUID) -> UUID | None:
    """The job that the archive of a sending became; None where it didn't arrive."""
    found = session.get(TakenInRow, sending)
    return found.job_id if found else None


class SignedBy(StrEnum):
    """Signer of a file that a job came from."""

    HERE = "here"
    """This installation: nothing in it was changed since."""
    ELSEWHERE = "elsewhere"
    """Another one."""
    NOBODY = "nobody"
    """It has no signature: anybody may have written it."""


class Origin(Frozen):
    """The file that a job came from: what is in it up to here is as the file says, names and dates included."""

    at: datetime
    by: str
    """Person who brought it in."""
    records: int
    """Arrival of the last record that came with it."""
    versions: int
    """Versions of the sheet that came with it."""
    signed: SignedBy
    signer: str
    """Fingerprint of the key that signed it; empty without a signature."""


def note(session: Session, sending: UUID, job_id: UUID, by: str, signer: bytes | None = None) -> None:
    """Keeps the job that the archive of a sending became, and who brought it in; within the transaction that did."""
    numbered = (ReadingRow, MarkRow, CaptureRow, PhotoRow)
    last = [session.exec(select(func.max(table.arrival)).where(table.job_id == job_id)).one() for table in numbered]
    versions = session.exec(select(func.max(SheetRow.version)).where(SheetRow.job_id == job_id)).one()
    records = max(number or 0 for number in last)
    taken = TakenInRow(sending=sending, job_id=job_id, by=by, records=records, versions=versions or 0, signer=signer)
    session.add(taken)


def origin(session: Session, job_id: UUID) -> Origin | None:
    """The file that a job came from; None for one that was begun here."""
    row = session.exec(select(TakenInRow).where(TakenInRow.job_id == job_id)).first()
    if row is None:
        return None
    return Origin(
        at=row.at,
        by=row.by,
        records=row.records,
        versions=row.versions,
        signed=_signed_by(session, row.signer),
        signer=signing.fingerprint(row.signer) if row.signer else "",
    )


def _signed_by(session: Session, signer: bytes | None) -> SignedBy:
    if signer is None:
        return SignedBy.NOBODY
    return SignedBy.HERE if signing.is_own(session, signer) else SignedBy.ELSEWHERE


def is_taken(session: Session, job: ArchivedJob) -> bool:
    """Whether the job, or anything in it, is in this database already."""
    if session.get(JobRow, job.id) is not None:
        return True
    ids = job.record_ids
    return any(
        session.exec(select(table.id).where(col(table.id).in_(ids)).limit(1)).first() is not None
        for table in (ReadingRow, MarkRow, CaptureRow, PhotoRow)
    )


class FilesOf(NamedTuple):
    """The files that come with a job."""

    capture: Callable[[ArchivedCapture], Iterable[bytes]]
    """A capture's file, piece by piece."""
    photo: Callable[[Photo], tuple[bytes, bytes]]
    """A photo's file and its small copy."""


def put(session: Session, job: ArchivedJob, files: FilesOf) -> Job:
    """Keeps a whole job that isn't there yet, with its files."""
    newest = job.sheets[-1]
    session.add(
        JobRow(
            id=job.id,
            version=newest.version,
            created_at=job.created_at,
            changed_at=newest.saved_at,
        )
    )
    session.flush()
    session.execute(update(JobRow).where(col(JobRow.id) == job.id).values(**shown_of(newest.sheet)))
    session.execute(insert(SheetRow), [_sheet_row(job.id, sheet) for sheet in job.sheets])
    # In the order in which they came: the database numbers them anew.
    records: list[Reading | Mark] = [*job.readings, *job.marks]
    for record in sorted(records, key=lambda record: record.arrival):
        table = MarkRow if isinstance(record, Mark) else ReadingRow
        session.execute(insert(table).values(columns_of(record) | {"job_id": job.id}))
    for capture in job.captures:
        plain = capture.model_dump(mode="json", exclude={"file"})
        ids = {name: getattr(capture, name) for name in ("id", "device", "reading_id", "taken_at")}
        session.execute(insert(CaptureRow).values(plain | ids | {"job_id": job.id}))
        keep_file(session, capture.id, files.capture(capture))
    for photo in job.photos:
        add_photo(session, job.id, photo, *files.photo(photo))
    if job.bench is not None:
        session.add(BenchRow(job_id=job.id, state=job.bench))
    touch(session, job.id, "all")
    session.flush()
    session.expire_all()
    return get_job(session, job.id)


def _sheet_row(job_id: UUID, other: ArchivedSheet) -> dict[str, object]:
    return other.model_dump(mode="json") | {"job_id": job_id, "saved_at": other.saved_at}
