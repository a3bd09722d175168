"""Customers of jobs, for those who may see them, and what is due, for everybody."""

from datetime import UTC, datetime
from uuid import UUID

from fastapi import APIRouter, Response
from pydantic import BaseModel, ConfigDict, Field
from sqlmodel import Session

from upper_rook.core.common.roles import practises
from upper_rook.core.common.units import Name
from upper_rook.core.customers.customer import Customer
from upper_rook.core.customers.due import Due
from upper_rook.desk import customers as desk
from upper_rook.desk.auth.sessions import Passing
from upper_rook.formats.calendar import due_calendar
from upper_rook.store import customers
from upper_rook.store.customers import KeptCustomer
from upper_rook.store.installation import installation_id
from upper_rook.web import acts
from upper_rook.web.access import Here, Store, by_of
from upper_rook.web.problems import responses

router = APIRouter(prefix="/api/jobs/{job_id}/customer", tags=["customers"], dependencies=[acts.CUSTOMERS])
due_router = APIRouter(prefix="/api/due", tags=["customers"], dependencies=[acts.LOOK])


class CustomerEdit(BaseModel):
    """A customer as it should be, and the version it was edited from."""

    model_config = ConfigDict(extra="forbid")
    base_version: int = Field(ge=0, le=2_000_000_000)
    customer: Customer
    by: Name = ""


@router.get("", responses=responses(404))
def get_customer(store: Store, job_id: UUID) -> KeptCustomer:
    """The customer of a job; an empty one where nobody has been entered."""
    with store() as session:
        return customers.of_job(session, job_id)


@router.put("", responses=responses(404, 409))
def save_customer(store: Store, who: Here, job_id: UUID, edit: CustomerEdit) -> KeptCustomer:
    """Keeps the customer of a job."""
    with store() as session:
        return desk.keep(session, job_id, edit.base_version, edit.customer, by_of(who, edit.by))


@router.delete("", status_code=204, responses=responses(404))
def take_customer_out(store: Store, who: Here, job_id: UUID) -> None:
    """Takes the customer of a job out for good."""
    with store() as session:
        desk.take_out(session, job_id, by_of(who))


@due_router.get("", responses=responses())
def list_due(store: Store, who: Here) -> list[Due]:
    """Vehicles that are due, the first due first; none for those who keep to practice."""
    with store() as session:
        return list(_due(session, who))


@due_router.get(".ics", response_class=Response, responses={200: {"content": {"text/calendar": {}}}, **responses()})
def get_calendar(store: Store, who: Here) -> Response:
    """The same as a calendar."""
    with store() as session:
        written = due_calendar(_due(session, who), installation_id(session), datetime.now(UTC))
    headers = {"Content-Disposition": 'attachment; filename="due.ics"'}
    return Response(written, media_type="text/calendar; charset=utf-8", headers=headers)


def _due(session: Session, who: Passing | None) -> tuple[Due, ...]:
    return () if who and practises(who.person.role) else customers.due(session)
