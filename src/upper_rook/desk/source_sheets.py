"""Keeping source sheets, and letting what was measured in a vehicle flow back as another unit."""

from collections.abc import Sequence
from uuid import UUID

from sqlmodel import Session

from upper_rook.core.common.errors import BadInput, NotFound
from upper_rook.core.common.units import LONGEST_NAME, Frozen
from upper_rook.core.run.result.source_unit import sheet_of_source
from upper_rook.core.sources.for_a_job import source_for_job, with_source
from upper_rook.core.sources.source_report import SourceReport, report
from upper_rook.core.sources.source_sheet import SourceSheet
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.desk.job_snapshots import records_now, snapshot_of
from upper_rook.desk.transaction import transaction
from upper_rook.store import jobs, source_library
from upper_rook.store.source_library import KeptSource


class SourceView(Frozen):
    """A source sheet, and the report on a unit of it."""

    kept: KeptSource
    report: SourceReport


def keep_new(session: Session, source_id: UUID, sheet: SourceSheet) -> KeptSource:
    """Keeps a sheet under the id its sender chose. Raises Conflict when another one has it."""
    with transaction(session):
        return source_library.keep_new(session, source_id, sheet)


def save(session: Session, source_id: UUID, base_version: int, sheet: SourceSheet) -> KeptSource:
    """Keeps a sheet in place of its former version. Raises NotFound or Conflict."""
    with transaction(session):
        return source_library.save(session, source_id, base_version, sheet)


def set_in_bin(session: Session, source_id: UUID, there: bool) -> KeptSource:
    """Puts a sheet into the bin, or takes it out. Raises NotFound."""
    with transaction(session):
        return source_library.set_in_bin(session, source_id, there)


def view(session: Session, source_id: UUID, unit: str | None = None) -> SourceView:
    """A sheet and the report on a unit of it; without a unit the one measured last. Raises NotFound."""
    kept = source_library.get_source(session, source_id)
    return SourceView(kept=kept, report=report(kept.sheet, unit))


def from_job(session: Session, source_id: UUID, job_id: UUID, source: str) -> KeptSource:
    """
    Measurements of one of a job's sources, as a new sheet, or as another unit of the sheet that has this id.

    Raises NotFound before anything was measured, BadInput where the sheet is of another source or the job is practice.
    """
    with transaction(session):
        job = jobs.get_job(session, job_id)
        if job.sheet.practice:
            raise BadInput("This is practice: what was read in it is of no real unit.", "job_id")
        snapshot = snapshot_of(session, job, records_now(session, job_id))
        unit_id = f"job-{job_id.hex[:12]}"
        name = job.sheet.vehicle[:LONGEST_NAME]
        measured = sheet_of_source(snapshot, source, f"{unit_id}-{source}"[:40].rstrip("-"), name)
        try:
            kept = source_library.get_source(session, source_id)
        except NotFound:
            return source_library.keep_new(session, source_id, measured)
        return source_library.save(session, source_id, kept.version, _with_unit(kept.sheet, measured))


def into_job(session: Session, sheet_id: UUID, job: JobSheet, source: str, unit: str | None = None) -> JobSheet:
    """
    A job's sheet with a source of the library in place of its own of that id, counted with as another unit measured.

    Nobody has to confirm what the sheet says. Raises NotFound without that sheet, that unit or that source.
    """
    kept = source_library.get_source(session, sheet_id)
    if not any(other.id == source for other in job.chain.sources):
        raise NotFound("There is no such source in this job: reload the page.", "source")
    if unit is not None and kept.sheet.unit(unit) is None:
        raise NotFound("There is no such unit on that sheet: choose one of those listed.", "unit")
    chain = with_source(job.chain, source_for_job(kept.sheet, source, sheet_id, unit))
    marks = tuple(
        unconfirmed for unconfirmed in job.not_confirmed if not unconfirmed.place.startswith(f"sources.{source}.")
    )
    # Made anew: paths that now share an output have to fit together.
    return JobSheet.model_validate(job.model_copy(update={"chain": chain, "not_confirmed": marks}).model_dump())


def _with_unit(sheet: SourceSheet, measured: SourceSheet) -> SourceSheet:
    """The sheet with the unit that was measured; measured again it takes the former one's place."""
    if sheet.top_volume != measured.top_volume:
        raise BadInput(
            f"Its volume scale ends at {measured.top_volume}, the sheet’s at {sheet.top_volume}: it is another model "
            "or another version, so give it a sheet of its own.",
            "source",
        )
    known = {output.id for output in sheet.outputs}
    (unit,) = measured.units
    new = [output for output in measured.outputs if output.id not in known]
    others = [other for other in sheet.units if other.id != unit.id]
    return SourceSheet.model_validate(
        sheet.model_dump()
        | {"outputs": [*_plain(sheet.outputs), *_plain(new)], "units": [*_plain(others), *_plain([unit])]}
    )


def _plain(parts: Sequence[Frozen]) -> list[dict[str, object]]:
    return [part.model_dump() for part in parts]
