"""Customers of jobs, and the list of those who were taken out."""

from collections.abc import Mapping
from datetime import UTC, date, datetime
from uuid import UUID

from sqlalchemy import Connection, delete, inspect, text
from sqlalchemy import select as sa_select
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import Session, col, select

from upper_rook.core.common.errors import Conflict, NotFound
from upper_rook.core.common.units import Frozen
from upper_rook.core.customers.customer import Customer
from upper_rook.core.customers.due import Due
from upper_rook.store.announcements import announce
from upper_rook.store.jobs import no_such_job
from upper_rook.store.tables import CustomerRow, CustomerTakenOutRow, JobRow


class KeptCustomer(Frozen):
    """A job's customer as it is kept."""

    version: int
    """0 where nobody has been entered."""
    customer: Customer
    changed_at: datetime | None = None
    by: str = ""


def of_job(session: Session, job_id: UUID) -> KeptCustomer:
    """The customer of a job; an empty one where nobody has been entered. Raises NotFound without such a job."""
    if session.get(JobRow, job_id) is None:
        raise no_such_job()
    row = session.get(CustomerRow, job_id)
    return KeptCustomer(version=0, customer=Customer()) if row is None else _kept(row)


def keep(session: Session, job_id: UUID, base_version: int, customer: Customer, by: str) -> KeptCustomer:
    """
    Keeps a customer that was edited from a version.

    Raises NotFound without such a job, Conflict where somebody edited it since or the job is practice.
    """
    job = session.exec(select(JobRow).where(JobRow.id == job_id).with_for_update()).first()
    if job is None or job.deleted_at is not None:
        raise NotFound("There is no such job.")
    if job.practice:
        raise Conflict("A practice job has no customer.")
    row = session.get(CustomerRow, job_id)
    if (row.version if row else 0) != base_version:
        raise Conflict("Somebody changed the customer a moment ago: look at it again, then save.", "base_version")
    if row is None:
        row = CustomerRow(job_id=job_id, version=0, customer={}, words="", by="")
    row.customer, row.words = customer.model_dump(mode="json"), customer.words
    row.version, row.by, row.changed_at = base_version + 1, by, datetime.now(UTC)
    session.add(row)
    job.due_on = customer.due_on
    announce(session, job_id, "customer")
    session.flush()
    return _kept(row)


def take_out(session: Session, job_id: UUID) -> None:
    """Deletes a job's customer, and has every older backup's go when that is put back. Raises NotFound."""
    job = session.exec(select(JobRow).where(JobRow.id == job_id).with_for_update()).first()
    if job is None:
        raise no_such_job()
    session.execute(delete(CustomerRow).where(col(CustomerRow.job_id) == job_id))
    now = datetime.now(UTC)
    note = insert(CustomerTakenOutRow).values(job_id=job_id, at=now)
    session.execute(note.on_conflict_do_update(index_elements=["job_id"], set_={"at": now}))
    job.due_on = None
    announce(session, job_id, "customer")
    session.flush()


def due(session: Session, until: date | None = None) -> tuple[Due, ...]:
    """Jobs at hand that are due, the first due first."""
    rows = (
        sa_select(col(JobRow.id), col(JobRow.vehicle), col(JobRow.due_on))
        .where(col(JobRow.due_on).is_not(None), col(JobRow.deleted_at).is_(None), col(JobRow.archived_at).is_(None))
        .order_by(col(JobRow.due_on), col(JobRow.id))
    )
    if until is not None:
        rows = rows.where(col(JobRow.due_on) <= until)
    return tuple(Due(job=job, vehicle=vehicle, due_on=day) for job, vehicle, day in session.execute(rows) if day)


def taken_out(connection: Connection) -> Mapping[UUID, datetime]:
    """Jobs whose customer was taken out, and when; none in a database of an earlier schema."""
    if not inspect(connection).has_table("customer_taken_out"):
        return {}
    return {row.job_id: row.at for row in connection.execute(text("select job_id, at from customer_taken_out"))}


def take_out_again(connection: Connection, known: Mapping[UUID, datetime]) -> None:
    """
    Takes out of a database that was just restored what had been taken out since its backup.

    Both lists count: the backup's, and `known`, that of the database in whose place it is put.
    """
    if not inspect(connection).has_table("customer_taken_out"):
        return
    note = text(
        "insert into customer_taken_out (job_id, at) values (:job, :at)"
        " on conflict (job_id) do update set at = greatest(customer_taken_out.at, excluded.at)"
    )
    for job, at in known.items():
        connection.execute(note, {"job": job, "at": at})
    gone = "select job_id from customer_taken_out as t where t.job_id = customer.job_id and t.at >= customer.changed_at"
    connection.execute(text(f"delete from customer where exists ({gone})"))  # noqa: S608
    connection.execute(
        text("update job set due_on = null where due_on is not null and id not in (select job_id from customer)")
    )


def _kept(row: CustomerRow) -> KeptCustomer:
    return KeptCustomer(
        version=row.version, customer=Customer.model_validate(row.customer), changed_at=row.changed_at, by=row.by
    )
