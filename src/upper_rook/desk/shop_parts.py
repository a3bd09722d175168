"""Keeping the parts of the shop, and letting what was measured in a vehicle flow back as another unit."""

from uuid import UUID

from sqlmodel import Session

from upper_rook.core.common.errors import BadInput, NotFound
from upper_rook.core.common.units import LONGEST_NAME, Frozen
from upper_rook.core.parts.for_a_job import LISTS, with_part
from upper_rook.core.parts.part_report import PartRow, UnitRow, part_report, unit_rows
from upper_rook.core.parts.shop_part import PartKind, PartUnit, ShopPart, with_unit
from upper_rook.core.parts.stated_figures import stated_figures
from upper_rook.core.run.result.part_figures import amplifier_figures
from upper_rook.core.system.job_sheet import JobSheet
from upper_rook.desk.runs import worked_out
from upper_rook.desk.transaction import transaction
from upper_rook.store import part_library
from upper_rook.store.part_library import KeptPart


class PartView(Frozen):
    """A part in words, and stated against measured over its units."""

    kept: KeptPart
    stated: tuple[str, ...]
    """Figures of its data sheet, a line each."""
    report: tuple[PartRow, ...]
    units: tuple[UnitRow, ...]


def view(session: Session, part_id: UUID) -> PartView:
    """A part with its report. Raises NotFound."""
    kept = part_library.get_part(session, part_id)
    part = kept.sheet
    return PartView(kept=kept, stated=stated_figures(part), report=part_report(part), units=unit_rows(part))


def keep_new(session: Session, part_id: UUID, part: ShopPart) -> KeptPart:
    """Keeps a part under the id its sender chose. Raises Conflict when another one has it."""
    with transaction(session):
        return part_library.keep_new(session, part_id, part)


def save(session: Session, part_id: UUID, base_version: int, part: ShopPart) -> KeptPart:
    """Keeps a part in place of its former version. Raises NotFound or Conflict."""
    with transaction(session):
        return part_library.save(session, part_id, base_version, part)


def set_in_bin(session: Session, part_id: UUID, *, there: bool) -> KeptPart:
    """Puts a part into the bin, or takes it out. Raises NotFound."""
    with transaction(session):
        return part_library.set_in_bin(session, part_id, there=there)


def from_job(session: Session, part_id: UUID, job_id: UUID, place: str) -> KeptPart:
    """
    A part of a job's system as a new one of the shop, or its measurements as another unit of the one with this id.

    Figures that the shop's part has by its data sheet stay. Raises NotFound without such a part in the job, BadInput
    for practice and for a part of another kind.
    """
    with transaction(session):
        job, snapshot, run, _ = worked_out(session, job_id)
        if job.sheet.practice:
            raise BadInput("This is practice: what was read in it is of no real unit.", "job_id")
        stated = _part_at(job.sheet, place)
        unit = None
        if stated.amplifier is not None:
            figures = amplifier_figures(snapshot, run, place.partition(".")[2])
            unit_id = f"job-{job_id.hex[:12]}-{place.partition('.')[2]}"[:40].rstrip("-")
            unit = PartUnit(id=unit_id, name=job.sheet.vehicle[:LONGEST_NAME], figures=figures) if figures else None
        try:
            kept = part_library.get_part(session, part_id)
        except NotFound:
            return part_library.keep_new(session, part_id, with_unit(stated, unit) if unit else stated)
        if kept.sheet.kind is not stated.kind:
            raise BadInput(f"That part of the shop is no {stated.kind.value}: choose another.", "place")
        if unit is None:
            raise BadInput("Nothing of this part was measured in this job yet.", "job_id")
        return part_library.save(session, part_id, kept.version, with_unit(kept.sheet, unit))


def into_job(session: Session, part_id: UUID, sheet: JobSheet, place: str) -> JobSheet:
    """A job's sheet with the shop's figures at a place. Raises NotFound and BadInput."""
    return with_part(sheet, place, part_library.get_part(session, part_id).sheet)


def _part_at(sheet: JobSheet, place: str) -> ShopPart:
    """A part of the system as one of the shop that nothing was measured of. Raises NotFound."""
    list_name, _, own = place.partition(".")
    kind = LISTS.get(list_name)
    part = next((part for part in getattr(sheet.chain, list_name) if part.id == own), None) if kind else None
    if kind is None or part is None:
        raise NotFound("There is no such part in this job: reload the page.", "place")
    if not part.name:
        raise BadInput("Give this part its name first: the shop finds it by that.", "place")
    field = {PartKind.AMPLIFIER: "amplifier", PartKind.PROCESSOR: "processor", PartKind.SPEAKERS: "speakers"}[kind]
    return ShopPart.model_validate({field: part.model_dump()})
