"""The handover document of a file: a job file, or an archive with its readings."""

import io
from datetime import UTC, datetime
from typing import NamedTuple
from uuid import UUID

from upper_rook.core.handover.document import Handover, Written, handover
from upper_rook.core.run.result.progress import run_of
from upper_rook.core.run.result.result import result
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.formats.handover_html import MOST_ON_PAPER
from upper_rook.formats.job_archive import ReadArchive
from upper_rook.formats.job_file import read_job

_ZIP = b"PK\x03\x04"


class Papers(NamedTuple):
    """A file's document, and the small files of its photos by their ids."""

    document: Handover
    photos: dict[UUID, bytes]


def papers_in(file: bytes) -> Papers:
    """The document of a file's job as it stands there, with its photos. Raises BadInput."""
    today = datetime.now(UTC).astimezone().date()
    if not file.startswith(_ZIP):
        return Papers(_document(JobSnapshot(read_job(file)), Written(today, 1)), {})
    archive = ReadArchive(io.BytesIO(file))
    archive.look_at_photos()
    job = archive.job
    sheets = {sheet.version: sheet.sheet for sheet in job.sheets}
    version = job.sheets[-1].version
    snapshot = JobSnapshot(sheets[version], job.readings, job.marks, sheets.__getitem__)
    small = {photo.id: archive.photo_files(photo)[1] for photo in job.photos[:MOST_ON_PAPER]}
    return Papers(_document(snapshot, Written(today, version, photos=job.photos)), small)


def _document(snapshot: JobSnapshot, written: Written) -> Handover:
    run = run_of(snapshot)
    return handover(snapshot, run, result(snapshot, run), written)
