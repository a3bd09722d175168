"""Captures: kept with their files unchanged, struck out or put back at most, never deleted."""

from collections.abc import Iterable, Iterator
from datetime import UTC, datetime
from typing import Any, BinaryIO
from uuid import UUID

from sqlalchemy import Engine, Over, cast, func
from sqlalchemy import select as sa_select
from sqlalchemy.dialects.postgresql import JSONPATH, insert
from sqlmodel import Session, col, select

from upper_rook.core.common.errors import Conflict, NotFound
from upper_rook.core.judge.spectrum import SpectrumReport
from upper_rook.core.run.readings.kept_captures import Capture, CaptureEntry, ListedCapture, worst
from upper_rook.store.announcements import announce, touch
from upper_rook.store.tables import CapturePartRow, CaptureRow, ReadingRow

PART_BYTES = 1 << 20
_STORE_ONLY = {"job_id", "saved_at", "digest", "arrival"}


_WAVES = "$.channels[*] ? (!exists(@.sweep.verdict) && !exists(@.spectrum.carries)).report.verdict"


def list_captures(session: Session, job_id: UUID) -> list[ListedCapture]:
    """Every capture of a job, the newest first, without their verdicts."""
    verdicts = func.jsonb_path_query_array(col(CaptureRow.examination), cast(_WAVES, JSONPATH))
    query = (
        sa_select(
            *(getattr(CaptureRow, name) for name in CaptureEntry.model_fields),
            verdicts.label("verdicts"),
            _first_of_its_file(col(CaptureRow.id)).label("first"),
            _first_of_its_file(col(CaptureRow.name)).label("first_name"),
        )
        .where(col(CaptureRow.job_id) == job_id)
        .order_by(col(CaptureRow.arrival).desc())
    )
    return [_listed(dict(row)) for row in session.execute(query).mappings()]


def noises(session: Session, job_id: UUID) -> dict[UUID, SpectrumReport]:
    """The third octaves of every recording of noise that counts, by its id: of its first channel."""
    spectrum = col(CaptureRow.examination)["channels"][0]["spectrum"]
    query = sa_select(col(CaptureRow.id), spectrum).where(
        col(CaptureRow.job_id) == job_id, col(CaptureRow.struck).is_(None), spectrum["bands"].is_not(None)
    )
    return {key: SpectrumReport.model_validate(found) for key, found in session.execute(query)}


def _first_of_its_file(column: Any) -> Over[Any]:
    """Name in the capture that came first with the same file."""
    return func.first_value(column).over(partition_by=col(CaptureRow.digest), order_by=col(CaptureRow.arrival))


def _listed(row: dict[str, Any]) -> ListedCapture:
    verdicts, first, name = row.pop("verdicts"), row.pop("first"), row.pop("first_name")
    return ListedCapture(**row, verdict=worst(verdicts), same_as=None if first == row["id"] else name)


def same_file(session: Session, capture: Capture) -> str | None:
    """Name of the same file when it came to this job before this capture; None if it didn't."""
    own = session.get_one(CaptureRow, capture.id)
    query = (
        select(CaptureRow.name)
        .where(CaptureRow.job_id == own.job_id, CaptureRow.digest == own.digest, CaptureRow.arrival < own.arrival)
        .order_by(col(CaptureRow.arrival))
    )
    return session.exec(query).first()


def rename_capture(session: Session, job_id: UUID, capture_id: UUID, name: str) -> Capture:
    """Calls a capture something else. Raises NotFound."""
    row = _row(session, job_id, capture_id)
    row.name = name
    return _changed(session, row)


def get_capture(session: Session, job_id: UUID, capture_id: UUID) -> Capture:
    """One capture. Raises NotFound."""
    return capture_of(_row(session, job_id, capture_id))


def known_capture(session: Session, job_id: UUID, capture_id: UUID, digest: str) -> Capture | None:
    """The capture already kept under this id, or None. Raises Conflict when it is another file."""
    kept = session.get(CaptureRow, capture_id)
    if kept is None:
        return None
    if kept.job_id != job_id or kept.digest != digest:
        raise Conflict("Another capture was already saved under this id: drop the file again.", "id")
    return capture_of(kept)


def add_capture(session: Session, job_id: UUID, capture: Capture, digest: str, file: BinaryIO) -> Capture:
    """Keeps a capture with its file, in one transaction. Sent again it is returned as kept."""
    plain = capture.model_dump(mode="json")
    values = plain | {"taken_at": capture.taken_at, "id": capture.id, "device": capture.device}
    row = insert(CaptureRow).values(values | {"job_id": job_id, "digest": digest, "saved_at": datetime.now(UTC)})
    new = row.on_conflict_do_nothing(index_elements=["id"]).returning(col(CaptureRow.id))
    if not session.execute(new).first():
        # The same capture arrived twice at the same time.
        return known_capture(session, job_id, capture.id, digest) or capture
    keep_file(session, capture.id, iter(lambda: file.read(PART_BYTES), b""))
    announce(session, job_id, "captures")
    return capture


def keep_file(session: Session, capture_id: UUID, pieces: Iterable[bytes]) -> None:
    """Keeps a capture's file, piece by piece, so that a large one isn't held twice."""
    for number, data in enumerate(pieces):
        session.execute(insert(CapturePartRow).values(capture_id=capture_id, number=number, data=data))


def file_of(engine: Engine, capture_id: UUID) -> Iterator[bytes]:
    """The file as it came, piece by piece; a session of its own, since it outlives the request."""
    with Session(engine) as session:
        number = 0
        while part := session.get(CapturePartRow, (capture_id, number)):
            yield part.data
            session.expunge(part)
            number += 1


def attach(session: Session, job_id: UUID, capture_id: UUID, reading_id: UUID | None) -> Capture:
    """Attaches a capture to a reading of the same job, or to none. Raises NotFound."""
    row = _row(session, job_id, capture_id)
    if reading_id is not None:
        reading = session.get(ReadingRow, reading_id)
        if reading is None or reading.job_id != job_id:
            raise NotFound("There is no such reading in this job: reload the page.", "reading_id")
    row.reading_id = reading_id
    return _evidence_changed(session, row)


def strike_capture(session: Session, job_id: UUID, capture_id: UUID, reason: str) -> Capture:
    """Strikes a capture out; striking it again changes nothing. Raises NotFound."""
    row = _row(session, job_id, capture_id)
    row.struck = row.struck or reason
    return _evidence_changed(session, row)


def put_capture_back(session: Session, job_id: UUID, capture_id: UUID) -> Capture:
    """Has a capture count again. Raises NotFound."""
    row = _row(session, job_id, capture_id)
    row.struck = None
    return _evidence_changed(session, row)


def _evidence_changed(session: Session, row: CaptureRow) -> Capture:
    """The job changed with it: whoever signed it off answered for what it showed."""
    touch(session, row.job_id, "run")
    return _changed(session, row)


def _changed(session: Session, row: CaptureRow) -> Capture:
    session.add(row)
    announce(session, row.job_id, "captures")
    session.flush()
    return capture_of(row)


def _row(session: Session, job_id: UUID, capture_id: UUID) -> CaptureRow:
    row = session.get(CaptureRow, capture_id)
    if row is None or row.job_id != job_id:
        raise NotFound("There is no such capture in this job: reload the page.")
    return row


def capture_of(row: CaptureRow) -> Capture:
    """A row as what it holds."""
    values = {name: getattr(row, name) for name in CaptureRow.model_fields if name not in _STORE_ONLY}
    return Capture.model_validate(values)
