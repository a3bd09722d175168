"""The shop's library of source sheets: kept, searched, and put into the bin."""

from datetime import date, datetime
from typing import Any
from uuid import UUID

from pydantic import Field
from sqlalchemy import ColumnElement
from sqlmodel import Session, col

from upper_rook.core.common.units import Frozen, Volts
from upper_rook.core.sources.source_sheet import SourceSheet
from upper_rook.core.system.source import SourceKind
from upper_rook.store.library import LONGEST_SEARCH, Kept, Library
from upper_rook.store.tables import SourceSheetRow


class SourceEntry(Frozen):
    """A source in the list."""

    id: UUID
    version: int
    name: str
    kind: SourceKind
    least_v: float | None
    most_v: float | None
    units: int
    measured_on: date | None
    changed_at: datetime
    deleted_at: datetime | None


class KeptSource(Frozen):
    """A source sheet of the library."""

    id: UUID
    version: int
    sheet: SourceSheet
    changed_at: datetime
    deleted_at: datetime | None


class SourcesWanted(Frozen):
    """Filter of the sources to list."""

    search: str = Field(default="", max_length=LONGEST_SEARCH)
    """Words that all must be found."""
    kind: SourceKind | None = None
    from_v: Volts | None = None
    """Clean volts of its best output, at least."""
    to_v: Volts | None = None
    in_bin: bool = False


class SourcePage(Frozen):
    """Some sources, the last touched first."""

    sources: tuple[SourceEntry, ...]
    total: int
    after: str | None
    """Cursor for the next ones, or None at the end."""


def _columns(sheet: SourceSheet) -> dict[str, Any]:
    """Columns that the list shows of a sheet and finds it by."""
    cells = [cell for unit in sheet.units for cell in unit.cells if cell.clean_v is not None]
    lines = [cell for cell in cells if sheet.is_line(cell)] or cells
    volts = [line.clean_v for line in lines if line.clean_v is not None]
    names = (sheet.name, sheet.note, *(output.name for output in sheet.outputs), *(unit.name for unit in sheet.units))
    newest = sheet.unit()
    return {
        "name": sheet.name,
        "kind": sheet.kind.value,
        "words": " ".join(names),
        "least_v": min(volts, default=None),
        "most_v": max(volts, default=None),
        "units": len(sheet.units),
        "measured_on": newest.measured_on if newest else None,
    }


_LIBRARY = Library(SourceSheetRow, SourceSheet, _columns, "source")


def find(session: Session, wanted: SourcesWanted, after: str | None, limit: int) -> SourcePage:
    """One page. Raises BadInput for an `after` that this list never gave."""
    page = _LIBRARY.page(session, tuple(SourceEntry.model_fields), _conditions(wanted), after, limit)
    shown = tuple(SourceEntry.model_validate(dict(row)) for row in page.rows)
    return SourcePage(sources=shown, total=page.total, after=page.after)


def _conditions(wanted: SourcesWanted) -> list[ColumnElement[bool]]:
    found = _LIBRARY.conditions(wanted.search, in_bin=wanted.in_bin)
    if wanted.kind:
        found.append(col(SourceSheetRow.kind) == wanted.kind.value)
    if wanted.from_v is not None:
        found.append(col(SourceSheetRow.most_v) >= wanted.from_v)
    if wanted.to_v is not None:
        found.append(col(SourceSheetRow.least_v) <= wanted.to_v)
    return found


def get_source(session: Session, source_id: UUID) -> KeptSource:
    """One sheet. Raises NotFound."""
    return _kept(_LIBRARY.get(session, source_id))


def keep_new(session: Session, source_id: UUID, sheet: SourceSheet) -> KeptSource:
    """
    A sheet under the id its sender chose; sent again it is kept once.

    Raises Conflict when another sheet has this id.
    """
    return _kept(_LIBRARY.keep_new(session, source_id, sheet))


def save(session: Session, source_id: UUID, base_version: int, sheet: SourceSheet) -> KeptSource:
    """A sheet in place of its former version. Raises NotFound, or Conflict unless `base_version` is the newest."""
    return _kept(_LIBRARY.save(session, source_id, base_version, sheet))


def set_in_bin(session: Session, source_id: UUID, there: bool) -> KeptSource:
    """Puts a sheet into the bin, or takes it out; done twice it is done once. Raises NotFound."""
    return _kept(_LIBRARY.set_in_bin(session, source_id, there=there))


def _kept(kept: Kept[SourceSheet]) -> KeptSource:
    return KeptSource(**kept._asdict())
