"""Answering for a job."""

from uuid import UUID

from sqlmodel import Session

from upper_rook.desk.transaction import transaction
from upper_rook.store import sign_offs, trail
from upper_rook.store.sign_offs import NewSignOff, SignOffs
from upper_rook.store.trail import Act, By


def sign_off(session: Session, job_id: UUID, new: NewSignOff, by: By) -> SignOffs:
    """Keeps that somebody answers for a job as they saw it. Raises NotFound; Conflict where it changed since."""
    with transaction(session):
        if sign_offs.add(session, job_id, new, by.name):
            trail.note(session, by, Act.SIGNED_OFF, str(job_id))
    return sign_offs.of_job(session, job_id)
