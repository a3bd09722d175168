"""The handover document of a file: a job file, or an archive with its readings."""

import io
from datetime import UTC, datetime

from upper_rook.core.handover.document import Handover, Written, handover
from upper_rook.core.run.result.progress import run_of
from upper_rook.core.run.result.result import result
from upper_rook.core.run.snapshot.job_snapshot import JobSnapshot
from upper_rook.formats.job_archive import ReadArchive
from upper_rook.formats.job_file import read_job

_ZIP = b"PK\x03\x04"


def document_in(file: bytes) -> Handover:
    """The document of a file's job as it stands there. Raises BadInput."""
    if file.startswith(_ZIP):
        job = ReadArchive(io.BytesIO(file)).job
        sheets = {one.version: one.sheet for one in job.sheets}
        version = job.sheets[-1].version
        snapshot = JobSnapshot(sheets[version], job.readings, job.marks, sheets.__getitem__)
    else:
        version = 1
        snapshot = JobSnapshot(read_job(file))
    run = run_of(snapshot)
    return handover(snapshot, run, result(snapshot, run), Written(datetime.now(UTC).astimezone().date(), version))
