"""Beginning a job, saving its sheet, putting it away."""

from collections.abc import Callable
from datetime import UTC, datetime
from typing import NamedTuple
from uuid import UUID

from sqlmodel import Session

from upper_rook.core.common.errors import BadInput
from upper_rook.core.common.units import LONGEST_NAME
from upper_rook.core.sources.for_a_job import source_for_job
from upper_rook.core.system.chain import line_output_pair
from upper_rook.core.system.confirmation import counting, of_new_parts, standing
from upper_rook.core.system.job_sheet import JobSheet, alone
from upper_rook.core.system.layouts import template
from upper_rook.desk import source_sheets
from upper_rook.desk.transaction import transaction
from upper_rook.store import jobs, source_library, trail
from upper_rook.store.jobs import Job
from upper_rook.store.trail import NOBODY, Act, By

DAYS_IN_BIN = 30


class FromLibrary(NamedTuple):
    """A source sheet of the library, and which of its units; None for the one measured last."""

    sheet: UUID
    unit: str | None = None


def begin(
    session: Session,
    job_id: UUID,
    vehicle: str,
    note: str,
    by: str = "",
    *,
    layout: str | None = None,
    source: FromLibrary | None = None,
    practice: bool = False,
) -> Job:
    """
    A new job under the id its sender chose, with a layout's middling parts to be edited; begun twice it begins once.

    Without a layout it begins with a front pair. With a `source` of the library that takes the place of its first.
    Raises BadInput for a layout that isn't there, NotFound for such a source.
    """
    chain = line_output_pair() if layout is None else template(layout).chain
    sheet = JobSheet(practice=practice, vehicle=vehicle, note=note, chain=chain, not_confirmed=counting(chain))
    if source is not None:
        first = chain.feeding()[0].id
        sheet = source_sheets.into_job(session, source.sheet, sheet, first, source.unit)
    return begin_with(session, job_id, sheet, by)


def begin_alone(
    session: Session, job_id: UUID, unit: str, sheet_id: UUID | None, by: str = "", *, practice: bool = False
) -> Job:
    """
    A new job about one unit of a source of the library on its own: everything of it is to be measured anew.

    Raises BadInput without a source, NotFound where the library hasn't got it.
    """
    if sheet_id is None:
        raise BadInput("Choose the source in the library, or create it there.", "source_sheet")
    known = source_for_job(source_library.get_source(session, sheet_id).sheet, "source")
    return begin_with(session, job_id, alone(known, unit).model_copy(update={"practice": practice}), by)


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


def delete(session: Session, job_id: UUID, deleted: bool, by: By = NOBODY) -> Job:
    """Puts a job into the bin, where it stays for DAYS_IN_BIN days, or takes it out. Raises NotFound."""
    with transaction(session):
        trail.note(session, by, Act.JOB_DELETED if deleted else Act.JOB_BACK, str(job_id))
        return jobs.set_shelf(session, job_id, "deleted_at", deleted)


def empty_bin(session: Session, back_up: Callable[[], object]) -> int:
    """
    Does away with the jobs that have been in the bin for DAYS_IN_BIN days on which the app ran; gives how many.

    Everything is backed up before; without a backup nothing goes.
    """
    with transaction(session):
        jobs.note_running(session, datetime.now(UTC).date())
        due = jobs.long_in_bin(session, DAYS_IN_BIN)
    if not due:
        return 0
    back_up()
    with transaction(session):
        # What was taken out of the bin meanwhile stays.
        gone = [job_id for job_id in jobs.long_in_bin(session, DAYS_IN_BIN) if job_id in due]
        jobs.purge(session, gone)
        trail.note(session, By("the app"), Act.BIN_EMPTIED, f"{len(gone)} for good: {', '.join(map(str, gone))}")
    return len(gone)


def duplicate(session: Session, job_id: UUID, new_id: UUID, by: str = "", *, practice: bool | None = None) -> Job:
    """
    A new job with the sheet of another as it is now; nothing that was measured goes along.

    It is practice if the other one is, where nothing else is said.

    Raises NotFound, and Conflict when another job was begun under the new id.
    """
    with transaction(session):
        sheet = jobs.get_job(session, job_id).sheet
        vehicle = f"{sheet.vehicle or 'Unnamed vehicle'} (copy)"[:LONGEST_NAME]
        kind = sheet.practice if practice is None else practice
        copy = sheet.model_copy(update={"vehicle": vehicle, "practice": kind})
        return jobs.create_job(session, new_id, copy, by)
