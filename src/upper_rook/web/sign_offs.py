"""Sign-offs of a job."""

from uuid import UUID

from fastapi import APIRouter

from upper_rook.desk import sign_offs as desk
from upper_rook.store import sign_offs
from upper_rook.store.sign_offs import NewSignOff, SignOffs
from upper_rook.web import acts
from upper_rook.web.access import Here, Store, by_of
from upper_rook.web.problems import responses

router = APIRouter(prefix="/api/jobs", tags=["run"], dependencies=[acts.SIGN_OFF])


@router.get("/{job_id}/sign-offs", responses=responses(404))
def list_sign_offs(store: Store, job_id: UUID) -> SignOffs:
    """Person who signed a job off, and whether the sign-off still holds."""
    with store() as session:
        return sign_offs.of_job(session, job_id)


@router.post("/{job_id}/sign-offs", status_code=201, responses=responses(404, 409))
def sign_off(store: Store, who: Here, job_id: UUID, new: NewSignOff) -> SignOffs:
    """Signs a job off as it was seen."""
    with store() as session:
        return desk.sign_off(session, job_id, new, by_of(who, new.by))
