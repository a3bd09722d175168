"""The papers that leave with a vehicle."""

from datetime import UTC, datetime
from uuid import UUID

from sqlmodel import Session

from upper_rook.core.handover.document import Handover, Signature, Written, handover
from upper_rook.desk.runs import worked_out
from upper_rook.store import archived_jobs, customers, photos, sign_offs
from upper_rook.store.archived_jobs import Origin, SignedBy


def document_of(session: Session, job_id: UUID, *, shows_customer: bool = False) -> Handover:
    """The handover document of a job as it stands, with its customer or without. Raises NotFound."""
    job, snapshot, run, result = worked_out(session, job_id)
    signed = tuple(
        Signature(
            by=sign_off.by, day=sign_off.at.date(), note=sign_off.note, covers=sign_off.covers, stands=sign_off.stands
        )
        for sign_off in sign_offs.of_job(session, job_id).signed
    )
    today = datetime.now(UTC).astimezone().date()
    origin = archived_jobs.origin(session, job_id)
    brought_in, from_file = (_in_words(origin), origin.records) if origin else ("", 0)
    customer = customers.of_job(session, job_id).customer if shows_customer else None
    shot = tuple(photos.list_photos(session, job_id))
    written = Written(today, job.version, signed, customer, brought_in, from_file, shot)
    return handover(snapshot, run, result, written)


_SIGNED = {
    SignedBy.HERE: "which this installation signed",
    SignedBy.ELSEWHERE: "which another installation signed",
    SignedBy.NOBODY: "which nobody signed",
}


def _in_words(origin: Origin) -> str:
    by = f" by {origin.by}" if origin.by else ""
    key = f" (key {origin.signer})" if origin.signed is SignedBy.ELSEWHERE else ""
    return f"Brought in from a file on {origin.at.date().isoformat()}{by}, {_SIGNED[origin.signed]}{key}"
