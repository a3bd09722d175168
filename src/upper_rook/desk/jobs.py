"""Beginning a job, saving its sheet, putting it away."""

from datetime import UTC, datetime, timedelta
from uuid import UUID

from sqlmodel import Session

from upper_rook.core.common.units import LONGEST_NAME
from upper_rook.core.system.chain import line_output_pair
from upper_rook.core.system.confirmation import counting, of_new_parts, standing
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.desk.transaction import transaction
from upper_rook.store import jobs
from upper_rook.store.jobs import Job

DAYS_IN_BIN = 30


def begin(session: Session, job_id: UUID, vehicle: str, note: str, by: str = "") -> Job:
    """A new job under the id its sender chose, with middling parts to be edited; begun twice it begins once."""
    chain = line_output_pair()
    sheet = JobSheet(vehicle=vehicle, note=note, chain=chain, not_confirmed=counting(chain))
    return begin_with(session, job_id, sheet, by)


def begin_with(session: Session, job_id: UUID, sheet: JobSheet, by: str = "") -> Job:
    """A new job with a sheet that there is already: a file's, a layout's."""
    with transaction(session):
        return jobs.create_job(session, job_id, sheet, by)


def save_sheet(session: Session, job_id: UUID, base_version: int, sheet: JobSheet, by: str = "") -> Job:
    """
    A new version of a job's sheet; what a new part began with is marked as not confirmed.

    Raises NotFound, or SheetConflict unless `base_version` is the newest.
    """
    with transaction(session):
        before = jobs.get_job(session, job_id).sheet
        marks = (*sheet.not_confirmed, *of_new_parts(before.chain, sheet.chain))
        sheet = sheet.model_copy(update={"not_confirmed": standing(marks, sheet.chain)})
        return jobs.save_sheet(session, job_id, base_version, sheet, by)


def archive(session: Session, job_id: UUID, archived: bool) -> Job:
    """Puts a job among the archived ones, or back. Raises NotFound."""
    with transaction(session):
        return jobs.set_shelf(session, job_id, "archived_at", archived)


def delete(session: Session, job_id: UUID, deleted: bool) -> Job:
    """Puts a job into the bin, where it stays for DAYS_IN_BIN days, or takes it out. Raises NotFound."""
    with transaction(session):
        return jobs.set_shelf(session, job_id, "deleted_at", deleted)


def empty_bin(session: Session) -> int:
    """Does away with the jobs that have been in the bin for DAYS_IN_BIN days; gives how many."""
    with transaction(session):
        return jobs.purge(session, datetime.now(UTC) - timedelta(days=DAYS_IN_BIN))


def duplicate(session: Session, job_id: UUID, new_id: UUID, by: str = "") -> Job:
    """
    A new job with the sheet of another as it is now; nothing that was measured goes along.

    Raises NotFound, and Conflict when another job was begun under the new id.
    """
    with transaction(session):
        sheet = jobs.get_job(session, job_id).sheet
        copy = sheet.model_copy(update={"vehicle": f"{sheet.vehicle or 'Unnamed vehicle'} (copy)"[:LONGEST_NAME]})
        return jobs.create_job(session, new_id, copy, by)
