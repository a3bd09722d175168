"""The papers that leave with a vehicle."""

from datetime import UTC, datetime
from uuid import UUID

from sqlmodel import Session

from upper_rook.core.handover.document import Handover, Signature, Written, handover
from upper_rook.desk.runs import worked_out
from upper_rook.store import sign_offs


def document_of(session: Session, job_id: UUID) -> Handover:
    """The handover document of a job as it stands. Raises NotFound."""
    job, snapshot, run, result = worked_out(session, job_id)
    signed = tuple(
        Signature(by=one.by, day=one.at.date(), note=one.note, covers=one.covers, stands=one.stands)
        for one in sign_offs.of_job(session, job_id).signed
    )
    return handover(snapshot, run, result, Written(datetime.now(UTC).astimezone().date(), job.version, signed))
