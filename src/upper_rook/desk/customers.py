"""Entering a job's customer, and taking one out."""

from uuid import UUID

from sqlmodel import Session

from upper_rook.core.customers.customer import Customer
from upper_rook.desk.transaction import transaction
from upper_rook.store import customers, trail
from upper_rook.store.customers import KeptCustomer
from upper_rook.store.trail import Act, By


def keep(session: Session, job_id: UUID, base_version: int, customer: Customer, by: By) -> KeptCustomer:
    """Keeps a customer as edited from a version. Raises NotFound, Conflict."""
    with transaction(session):
        return customers.keep(session, job_id, base_version, customer, by.name)


def take_out(session: Session, job_id: UUID, by: By) -> None:
    """Takes a customer out, for good and out of what older backups bring back. The trail names only the job."""
    with transaction(session):
        customers.take_out(session, job_id)
        trail.note(session, by, Act.CUSTOMER_TAKEN_OUT, str(job_id))
